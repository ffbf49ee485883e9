<?php

namespace Hollin\Portal\Reports;

/** Of a day's book: closures of the day. */
final class ClosureReport
{
    /** @param list<string> $lines */
    public function line(array $lines): string
    {
        return count($lines) . ' closures';
    }
}
