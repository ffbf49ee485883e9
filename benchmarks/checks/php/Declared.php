<?php

declare(strict_types=1);

/** Words that stand where a type may and are none that is declared. */
const BUILT_IN = [
    'int', 'string', 'bool', 'float', 'array', 'callable', 'iterable', 'object', 'mixed', 'void', 'null', 'never', 'self',
    'static', 'parent', 'false', 'true', 'resource', 'integer', 'boolean', 'double',
];

/** What is declared: by the tree that is looked at, or by the language and the libraries loaded beside it. */
final class Declared
{
    private array $types = [];
    private array $outside = [];

    public function __construct(array $types)
    {
        foreach ($types as $type) {
            $this->types[strtolower($type['name'])] = $type;
        }
    }

    /** A type of the tree; null for another. */
    public function own(string $name): ?array
    {
        return $this->types[strtolower(ltrim($name, '\\'))] ?? null;
    }

    public function knows(string $name): bool
    {
        return $this->own($name) !== null || $this->is_outside($name);
    }

    /** Whether a type and everything above it is known: only then can something be said of its members. */
    public function knows_all_of(string $name, array $seen = []): bool
    {
        $own = $this->own($name);
        if ($own === null || isset($seen[strtolower($name)])) {
            return $own !== null || $this->is_outside($name);
        }
        $seen[strtolower($name)] = true;
        foreach ($own['bases'] as $base) {
            if (!$this->knows_all_of($base, $seen)) {
                return false;
            }
        }
        return true;
    }

    /** All types above one, as the tree or a library declares them, nearest first. */
    public function above(string $name): array
    {
        $found = [];
        $left = $this->own($name)['bases'] ?? [];
        while ($left) {
            $base = array_shift($left);
            if (!isset($found[strtolower($base)])) {
                $found[strtolower($base)] = $base;
                $left = [...$left, ...($this->own($base)['bases'] ?? [])];
            }
        }
        return array_values($found);
    }

    /** A method of a type, its own or inherited, one with a body before one without; null for none. */
    public function method(string $name, string $method, int $depth = 0): ?array
    {
        $own = $this->own($name);
        if ($own === null) {
            return $this->is_outside($name) ? self::reflected($name, $method) : null;
        }
        if (isset($own['methods'][$method]) || $depth > 40) {
            return $own['methods'][$method] ?? null;
        }
        $found = null;
        foreach ($own['bases'] as $base) {
            $inherited = $this->method($base, $method, $depth + 1);
            if ($inherited && !$inherited['abstract']) {
                return $inherited;
            }
            $found ??= $inherited;
        }
        return $found;
    }

    public function has_property(string $name, string $property, int $depth = 0): bool
    {
        $own = $this->own($name);
        if ($own === null) {
            return $this->is_outside($name) && (new ReflectionClass($name))->hasProperty($property);
        }
        if (array_key_exists($property, $own['properties'])) {
            return true;
        }
        foreach ($depth > 40 ? [] : $own['bases'] as $base) {
            if ($this->has_property($base, $property, $depth + 1)) {
                return true;
            }
        }
        return false;
    }

    /** The type that a property of a type of the tree is declared with; null for none. */
    public function property_type(string $name, string $property): ?string
    {
        foreach ([$name, ...$this->above($name)] as $each) {
            $own = $this->own($each);
            if ($own !== null && array_key_exists($property, $own['properties'])) {
                return $own['properties'][$property];
            }
        }
        return null;
    }

    /** Whether what is a `$name` is a `$wanted`, as far as can be seen. */
    public function is_a(string $name, string $wanted): bool
    {
        $wanted = strtolower(ltrim($wanted, '\\'));
        if (strtolower(ltrim($name, '\\')) === $wanted || in_array($wanted, ['object', 'mixed'], true)) {
            return true;
        }
        if ($this->own($name) === null) {
            return !$this->is_outside($name) || ($this->is_outside($wanted) && is_a($name, $wanted, true));
        }
        foreach ($this->above($name) as $base) {
            $outside = $this->own($base) === null;
            if (strtolower($base) === $wanted || ($outside && $this->is_outside($wanted) && is_a($base, $wanted, true))) {
                return true;
            }
        }
        $by_method = ['stringable' => '__tostring', 'callable' => '__invoke'];
        return isset($by_method[$wanted]) && $this->method($name, $by_method[$wanted]) !== null;
    }

    private function is_outside(string $name): bool
    {
        return $this->outside[strtolower($name)] ??= class_exists($name) || interface_exists($name) || trait_exists($name);
    }

    private static function reflected(string $name, string $method): ?array
    {
        $type = new ReflectionClass($name);
        if (!$type->hasMethod($method)) {
            return null;
        }
        $found = $type->getMethod($method);
        $parameter = fn ($each) => [
            'name' => $each->getName(),
            'type' => $each->hasType() ? (string) $each->getType() : null,
            'optional' => $each->isOptional(),
            'rest' => $each->isVariadic(),
        ];
        return [
            'static' => $found->isStatic(),
            'abstract' => $found->isAbstract(),
            'hidden' => $found->isPrivate() ? 2 : ($found->isProtected() ? 1 : 0),
            'parameters' => array_map($parameter, $found->getParameters()),
            'result' => $found->hasReturnType() ? (string) $found->getReturnType() : null,
            'internal' => $type->isInternal(),
        ];
    }
}
