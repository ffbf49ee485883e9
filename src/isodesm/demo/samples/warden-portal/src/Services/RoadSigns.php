<?php

namespace Hollin\Portal\Services;

/** The lit signs by the road: each is told by a message when its road is shut. */
class RoadSigns
{
    public function __construct(private readonly ClosureBook $book)
    {
    }

    public function refresh(string $number): int
    {
        $gateway = new SignMast();
        $shown = 0;
        foreach ($this->book->lines() as $line) {
            $shown += $gateway->show($number, $line) ? 1 : 0;
        }
        return $shown;
    }
}
