<?php

use Hollin\Portal\Models\Road;
use Hollin\Portal\Services\FileClosureBook;
use Hollin\Portal\Services\RoadController;
use Hollin\Portal\Services\WardenRepository;

return [
    'book' => fn () => new FileClosureBook($_SERVER['CLOSURE_BOOK'] ?? 'closures.txt'),
    'roads' => fn () => new RoadController(['R7' => new Road('R7', 'Wether road')]),
    'wardens' => fn () => new WardenRepository('wardens.txt'),
];
