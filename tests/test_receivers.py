"""What calls are made on: the types of receivers, and the soft bonds of declarations, in every language."""

from __future__ import annotations

from isodesm.facts.languages import LANGUAGES
from tests.support import TreeTest

SUFFIX = {"java": ".java", "csharp": ".cs", "typescript": ".ts", "php": ".php", "python": ".py"}

PARTS = {
    "java": "class Bell { void ring() { } Bell near() { return this; } static Bell one() { return null; } Box<Bell> "
    "box; } class Box<T> { T item; T get() { return item; } } ",
    "csharp": "class Bell { public void Ring() { } public Bell Near() { return this; } public static Bell One() { "
    "return null; } public Box<Bell> Box; public Bell Next { get; set; } } "
    "class Box<T> { public T Item; public T Get() { return Item; } } ",
    "typescript": "class Bell { next: Bell; box: Box<Bell>; ring(): void { } near(): Bell { return this; } static "
    "one(): Bell { return null!; } get far(): Bell { return this; } } "
    "class Box<T> { item: T; get(): T { return this.item; } } function make(): Bell { return new Bell(); } ",
    "php": "<?php class Bell { public Bell $next; function ring(): void { } function near(): static { return $this; } "
    "static function one(): self { return new self(); } } ",
    "python": "class Bell:\n    def __init__(self):\n        self.next: Bell = None\n    def ring(self): ...\n    def "
    "near(self) -> 'Bell': return self\n"
    "    @classmethod\n    def one(cls) -> 'Bell': ...\n    @property\n    def far(self) -> 'Bell': ...\ndef make() -> "
    "Bell: ...\n",
}
"""Classes, in one file with the class `User` that a case writes the members of."""

