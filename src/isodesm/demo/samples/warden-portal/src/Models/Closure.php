<?php

namespace Hollin\Portal\Models;

use DateTimeImmutable;

final class Closure
{
    public function __construct(
        public readonly Road $road,
        public readonly string $warden,
        public readonly DateTimeImmutable $since,
        private ?string $signedBy = null,
    ) {
    }

    public function sign(string $warden): void
    {
        $this->signedBy = $warden;
    }

    public function signedBy(): ?string
    {
        return $this->signedBy;
    }
}
