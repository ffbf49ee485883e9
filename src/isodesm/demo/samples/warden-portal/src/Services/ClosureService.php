<?php

namespace Hollin\Portal\Services;

use DateTimeImmutable;
use Hollin\Portal\Models\Closure;
use Hollin\Portal\Models\ClosureException;
use Hollin\Portal\Models\Road;
use Hollin\Portal\Support\Audit;
use Hollin\Portal\Support\Parts;

class ClosureService
{
    private SmsGateway $sms;

    public function __construct(private readonly ClosureBook $book, ?SmsGateway $sms = null)
    {
        $this->sms = $sms ?? new SmsGateway();
    }

    public function close(Road $road, string $warden): Closure
    {
        if (!$road->isOpen()) {
            throw new ClosureException("{$road->name} is closed already");
        }
        $road->close();
        $closure = new Closure($road, $warden, new DateTimeImmutable());
        $this->book->keep($closure);
        Audit::note("closed {$road->code}");
        return $closure;
    }

    public function sign(Closure $closure, string $warden): void
    {
        if ($closure->warden === $warden) {
            throw new ClosureException('nobody signs off a closure of his own');
        }
        $closure->sign($warden);
        $this->sms->send(Parts::get('wardens')->numberOf($closure->warden), "{$closure->road->code} signed by $warden");
    }
}
