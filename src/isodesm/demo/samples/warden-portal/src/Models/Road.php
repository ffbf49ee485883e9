<?php

namespace Hollin\Portal\Models;

final class Road
{
    public function __construct(
        public readonly string $code,
        public readonly string $name,
        private bool $open = true,
    ) {
    }

    public function isOpen(): bool
    {
        return $this->open;
    }

    public function close(): void
    {
        $this->open = false;
    }
}
