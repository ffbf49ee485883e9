<?php

namespace Hollin\Portal\Support;

/** The parts of the portal by name. */
final class Parts
{
    /** @var array<string, callable(): object> */
    private static array $makers = [];
    /** @var array<string, object> */
    private static array $made = [];

    public static function offer(string $name, callable $maker): void
    {
        self::$makers[$name] = $maker;
        unset(self::$made[$name]);
    }

    public static function get(string $name): object
    {
        return self::$made[$name] ??= (self::$makers[$name])();
    }
}
