<?php

namespace Hollin\Portal\Reports;

/** Of a day's book: closures before noon. */
final class MorningReport
{
    /** @param list<string> $lines */
    public function line(array $lines): string
    {
        return count(array_filter($lines, fn ($line) => (int) substr($line, 11, 2) < 12)) . ' before noon';
    }
}
