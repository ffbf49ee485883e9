<?php
namespace Desk;

use Desk\Bells\Bell;

class Base { }
interface Port { function send(string $text): void; }

class Relay extends Base implements Port
{
    private Bell $bell;
    static int $count = 0;

    function __construct(Bell $bell)
    {
        $this->bell = $bell;
    }

    public function send(string $text): void
    {
        $other = new Bell();
        for ($i = 0; $i < 3; $i++) {
            if (Relay::$count > 2) { $this->bell->ring(new Note($text)); }
        }
        $other->ring(null);
        Clock::now();
    }
}
