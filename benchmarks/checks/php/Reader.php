<?php

declare(strict_types=1);

use PhpParser\Node;
use PhpParser\Node\Expr;
use PhpParser\Node\Stmt;
use PhpParser\NodeVisitorAbstract;

/** How the names of classes without one begin. */
const NAMELESS = 'class@';

/** The names in a type's text: `?A|B` gives `A` and `B`. */
function names_in(string $type): array
{
    return preg_split('/[|&?]/', $type, -1, PREG_SPLIT_NO_EMPTY);
}

/** Reads what a file declares and where it creates, calls and names something. */
final class Reader extends NodeVisitorAbstract
{
    /** Declared types, each with name, kind, bases, whether abstract, methods and properties. */
    public array $types = [];
    /** Places that name something, each with what it does, in which type and method. */
    public array $sites = [];
    public array $complaints = [];
    private array $inside = [];
    private array $methods = [];

    public function enterNode(Node $node)
    {
        if ($node instanceof Stmt\ClassLike) {
            $this->declare($node);
        } elseif ($node instanceof Stmt\ClassMethod || $node instanceof Stmt\Function_) {
            $static = $node instanceof Stmt\ClassMethod && $node->isStatic();
            $this->methods[] = ['name' => strtolower((string) $node->name), 'static' => $static];
            foreach (Variables::without_value($node) as $name) {
                $this->complaints[] = "\$$name has no value in $node->name";
            }
            $this->types_named($node->returnType, $node);
        } elseif ($node instanceof Node\Param || $node instanceof Stmt\Property) {
            $this->types_named($node->type, $node);
        } else {
            $this->place($node);
        }
        return null;
    }

    public function leaveNode(Node $node)
    {
        if ($node instanceof Stmt\ClassLike) {
            array_pop($this->inside);
            array_pop($this->methods);
        }
        if ($node instanceof Stmt\ClassMethod || $node instanceof Stmt\Function_) {
            array_pop($this->methods);
        }
        return null;
    }

    private function declare(Stmt\ClassLike $node): void
    {
        $named = isset($node->namespacedName) ? $node->namespacedName->toString() : (string) $node->name;
        $name = $node->name === null ? NAMELESS . $node->getLine() : $named;
        $class = $node instanceof Stmt\Class_;
        $type = [
            'name' => $name,
            'kind' => strtolower(trim(substr(strrchr(get_class($node), '\\'), 1), '_')),
            'bases' => self::bases($node),
            'abstract' => $class && $node->isAbstract(),
            'methods' => [],
            'properties' => [],
        ];
        foreach ($node->stmts as $member) {
            if ($member instanceof Stmt\Property) {
                foreach ($member->props as $property) {
                    $type['properties'][(string) $property->name] = self::type($member->type);
                }
            } elseif ($member instanceof Stmt\ClassMethod) {
                $this->method($member, $type, $node instanceof Stmt\Interface_);
            }
        }
        $this->types[] = $type;
        $this->inside[] = $name;
        $this->methods[] = ['name' => '', 'static' => false];
    }

    private static function bases(Stmt\ClassLike $node): array
    {
        $found = $node instanceof Stmt\Class_ && $node->extends ? [$node->extends] : [];
        $found = [...$found, ...($node instanceof Stmt\Interface_ ? $node->extends : [])];
        $found = [...$found, ...($node instanceof Stmt\Class_ || $node instanceof Stmt\Enum_ ? $node->implements : [])];
        foreach ($node->stmts as $member) {
            $found = [...$found, ...($member instanceof Stmt\TraitUse ? $member->traits : [])];
        }
        return array_map(fn ($base) => $base->toString(), $found);
    }

    private function method(Stmt\ClassMethod $node, array &$type, bool $of_interface): void
    {
        $key = strtolower((string) $node->name);
        if (isset($type['methods'][$key])) {
            $this->complaints[] = "{$type['name']}::$node->name is declared twice";
        }
        $type['methods'][$key] = [
            'static' => $node->isStatic(),
            'abstract' => $node->isAbstract() || $of_interface,
            'hidden' => $node->isPrivate() ? 2 : ($node->isProtected() ? 1 : 0),
            'parameters' => array_map([self::class, 'parameter'], $node->params),
            'result' => self::type($node->returnType),
        ];
        $seen = [];
        $optional = false;
        foreach ($node->params as $parameter) {
            $name = $parameter->var->name;
            if (isset($seen[$name])) {
                $this->complaints[] = "\$$name is a parameter of $node->name twice";
            }
            $seen[$name] = true;
            if ($parameter->default === null && !$parameter->variadic && $optional) {
                $this->complaints[] = "\$$name of $node->name is required after one with a default";
            }
            $optional = $optional || ($parameter->default !== null && !self::is_null($parameter->default));
            if ($parameter->flags) {
                if (isset($type['properties'][$name])) {
                    $this->complaints[] = "{$type['name']} declares \$$name twice";
                }
                $type['properties'][$name] = self::type($parameter->type);
            }
        }
    }

