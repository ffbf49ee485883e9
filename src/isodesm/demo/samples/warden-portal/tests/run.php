<?php

require __DIR__ . '/../src/autoload.php';

use Hollin\Portal\Models\ClosureException;
use Hollin\Portal\Models\Road;
use Hollin\Portal\Services\ClosureService;
use Hollin\Portal\Services\FileClosureBook;
use Hollin\Portal\Services\SmsGateway;
use Hollin\Portal\Services\WardenRepository;
use Hollin\Portal\Support\Audit;
use Hollin\Portal\Support\Parts;

final class SilentSms extends SmsGateway
{
    /** @var list<string> */
    public array $sent = [];

    public function send(string $number, string $text): bool
    {
        $this->sent[] = "$number $text";
        return true;
    }
}

function check(bool $holds, string $what): void
{
    if (!$holds) {
        fwrite(STDERR, "failed: $what\n");
        exit(1);
    }
}

$folder = sys_get_temp_dir() . '/warden-portal-' . getmypid();
mkdir($folder);
file_put_contents("$folder/wardens.txt", "mira 100\n");
Audit::useFile("$folder/audit.txt");
Parts::offer('wardens', static fn () => new WardenRepository("$folder/wardens.txt"));
$sms = new SilentSms();
$service = new ClosureService(new FileClosureBook("$folder/closures.txt"), $sms);
$road = new Road('R7', 'Wether road');
$closure = $service->close($road, 'mira');
check(!$road->isOpen(), 'the road is closed');
check(count((new FileClosureBook("$folder/closures.txt"))->lines()) === 1, 'the book has a line');
$service->sign($closure, 'oda');
check($sms->sent === ['100 R7 signed by oda'], 'the warden is told');
try {
    $service->sign($closure, 'mira');
    check(false, 'own closures are not signed');
} catch (ClosureException) {
    echo "4 checks passed\n";
}
array_map('unlink', glob("$folder/*") ?: []);
rmdir($folder);