RINGS = {
    "java": (
        "void go(Bell b) { b.ring(); }",
        "Bell f; void go() { f.ring(); }",
        "Bell f; void go() { this.f.near().ring(); }",
        "void go() { new Bell().ring(); }",
        "void go() { var b = new Bell(); b.ring(); }",
        "void go(Object o) { ((Bell) o).ring(); }",
        "void go(Object o) { if (o instanceof Bell b) { b.ring(); } }",
        "void go(java.util.List<Bell> l) { for (var b : l) { b.ring(); } }",
        "void go(Bell[] l) { for (Bell b : l) b.ring(); }",
        "void go() { Bell.one().ring(); }",
        "void go(Bell b) { b.box.get().ring(); }",
        "void go(Bell b) { b.box.item.ring(); }",
        "void go() { try (Bell b = new Bell()) { b.ring(); } }",
        "void go(Bell b) { Runnable r = () -> b.ring(); }",
        "void go(Bell b) { Runnable r = b::ring; }",
        "Bell make() { return null; } void go() { make().ring(); }",
        "void go(java.util.Map<String, Bell> m) { m.get(1).ring(); }",
        "class In extends Bell { void go() { super.ring(); } }",
        "void go(Object o) { switch (o) { case Bell b -> b.ring(); default -> { } } }",
    ),
    "csharp": (
        "void Go(Bell b) { b.Ring(); }",
        "Bell f; void Go() { f.Ring(); this.f.Near().Ring(); }",
        "Bell P { get; set; } void Go() { P.Ring(); }",
        "void Go() { new Bell().Ring(); }",
        "void Go() { var b = new Bell(); b.Ring(); }",
        "void Go() { Bell b = new(); b.Ring(); }",
        "void Go(object o) { ((Bell)o).Ring(); }",
        "void Go(object o) { (o as Bell).Ring(); }",
        "void Go(object o) { if (o is Bell b) { b.Ring(); } }",
        "void Go(System.Collections.Generic.List<Bell> l) { foreach (var b in l) { b.Ring(); } }",
        "void Go(Bell[] l) { foreach (Bell b in l) b.Ring(); }",
        "void Go() { Bell.One().Ring(); }",
        "void Go(Bell b) { b.Box.Get().Ring(); }",
        "void Go(Bell b) { b.Box.Item.Ring(); }",
        "void Go(Bell b) { b?.Ring(); }",
        "void Go(Bell b) { b.Next.Next.Ring(); }",
        "void Go() { using (var b = new Bell()) { b.Ring(); } }",
        "void Go() { Other(out Bell b); b.Ring(); }",
        "Bell Make() => null; void Go() { Make().Ring(); }",
        "void Go(Bell b) { System.Action a = () => b.Ring(); }",
        "void Go(Bell b) => b!.Ring();",
    ),
    "typescript": (
        "go(b: Bell) { b.ring(); }",
        "f: Bell; go() { this.f.ring(); }",
        "constructor(private f: Bell) { } go() { this.f.near().ring(); }",
        "go() { new Bell().ring(); }",
        "go() { const b = new Bell(); b.ring(); }",
        "go(o: any) { (o as Bell).ring(); }",
        "go(o: any) { (<Bell>o).ring(); }",
        "go(l: Bell[]) { for (const b of l) { b.ring(); } }",
        "go(l: Array<Bell>) { for (const b of l) b.ring(); }",
        "go() { Bell.one().ring(); }",
        "go(b?: Bell | null) { b?.ring(); b!.ring(); }",
        "go(b: Bell) { b.box.get().ring(); }",
        "go(b: Bell) { b.far.next.ring(); }",
        "go() { make().ring(); }",
        "async go(b: Bell) { const c = await new Bell(); b.ring(); }",
        "f = new Bell(); go() { this.f.ring(); }",
        "go(b: Bell) { const f = () => b.ring(); }",
        "go(l: Bell[]) { l.forEach((b: Bell) => b.ring()); }",
        "#f = new Bell(); go() { this.#f.ring(); }",
        "go = (b: Bell) => b.ring();",
    ),
    "php": (
        "function go(Bell $b) { $b->ring(); }",
        "private Bell $f; function go() { $this->f->ring(); }",
        "function __construct(private Bell $f) { } function go() { $this->f->near()->ring(); }",
        "function go() { (new Bell())->ring(); }",
        "function go() { $b = new Bell(); $b->ring(); }",
        "function go(?Bell $b) { $b?->ring(); }",
        "function go(Bell|null $b) { $b->ring(); }",
        "function go() { Bell::one()->ring(); }",
        "function go(Bell $b) { $b->next->next->ring(); }",
        "private $f; function __construct(Bell $b) { $this->f = $b; } function go() { $this->f->ring(); }",
        "function go(Bell $b) { $f = fn () => $b->ring(); }",
        "function go() { $f = function (Bell $b) { $b->ring(); }; }",
        "function __construct(private ?Bell $f = null) { $this->f = $f ?? new Bell(); } function go() { $this->f->ring(); }",
        "function make(): Bell { return new Bell(); } function go() { $this->make()->ring(); }",
        "private static Bell $s; function go() { self::$s->ring(); }",
    ),
    "python": (
        "    def go(self, b: Bell): b.ring()",
        "    f: Bell\n    def go(self): self.f.ring()",
        "    def __init__(self, f: Bell): self.f = f\n    def go(self): self.f.near().ring()",
        "    def go(self): Bell().ring()",
        "    def go(self):\n        b = Bell()\n        b.ring()",
        "    def go(self, b: 'Bell | None'): b.ring()",
        "    def go(self, l: list[Bell]):\n        for b in l: b.ring()",
        "    def go(self, l: list[Bell]): return [b.ring() for b in l]",
        "    def go(self): Bell.one().ring()",
        "    def go(self, b: Bell): b.far.next.ring()",
        "    def go(self): make().ring()",
        "    def go(self):\n        with Bell() as b: b.ring()",
        "    def __init__(self, f=None): self.f = f or Bell()\n    def go(self): self.f.ring()",
        "    def __init__(self): self.f = make()\n    def go(self): self.f.ring()",
        "    f = Bell()\n    def go(self): self.f.ring()",
        "    def go(self, b: Bell): return lambda: b.ring()",
        "    def go(self):\n        if (b := Bell()): b.ring()",
        "    def go(self, b: Bell):\n        def inner(): b.ring()\n        inner()",
        "    async def go(self, b: 'Bell' = None): await b.ring()",
    ),
}
"""Members of a class `User`, each with calls of `ring` on a `Bell`, and on nothing else."""

