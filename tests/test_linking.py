"""Bonds of small trees, with what is expected written beside each line."""

from __future__ import annotations

import re
from collections import defaultdict

from tests.support import CASES, TreeTest, case_names, split_case

EXACT = ("creation", "static-call", "static-field", "lookup")
"""Kinds of which a line may hold no more than the case says."""

MARK = re.compile(r"(//|#)([:@])(.*)")


class LinkingTest(TreeTest):
    def test_cases(self) -> None:
        """`//: kind target; …` (or `#: …`) lists the bonds of a line; `//@ source member` says where its creations belong."""
        for name in case_names("linking"):
            files = split_case((CASES / "linking" / name).read_text(encoding="utf-8"))
            found = self.bonds_by_line(files)
            for path, body in files.items():
                for number, line in enumerate(body.splitlines(), 1):
                    with self.subTest(case=name, file=path, line=line.strip()):
                        self.check_line(line, found[path, number])

    def bonds_by_line(self, files: dict[str, str]) -> dict[tuple[str, int], list]:
        codebase = self.read(files)
        found = defaultdict(list)
        for row in codebase.rows_in_order():
            bond = codebase.bond(row)
            found[bond.file, bond.line].append(bond)
        return found

    def check_line(self, line: str, bonds: list) -> None:
        _, mark, said = next(iter(MARK.findall(line)), ("", "", ""))
        if mark == "@":
            places = {(bond.source, bond.member) for bond in bonds if bond.kind in EXACT}
            self.assertEqual(places, {tuple(said.split())})
            return
        wanted = [tuple(part.split()) for part in said.split(";") if part.strip()]
        exact = sorted((bond.kind, bond.target) for bond in bonds if bond.kind in EXACT)
        self.assertEqual(exact, sorted(each for each in wanted if each[0] in EXACT))
        rest = [(bond.kind, bond.target) for bond in bonds]
        for each in wanted:
            self.assertIn(each, rest)
            rest.remove(each)

    def test_columns_count_characters(self) -> None:
        source = 'class A {\n\tString ü = "äöü"; Object o = new /* x */ Part();\n}\nclass Part {}\n'
        codebase = self.read({"A.java": source})
        (bond,) = [codebase.bond(row) for row in codebase.rows_in_order() if codebase.bond(row).kind == "creation"]
        self.assertEqual((bond.line, bond.column), (2, source.splitlines()[1].index("new") + 1))

    def test_line_ends(self) -> None:
        for end in ("\n", "\r\n", "\r"):
            with self.subTest(end=end):
                codebase = self.read({"A.java": end.join(["class A {", "  Object o =", "    new A();", "}"])})
                places = [(b.line, b.column) for b in map(codebase.bond, codebase.rows_in_order()) if b.kind == "creation"]
                self.assertEqual(places, [(3, 5)])

    def test_the_nearer_of_two_types_is_taken(self) -> None:
        """A type declared in two source roots: each root sees its own, a third can't tell."""
        twin = "package p; public class Twin {}"
        user = "package p; class %s { Object o = new Twin(); }"
        codebase = self.read(
            {
                "one/p/Twin.java": twin,
                "two/p/Twin.java": twin,
                "one/p/UserOne.java": user % "UserOne",
                "two/p/UserTwo.java": user % "UserTwo",
                "three/p/UserThree.java": user % "UserThree",
            }
        )
        table, symbols = codebase.bonds, codebase.symbols
        seen = {
            symbols.types[table.source[row]].name: (symbols.path(table.target[row]), codebase.bond(row).ambiguous)
            for row in table.rows_of_kind("creation")
        }
        self.assertEqual(seen["UserOne"], ("one/p/Twin.java", False))
        self.assertEqual(seen["UserTwo"], ("two/p/Twin.java", False))
        self.assertTrue(seen["UserThree"][1])

    def test_a_ring_of_bases_ends(self) -> None:
        codebase = self.read({"A.java": "class A extends B { Object o = new Missing(); } class B extends A { }"})
        self.assertEqual(len(codebase.symbols), 2)

    def test_soft_bonds(self) -> None:
        """Kinds that a declaration makes, each at its member."""
        source = (
            "package p; @Mark class A<T extends Cap> extends Up implements Face<Arg> {\n"
            "  Held<Inner> held;\n  Given back(Taken taken) throws Trouble { try { Here here; } catch (One | Two e) { } "
            "catch (Three e) { } return (Cast) null; }\n}\n"
            + "".join(f"class {name} {{ }} " for name in "Cap Up Arg Inner Taken Given Trouble Here One Two Three Cast".split())
            + "interface Face<X> { } class Held<X> { } @interface Mark { }"
        )
        codebase = self.read({"p/A.java": source})
        found = {
            (b.kind, b.target.removeprefix("p.")) for b in map(codebase.bond, codebase.rows_in_order()) if b.source == "p.A"
        }
        wanted = (
            "annotation Mark, extends Up, implements Face, generic Arg, field Held, generic Inner, return Given, "
            "parameter Taken, throws Trouble, local Here, catch One, catch Two, catch Three, cast Cast"
        )
        self.assertEqual(found, {tuple(each.split()) for each in wanted.split(", ")})

    def test_annotations_belong_to_what_they_stand_on(self) -> None:
        source = "@Mark(A.X) class A { static int X; @Mark(A.X) int f; @Mark(A.X) static int g; @Mark(A.X) void m() { } }"
        codebase = self.read({"A.java": source + " @interface Mark { int value(); }"})
        members = [codebase.bond(row).member for row in codebase.rows_in_order() if codebase.bond(row).kind == "static-field"]
        self.assertEqual(members, ["<static>", "<init>", "<static>", "m"])


class ExportOrderTest(TreeTest):
    def test_sorted_by_place(self) -> None:
        codebase = self.read(
            {f"{name}.java": f"class {name} {{ {name} x = new {name}(); Object y = new Object(); }}" for name in "BAC"}
        )
        places = [(b.file, b.line, b.column, re.sub("-", "", b.kind)) for b in map(codebase.bond, codebase.rows_in_order())]
        self.assertEqual([place[:3] for place in places], sorted(place[:3] for place in places))
