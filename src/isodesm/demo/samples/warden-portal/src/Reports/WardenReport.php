<?php

namespace Hollin\Portal\Reports;

/** Of a day's book: wardens on duty. */
final class WardenReport
{
    /** @param list<string> $lines */
    public function line(array $lines): string
    {
        return implode(', ', array_unique(array_map(fn ($line) => explode(' ', $line)[2] ?? '?', $lines)));
    }
}
