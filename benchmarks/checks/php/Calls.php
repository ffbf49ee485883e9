<?php

declare(strict_types=1);

/** Whether what is called, created or read is there, and takes what it is given. */
final class Calls
{
    /** `$here` are the types of the file, by name: of two with one name in the tree, its own counts. */
    public function __construct(private Declared $declared, private array $here)
    {
    }

    /** What does not hold of a place, a line each. */
    public function of(array $site): array
    {
        $inside = $site['inside'];
        $own = $inside !== null ? $this->here[$inside] : null;
        $where = $inside !== null ? "$inside::{$site['method']}" : 'no class';
        if (!isset($site['type'])) {
            return $own !== null ? $this->of_itself($site, $own, $where) : [];
        }
        $type = match (strtolower($site['type'])) {
            'self', 'static' => $inside,
            'parent' => $own['bases'][0] ?? null,
            default => $site['type'],
        };
        if ($type === null || str_starts_with($type, NAMELESS) || in_array(strtolower($type), BUILT_IN, true)) {
            return [];
        }
        if (!$this->declared->knows($type)) {
            return ["$type is declared nowhere, named in $where"];
        }
        return match ($site['does']) {
            'creates' => $this->creation($site, $type, $where),
            'calls static' => $this->static_call($site, $type, $where),
            default => [],
        };
    }

    private function creation(array $site, string $type, string $where): array
    {
        $own = $this->declared->own($type);
        $late = in_array(strtolower($site['type']), ['self', 'static'], true);
        $said = $own !== null && ($own['kind'] !== 'class' || ($own['abstract'] && !$late)) ? ["$type can't be made in $where"] : [];
        if (!$this->declared->knows_all_of($type)) {
            return $said;
        }
        $constructor = $this->declared->method($type, '__construct');
        if ($constructor === null) {
            return $site['given'] && $own !== null ? [...$said, "$type takes no arguments in $where"] : $said;
        }
        if ($constructor['hidden'] && $site['inside'] === null) {
            $said[] = "the constructor of $type is not public in $where";
        }
        return [...$said, ...$this->arguments($site, $constructor, "new $type", $where)];
    }

    private function static_call(array $site, string $type, string $where): array
    {
        if (!$this->declared->knows_all_of($type)) {
            return [];
        }
        $name = "$type::{$site['member']}";
        $method = $this->declared->method($type, strtolower($site['member']));
        if ($method === null) {
            $any = $this->declared->method($type, '__callstatic') ?? $this->declared->method($type, '__call');
            return $any || strtolower($site['member']) === '__construct' ? [] : ["$name is not there, called in $where"];
        }
        $related = in_array(strtolower($site['type']), ['parent', 'self', 'static'], true);
        $related = $related || ($site['inside'] !== null && $this->declared->is_a($site['inside'], $type));
        $said = !$method['static'] && !$related ? ["$name is not static, called in $where"] : [];
        return [...$said, ...$this->arguments($site, $method, $name, $where)];
    }

    /** Of members that an object asks of itself, or of what one of its properties holds. */
    private function of_itself(array $site, array $own, string $where): array
    {
        $inside = $own['name'];
        if ($own['kind'] === 'trait' || str_starts_with($inside, NAMELESS)) {
            return [];
        }
        if ($site['does'] === 'calls property') {
            $type = $own['kind'] === 'class' ? $this->declared->property_type($inside, $site['property']) : null;
            $type = $type !== null && count(names_in($type)) === 1 ? ltrim($type, '?') : null;
            if ($type === null || in_array(strtolower($type), BUILT_IN, true) || !$this->declared->knows_all_of($type)) {
                return [];
            }
            return $this->member_call($site, $type, "\$this->{$site['property']}->{$site['member']}", $where);
        }
        if (!$this->declared->knows_all_of($inside)) {
            return [];
        }
        if ($site['does'] === 'calls own') {
            $held = $this->declared->has_property($inside, $site['member']);
            return $held ? [] : $this->member_call($site, $inside, "\$this->{$site['member']}", $where);
        }
        $there = $this->declared->has_property($inside, $site['member']) || $this->declared->method($inside, '__get');
        return $there || $own['kind'] !== 'class' ? [] : ["\$this->{$site['member']} is not declared, read in $where"];
    }

    private function member_call(array $site, string $type, string $called, string $where): array
    {
        $method = $this->declared->method($type, strtolower($site['member']));
        if ($method === null) {
            return $this->declared->method($type, '__call') ? [] : ["$called is not there on $type, called in $where"];
        }
        return $this->arguments($site, $method, $called, $where);
    }

    private function arguments(array $site, array $method, string $called, string $where): array
    {
        if ($site['given'] === null) {
            return [];
        }
        $parameters = $method['parameters'];
        $rest = array_filter($parameters, fn ($each) => $each['rest']);
        $by_name = array_column($parameters, null, 'name');
        $named = array_filter(array_column($site['given'], 'name'));
        $said = [];
        foreach ($named as $name) {
            $said = isset($by_name[$name]) || $rest ? $said : [...$said, "$called has no parameter $name in $where"];
        }
        $in_order = count($site['given']) - count($named);
        foreach ($parameters as $at => $each) {
            if (!$each['optional'] && $at >= $in_order && !in_array($each['name'], $named, true)) {
                $said[] = "$called is not given its {$each['name']} in $where";
            }
        }
        if ($in_order > count($parameters) && !$rest && !isset($method['internal'])) {
            $said[] = "$called is given more than it takes in $where";
        }
        foreach ($site['given'] as $at => $each) {
            $parameter = $each['name'] !== null ? ($by_name[$each['name']] ?? null) : ($parameters[$at] ?? (end($rest) ?: null));
            $type = $this->type_of($each['type'], $site['inside']);
            if ($parameter && $parameter['type'] !== null && $type !== null && !$this->takes($parameter['type'], $type)) {
                $said[] = "$called takes {$parameter['type']} as {$parameter['name']}, given $type in $where";
            }
        }
        return $said;
    }

    /** The type of an argument; null where it isn't written, or only a run shows it. */
    private function type_of(?string $given, ?string $inside): ?string
    {
        if ($given === '$this' || $given === null) {
            return $given === null ? null : $inside;
        }
        if (str_starts_with($given, '$this->')) {
            $given = $inside !== null ? $this->declared->property_type($inside, substr($given, 7)) : null;
            $given = $given !== null && count(names_in($given)) === 1 ? ltrim($given, '?') : null;
        }
        return $given === null || in_array(strtolower($given), BUILT_IN, true) ? null : $given;
    }

    private function takes(string $wanted, string $given): bool
    {
        $plain = ['int', 'string', 'bool', 'float', 'array', 'null', 'false', 'true'];
        foreach (array_diff(array_map('strtolower', names_in($wanted)), $plain) as $each) {
            if ($this->declared->is_a($given, $each)) {
                return true;
            }
        }
        return !$this->declared->knows_all_of($given);
    }
}
