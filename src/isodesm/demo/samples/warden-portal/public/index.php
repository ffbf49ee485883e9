<?php

/** The front controller: every request comes in here. */

require __DIR__ . '/../src/autoload.php';

use Hollin\Portal\Controllers\ClosureController;
use Hollin\Portal\Support\Parts;

foreach (require __DIR__ . '/../config/parts.php' as $name => $maker) {
    Parts::offer($name, $maker);
}

$controller = new ClosureController();
echo ($_GET['page'] ?? 'list') === 'close' ? $controller->close() : $controller->listing(), "\n";
