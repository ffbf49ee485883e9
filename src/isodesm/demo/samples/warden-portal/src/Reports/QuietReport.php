<?php

namespace Hollin\Portal\Reports;

/** Of a day's book: whether nothing happened. */
final class QuietReport
{
    /** @param list<string> $lines */
    public function line(array $lines): string
    {
        return $lines === [] ? 'a quiet day' : 'not quiet';
    }
}
