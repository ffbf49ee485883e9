<?php

namespace Hollin\Portal\Reports;

/** Of a day's book: how long the book is. */
final class LengthReport
{
    /** @param list<string> $lines */
    public function line(array $lines): string
    {
        return array_sum(array_map('strlen', $lines)) . ' letters';
    }
}
