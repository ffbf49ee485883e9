<?php

namespace Hollin\Portal\Services;

use Hollin\Portal\Models\Road;

/** Named a controller, though it handles no request: it finds roads. */
class RoadController
{
    /** @param array<string, Road> $roads */
    public function __construct(private readonly array $roads)
    {
    }

    public function byCode(string $code): ?Road
    {
        return $this->roads[$code] ?? null;
    }
}