    private static function is_null(Expr $value): bool
    {
        return $value instanceof Expr\ConstFetch && strtolower((string) $value->name) === 'null';
    }

    private static function parameter(Node\Param $node): array
    {
        return [
            'name' => is_string($node->var->name) ? $node->var->name : '?',
            'type' => self::type($node->type),
            'optional' => $node->default !== null || $node->variadic,
            'rest' => $node->variadic,
        ];
    }

    private static function type(?Node $node): ?string
    {
        return match (true) {
            $node === null => null,
            $node instanceof Node\NullableType => '?' . self::type($node->type),
            $node instanceof Node\UnionType => implode('|', array_map([self::class, 'type'], $node->types)),
            $node instanceof Node\IntersectionType => implode('&', array_map([self::class, 'type'], $node->types)),
            default => $node->toString(),
        };
    }

    private function types_named(?Node $type, Node $node): void
    {
        foreach (names_in(self::type($type) ?? '') as $name) {
            $this->site('names', ['type' => $name]);
        }
    }

    /** A place that creates, calls or names something. */
    private function place(Node $node): void
    {
        $named = isset($node->name) && $node->name instanceof Node\Identifier ? (string) $node->name : '';
        $class = isset($node->class) && $node->class instanceof Node\Name ? $node->class->toString() : '';
        if ($node instanceof Expr\New_ && $class) {
            $this->site('creates', ['type' => $class, 'given' => self::arguments($node->args)]);
        } elseif ($node instanceof Expr\StaticCall && $class && $named) {
            $this->site('calls static', ['type' => $class, 'member' => $named, 'given' => self::arguments($node->args)]);
        } elseif ($node instanceof Expr\ClassConstFetch && $class) {
            $this->site('names', ['type' => $class]);
        } elseif ($node instanceof Expr\MethodCall && $named && self::is_this($node->var)) {
            $this->site('calls own', ['member' => $named, 'given' => self::arguments($node->args)]);
        } elseif ($node instanceof Expr\MethodCall && $named && ($property = self::own_property($node->var))) {
            $more = ['property' => $property, 'member' => $named, 'given' => self::arguments($node->args)];
            $this->site('calls property', $more);
        } elseif ($property = self::own_property($node)) {
            $this->site('reads', ['member' => $property]);
        } elseif (self::is_this($node) && $this->methods && end($this->methods)['static']) {
            $this->complaints[] = '$this in a static method';
        }
    }

    private static function is_this(Node $node): bool
    {
        return $node instanceof Expr\Variable && $node->name === 'this';
    }

    private static function own_property(Node $node): string
    {
        $own = $node instanceof Expr\PropertyFetch && self::is_this($node->var) && $node->name instanceof Node\Identifier;
        return $own ? (string) $node->name : '';
    }

    private function site(string $does, array $more): void
    {
        $method = $this->methods ? end($this->methods)['name'] : '';
        $this->sites[] = ['does' => $does, 'inside' => end($this->inside) ?: null, 'method' => $method] + $more;
    }

    /** Arguments with their names and, where it is written, what they are; null where one stands for several. */
    private static function arguments(array $nodes): ?array
    {
        $found = [];
        foreach ($nodes as $each) {
            if (!$each instanceof Node\Arg || $each->unpack) {
                return null;
            }
            $value = $each->value;
            $type = $value instanceof Expr\New_ && $value->class instanceof Node\Name ? $value->class->toString() : null;
            $type = self::is_this($value) ? '$this' : $type;
            $type = self::own_property($value) ? '$this->' . self::own_property($value) : $type;
            $found[] = ['name' => $each->name ? (string) $each->name : null, 'type' => $type];
        }
        return $found;
    }
}
