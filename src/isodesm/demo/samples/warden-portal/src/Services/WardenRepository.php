<?php

namespace Hollin\Portal\Services;

class WardenRepository
{
    /** @var array<string, string> */
    private array $numbers = [];

    public function __construct(string $path)
    {
        foreach (file($path, FILE_IGNORE_NEW_LINES) ?: [] as $line) {
            [$name, $number] = explode(' ', $line, 2);
            $this->numbers[$name] = $number;
        }
    }

    public function numberOf(string $warden): string
    {
        return $this->numbers[$warden] ?? '';
    }
}
