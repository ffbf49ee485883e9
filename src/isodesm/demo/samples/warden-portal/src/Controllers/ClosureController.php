<?php

namespace Hollin\Portal\Controllers;

use Hollin\Portal\Models\Road;
use Hollin\Portal\Services\ClosureService;
use Hollin\Portal\Services\FileClosureBook;
use Hollin\Portal\Support\Audit;
use Hollin\Portal\Support\Parts;

class ClosureController
{
    public function close(): string
    {
        $service = new ClosureService(new FileClosureBook($_SERVER['CLOSURE_BOOK'] ?? 'closures.txt'));
        $road = Parts::get('roads')->byCode($_GET['road'] ?? '') ?? new Road('?', 'unknown road');
        $closure = $service->close($road, $_GET['warden'] ?? 'nobody');
        Audit::note('page shown');
        return "closed {$closure->road->name}";
    }

    public function listing(): string
    {
        $lines = Parts::get('book')->lines();
        return $lines === [] ? 'no closures' : implode("\n", $lines);
    }
}
