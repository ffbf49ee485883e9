<?php

namespace Hollin\Portal\Services;

use Hollin\Portal\Models\Closure;

interface ClosureBook
{
    public function keep(Closure $closure): void;

    /** @return list<string> */
    public function lines(): array;
}
