<?php

namespace Hollin\Portal\Services;

class SmsGateway
{
    public function __construct(private readonly string $host = 'sms.hollin.example')
    {
    }

    public function send(string $number, string $text): bool
    {
        $line = @fsockopen($this->host, 7050, $code, $message, 2);
        if ($line === false) {
            return false;
        }
        fwrite($line, "$number $text\n");
        return fclose($line);
    }
}
