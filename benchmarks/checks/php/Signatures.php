<?php

declare(strict_types=1);

/** What a type owes those above it: members without a body, and signatures that fit. */
final class Signatures
{
    public function __construct(private Declared $declared)
    {
    }

    /** What does not hold of a type, a line each. */
    public function of(array $type): array
    {
        $said = [];
        foreach ($type['bases'] as $base) {
            if (!$this->declared->knows($base)) {
                $said[] = "{$type['name']} has a base that nobody declares: $base";
            }
        }
        if (count(array_unique(array_map('strtolower', $type['bases']))) < count($type['bases'])) {
            $said[] = "{$type['name']} names a base twice";
        }
        if (in_array($type['kind'], ['class', 'enum'], true) && !$type['abstract']) {
            $said = [...$said, ...$this->missing($type)];
        }
        foreach ($type['methods'] as $name => $method) {
            $said = $method['hidden'] === 2 ? $said : [...$said, ...$this->overriding($type, $name, $method)];
        }
        return $said;
    }

    private function missing(array $type): array
    {
        if (!$this->declared->knows_all_of($type['name'])) {
            return [];
        }
        $said = [];
        foreach ($this->declared->above($type['name']) as $base) {
            $own = $this->declared->own($base);
            $methods = $own !== null ? array_keys(array_filter($own['methods'], fn ($each) => $each['abstract'])) : [];
            foreach ($own === null ? (new ReflectionClass($base))->getMethods() : [] as $method) {
                $methods = $method->isAbstract() ? [...$methods, strtolower($method->getName())] : $methods;
            }
            foreach ($methods as $name) {
                $found = $this->declared->method($type['name'], $name);
                if ($found === null || $found['abstract']) {
                    $said[] = "{$type['name']} does not have $name of $base";
                }
            }
        }
        return $said;
    }

    private function overriding(array $type, string $name, array $method): array
    {
        $said = [];
        foreach ($this->declared->above($type['name']) as $base) {
            $own = $this->declared->own($base);
            $over = $own['methods'][$name] ?? null;
            if ($over === null || $over['hidden'] === 2 || $own['kind'] === 'trait') {
                continue;
            }
            if ($name === '__construct' && !$over['abstract']) {
                continue;
            }
            foreach ($this->differences($method, $over) as $what) {
                $said[] = "{$type['name']}::$name: $what $base";
            }
        }
        return $said;
    }

    private function differences(array $method, array $over): array
    {
        $said = $method['static'] !== $over['static'] ? ['is static where it is not in'] : [];
        $said = $method['hidden'] > $over['hidden'] ? [...$said, 'is less visible than in'] : $said;
        $required = fn ($each) => count(array_filter($each['parameters'], fn ($one) => !$one['optional']));
        $rest = array_filter($method['parameters'], fn ($one) => $one['rest']);
        $fewer = count($method['parameters']) < count($over['parameters']) && !$rest;
        if ($required($method) > $required($over) || $fewer) {
            $said[] = 'takes other numbers of arguments than in';
        }
        foreach ($over['parameters'] as $at => $wanted) {
            $given = $method['parameters'][$at]['type'] ?? null;
            if ($given !== null && strtolower(ltrim($given, '?')) !== 'mixed' && !$this->takes($given, $wanted['type'])) {
                $said[] = "takes $given where it is {$wanted['type']} in";
            }
        }
        if ($over['result'] !== null && !$this->gives($method['result'], $over['result'])) {
            $said[] = "gives {$method['result']} where it is {$over['result']} in";
        }
        return $said;
    }

    private function takes(string $given, ?string $wanted): bool
    {
        if ($wanted === null || strtolower(ltrim($given, '?')) === strtolower(ltrim($wanted, '?'))) {
            return $wanted !== null;
        }
        foreach (names_in($wanted) as $each) {
            if (!array_filter(names_in($given), fn ($one) => $this->fits($each, $one, ['self', 'static'], $one))) {
                return false;
            }
        }
        return true;
    }

    private function gives(?string $given, string $wanted): bool
    {
        $open = ['mixed', 'self', 'static', 'iterable', 'object'];
        if ($given === null || in_array(strtolower(ltrim($wanted, '?')), $open, true)) {
            return $given !== null;
        }
        foreach (names_in($given) as $each) {
            $own = ['self', 'static', 'never', 'null', 'false'];
            if (!array_filter(names_in($wanted), fn ($one) => $this->fits($each, $one, $own, $each))) {
                return false;
            }
        }
        return true;
    }

    /** Whether one name of a type fits another; `$open` are words that always do, looked up as `$said`. */
    private function fits(string $name, string $wanted, array $open, string $said): bool
    {
        if (strtolower($name) === strtolower($wanted) || in_array(strtolower($said), $open, true)) {
            return true;
        }
        return !in_array(strtolower($name), BUILT_IN, true) && $this->declared->is_a($name, $wanted);
    }
}
