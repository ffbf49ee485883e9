<?php

namespace Hollin\Portal\Controllers;

use Hollin\Portal\Models\Closure;
use Hollin\Portal\Services\ClosureService;
use Hollin\Portal\Support\Parts;

class SignController
{
    public function __construct(private readonly ClosureService $closures)
    {
    }

    public function sign(Closure $closure, string $warden): string
    {
        $this->closures->sign($closure, $warden);
        return Parts::get('book')->lines() === [] ? 'signed, nothing kept' : 'signed';
    }
}