QUIET = {
    "java": (
        "void go(Object o) { o.ring(); }",
        "void go(Bell Other) { Other.hashCode(); }",
        "<Bell> void go(Bell b) { b.ring(); }",
    ),
    "csharp": ("void Go(dynamic o) { o.Ring(); }", "void Go<Bell>(Bell b) { b.Ring(); }"),
    "typescript": (
        "go(b: any) { b.ring(); }",
        "go(Bell: any) { Bell.ring(); }",
        "go(b: Bell) { for (const b of [1]) { b.ring(); } }",
    ),
    "php": ("function go($b) { $b->ring(); }", "function go(array $b) { $b[0]->ring(); }"),
    "python": (
        "    def go(self, b): b.ring()",
        "    def go(self, Bell): Bell.ring()",
        "    def go(self, b: Bell):\n        for b in (1, 2): b.ring()",
    ),
}
"""Members in which nothing can be said of what `ring` is called on."""

WHOLE = {
    "java": "{parts} class User {{ {members} }}",
    "csharp": "{parts} class User {{ {members} }}",
    "typescript": "{parts} class User {{ {members} }}",
    "php": "{parts} class User {{ {members} }}",
    "python": "{parts}class User:\n{members}\n",
}


class ReceiversTest(TreeTest):
    def rings(self, language: str, members: str) -> list[str]:
        """Targets of the calls of `ring` in a class with these members."""
        self.root = self.root.parent / f"tree{self._testMethodName}{len(list(self.root.parent.iterdir()))}"
        codebase = self.read({f"x{SUFFIX[language]}": WHOLE[language].format(parts=PARTS[language], members=members)})
        table = codebase.bonds
        rows = [row for row in table.rows_of_kind("call") if table.text_of("callee", row).lower() == "ring"]
        return [
            codebase.symbols.types[table.target[row]].name
            for row in rows
            if table.target[row] >= 0 and codebase.bond(row).source.endswith(("User", "In"))
        ]

    def test_what_is_known(self) -> None:
        for language in LANGUAGES:
            for members in RINGS[language]:
                with self.subTest(language=language, members=members):
                    calls = members.lower().count("ring()") + members.count("b::ring")
                    self.assertEqual(self.rings(language, members), ["Bell"] * calls)

    def test_what_is_not_known(self) -> None:
        for language in LANGUAGES:
            for members in QUIET[language]:
                with self.subTest(language=language, members=members):
                    self.assertEqual(self.rings(language, members), [])


SOFT = {
    "csharp": (
        "namespace P { [Mark] class A<T> : Up, IFace<Arg> where T : Up { Held<Inner> held; Prop P { get; set; } event Rung R; "
        "Given Back(Taken taken, ref Other other) { Here here = null; try { } catch (Trouble t) { } return "
        "(Cast)(object)held as Given; } } "
        "class Up { } interface IFace<T> { } class Held<T> { } }",
        "annotation Mark, extends Up, implements IFace, generic Arg, field Held, generic Inner, field Prop, field Rung, "
        "return Given, "
        "parameter Taken, parameter Other, local Here, catch Trouble, cast Cast, cast Given",
    ),
    "typescript": (
        "@Mark() class A extends Up<Arg> implements Face { held: Held<Inner>; opt?: Opt | null; constructor(private "
        "taken: Taken) { super(); } "
        "back(x: Other[]): Promise<Given> { const here: Here = x as Cast; if (here instanceof Tested) { } return null!; "
        "} } class Up<T> { }",
        "annotation Mark, extends Up, generic Arg, implements Face, field Held, generic Inner, field Opt, field Taken, "
        "parameter Taken, parameter Other, "
        "return Promise, generic Given, local Here, cast Cast, cast Tested",
    ),
    "php": (
        "<?php namespace P; #[Mark] class A extends Up implements Face { use Noisy; private ?Held $held; function "
        "__construct(private Taken $t) { } "
        "function back(Other|Third $x): Given { try { } catch (Trouble | Woe $e) { } if ($x instanceof Tested) { } "
        "return $x; } } class Up { }",
        "annotation Mark, extends Up, implements Face, implements Noisy, field Held, field Taken, parameter Taken, "
        "parameter Other, generic Third, return Given, "
        "catch Trouble, catch Woe, cast Tested",
    ),
    "python": (
        "@mark\nclass A(Up, Face[Arg]):\n    held: Held[Inner]\n    def __init__(self, taken: Taken, *more: Other) -> "
        "None:\n        self.kept: Kept = taken\n"
        "    def back(self) -> 'Given':\n        here: Here = None\n        try: ...\n        except Trouble as t: "
        "...\nclass Up: ...\n",
        "annotation mark, extends Up, extends Face, generic Arg, field Held, generic Inner, parameter Taken, parameter "
        "Other, field Kept, return Given, "
        "local Here, catch Trouble",
    ),
}


