<?php

namespace Hollin\Portal\Support;

final class Audit
{
    private static string $path = 'audit.txt';

    public static function useFile(string $path): void
    {
        self::$path = $path;
    }

    public static function note(string $text): void
    {
        file_put_contents(self::$path, date('c') . " $text\n", FILE_APPEND);
    }
}
