<?php

namespace Hollin\Portal\Reports;

/** Of a day's book: the first closure. */
final class FirstReport
{
    /** @param list<string> $lines */
    public function line(array $lines): string
    {
        return $lines[0] ?? 'none';
    }
}