class SoftBondsTest(TreeTest):
    def test_declarations(self) -> None:
        for language, (source, wanted) in SOFT.items():
            with self.subTest(language=language):
                self.root = self.root.parent / language
                codebase = self.read({f"x{SUFFIX[language]}": source})
                bonds = [codebase.bond(row) for row in codebase.rows_in_order()]
                found = {
                    (bond.kind, bond.text) for bond in bonds if bond.source.replace("#", ".").replace("\\", ".").endswith(".A")
                }
                soft = {each for each in found if each[0] not in ("call", "creation", "static-call", "static-field")}
                self.assertEqual(soft, {tuple(each.split()) for each in wanted.split(", ")})


class MembersOfBondsTest(TreeTest):
    """Where a creation stands: member and context, as `export bonds` says it."""

    PLACES = (
        ("csharp", "class A { B f = new B(); }", "<init> field-initializer"),
        ("csharp", "class A { static B f = new B(); }", "<static> field-initializer"),
        ("csharp", "class A { B P { get; } = new B(); }", "<init> field-initializer"),
        ("csharp", "class A { B P => new B(); }", "P method"),
        ("csharp", "class A { B P { get { return new B(); } } }", "P method"),
        ("csharp", "class A { A() : this(new B()) { } }", "<init> constructor"),
        ("csharp", "class A { void F(object b) { void In() { new B(); } } }", "F method"),
        ("csharp", "class A { public static A operator -(A a, A b) => new B(); }", "op_Subtraction method"),
        ("typescript", "class A { f = new B(); }", "<init> field-initializer"),
        ("typescript", "class A { static f = new B(); }", "<static> field-initializer"),
        ("typescript", "class A { constructor(b = new B()) { } }", "<init> parameter-default"),
        ("typescript", "class A { h = () => new B(); }", "h method"),
        ("typescript", "class A { get p() { return new B(); } }", "p method"),
        ("typescript", "const f = () => new B();", "f method"),
        ("typescript", "function g() { return () => new B(); }", "g method"),
        ("typescript", "new B();", "<module> module"),
        ("php", "<?php class A { function f() { new B(); } }", "f method"),
        ("php", "<?php class A { function __construct(private $b = new B()) { } }", "<init> parameter-default"),
        ("php", "<?php function g() { return new B(); }", "g method"),
        ("php", "<?php new B();", "<module> module"),
        ("php", "<?php class A { function f() { return array_map(fn () => new B(), []); } }", "f method"),
        ("python", "class A:\n    f = B()", "<static> static-initializer"),
        ("python", "class A:\n    def __init__(self): self.f = B()", "<init> constructor"),
        ("python", "class A:\n    def f(self, b=B()): ...", "<static> parameter-default"),
        ("python", "def g():\n    def h(): return B()", "g method"),
        ("python", "x = B()", "<module> module"),
        ("python", "class A:\n    @property\n    def p(self): return B()", "p method"),
        ("python", "class A:\n    class In:\n        def f(self): B()", "f method"),
    )

    def test_places(self) -> None:
        for number, (language, source, wanted) in enumerate(self.PLACES):
            with self.subTest(language=language, source=source):
                self.root = self.root.parent / f"t{number}"
                declared = {"python": "\nclass B: ...\n", "php": " class B { }"}.get(language, " class B { }")
                codebase = self.read({f"x{SUFFIX[language]}": source + declared})
                (bond,) = [codebase.bond(row) for row in codebase.rows_in_order() if codebase.bond(row).kind == "creation"]
                self.assertEqual(f"{bond.member} {bond.context}", wanted)
