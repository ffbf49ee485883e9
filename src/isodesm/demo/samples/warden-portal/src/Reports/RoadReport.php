<?php

namespace Hollin\Portal\Reports;

/** Of a day's book: roads that were shut. */
final class RoadReport
{
    /** @param list<string> $lines */
    public function line(array $lines): string
    {
        return implode(', ', array_unique(array_map(fn ($line) => explode(' ', $line)[1] ?? '?', $lines)));
    }
}
