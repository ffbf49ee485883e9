<?php

namespace Hollin\Portal\Reports;

/** Of a day's book: the last closure. */
final class LastReport
{
    /** @param list<string> $lines */
    public function line(array $lines): string
    {
        return end($lines) ?: 'none';
    }
}
