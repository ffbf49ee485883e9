<?php

declare(strict_types=1);

use PhpParser\Node;
use PhpParser\Node\Expr;
use PhpParser\Node\Stmt;
use PhpParser\NodeTraverser;
use PhpParser\NodeVisitorAbstract;

/** Which variables of a function are read, and which get a value anywhere in it. */
final class Variables extends NodeVisitorAbstract
{
    private const GIVEN = ['this', 'GLOBALS', '_GET', '_POST', '_SERVER', '_SESSION', '_COOKIE', '_FILES', '_REQUEST', '_ENV'];
    /** Functions that give variables a value, or read them, by names that only a run shows. */
    private const BY_NAME = ['extract', 'compact', 'parse_str', 'get_defined_vars'];

    private array $given;
    private array $read = [];
    private bool $open = false;

    private function __construct(array $parameters)
    {
        $this->given = array_fill_keys(self::GIVEN, true);
        array_map(fn ($each) => $this->gives($each->var), $parameters);
    }

    /** Names that a function reads and nothing in it gives a value; none where a run decides it. */
    public static function without_value(Stmt\ClassMethod|Stmt\Function_ $function): array
    {
        if ($function->stmts === null) {
            return [];
        }
        $found = new self($function->params);
        $traverser = new NodeTraverser();
        $traverser->addVisitor($found);
        $traverser->traverse($function->stmts);
        return $found->open ? [] : array_keys(array_diff_key($found->read, $found->given));
    }

    public function enterNode(Node $node)
    {
        if ($node instanceof Stmt\ClassLike) {
            return NodeTraverser::DONT_TRAVERSE_CHILDREN;
        }
        foreach (self::targets($node) as $target) {
            $this->gives($target);
        }
        if ($node instanceof Expr\Variable) {
            is_string($node->name) ? $this->read[$node->name] = true : $this->open = true;
        }
        $call = $node instanceof Expr\FuncCall && $node->name instanceof Node\Name ? strtolower($node->name->getLast()) : '';
        $runs = $node instanceof Expr\Include_ || $node instanceof Expr\Eval_;
        $this->open = $this->open || $runs || in_array($call, self::BY_NAME, true);
        return null;
    }

    /** What a place gives a value; an argument may be taken by reference. */
    private static function targets(Node $node): array
    {
        return match (true) {
            $node instanceof Expr\AssignRef => [$node->var, $node->expr],
            $node instanceof Expr\Assign, $node instanceof Expr\AssignOp, $node instanceof Stmt\Catch_ => [$node->var],
            $node instanceof Stmt\Foreach_ => [$node->valueVar, $node->keyVar],
            $node instanceof Stmt\Global_ => $node->vars,
            $node instanceof Stmt\Static_ => array_map(fn ($each) => $each->var, $node->vars),
            $node instanceof Expr\ArrowFunction => array_map(fn ($each) => $each->var, $node->params),
            $node instanceof Expr\Closure => [
                ...array_map(fn ($each) => $each->var, $node->params),
                ...array_map(fn ($each) => $each->byRef ? $each->var : null, $node->uses),
            ],
            $node instanceof Node\Arg => [$node->value],
            default => [],
        };
    }

    private function gives(?Node $target): void
    {
        if ($target instanceof Expr\Variable && is_string($target->name)) {
            $this->given[$target->name] = true;
        } elseif ($target instanceof Expr\List_ || $target instanceof Expr\Array_) {
            array_map(fn ($item) => $this->gives($item ? $item->value : null), $target->items);
        } elseif ($target instanceof Expr\ArrayDimFetch || $target instanceof Expr\PropertyFetch) {
            $this->gives($target->var);
        }
    }
}
