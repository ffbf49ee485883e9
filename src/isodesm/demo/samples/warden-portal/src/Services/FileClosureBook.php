<?php

namespace Hollin\Portal\Services;

use Hollin\Portal\Models\Closure;

final class FileClosureBook implements ClosureBook
{
    public function __construct(private readonly string $path)
    {
    }

    public function keep(Closure $closure): void
    {
        $line = sprintf("%s %s %s\n", $closure->since->format('c'), $closure->road->code, $closure->warden);
        file_put_contents($this->path, $line, FILE_APPEND);
    }

    public function lines(): array
    {
        return is_file($this->path) ? file($this->path, FILE_IGNORE_NEW_LINES) : [];
    }
}
