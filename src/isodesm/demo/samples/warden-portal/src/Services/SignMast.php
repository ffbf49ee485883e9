<?php

namespace Hollin\Portal\Services;

/** One mast with a sign, over the line that it is fed by. */
class SignMast
{
    public function show(string $number, string $text): bool
    {
        $line = @fsockopen('signs.hollin.example', 7051);
        if ($line === false) {
            return false;
        }
        fwrite($line, "$number $text\n");
        return fclose($line);
    }
}
