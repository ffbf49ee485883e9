"""Measures: the worked examples of `docs/measures.md`, and sums that add up."""

from __future__ import annotations

import csv
from typing import Any
from unittest import mock
from xml.etree import ElementTree

from isodesm.diagnosis.diagnose import diagnose
from isodesm.diagnosis.shared.reach import knots_of
from isodesm.measures.coupling import measure_coupling
from isodesm.measures.graph import ClassGraph
from isodesm.measures.ranking import ORDERS, rank
from isodesm.measures.ripple import Sparse, measure_ripple, radius_bound, spread
from tests.support import DEMO, TreeTest, read_sample


class CouplingTest(TreeTest):
    def test_worked_example(self) -> None:
        """A uses B (twice) and C, C uses A; String is outside; nested and anonymous types count where they are written."""
        codebase = self.read(
            {
                "A.java": "class A { B b; C c; String s; void m(B other) { new Object() { B in; }; } }",
                "B.java": "class B { }",
                "C.java": "class C { A a; C self; }",
            }
        )
        coupling = dict(reversed(list(zip(codebase.symbols.names, measure_coupling(codebase), strict=True))))
        self.assertEqual((coupling["B"].fan_in, coupling["B"].fan_out, coupling["B"].instability), (1, 0, 0.0))
        self.assertEqual((coupling["C"].fan_in, coupling["C"].fan_out), (1, 1))
        self.assertEqual(
            [(coupling[name].coupled, coupling[name].knot, coupling[name].reach) for name in "ABC"],
            [(2, 2, 1), (1, 0, 2), (1, 2, 1)],
        )
        ranked = {row.name: row for row in rank(codebase, diagnose(codebase)).classes}
        self.assertEqual(
            (ranked["A"].fan_in, ranked["A"].fan_out, ranked["A"].external, ranked["A"].instability), (1, 2, 2, 0.667)
        )


class StrainTest(TreeTest):
    SHOP = "package shop.app; public class Till { Relay r = new Relay(); void x(int a) { if (a > 1) { r.send(); } %s } }"
    RELAY = "package shop.app; public class Relay { void send() { try { new java.net.Socket(); } catch (Exception e) { } } }"

    def test_worked_example(self) -> None:
        """A creation (2) of a target with one locked effect: 2 × (1 + 1) = 4, own strain of one, borne strain of the other."""
        codebase = self.read({"shop/app/Till.java": self.SHOP % "", "shop/app/Relay.java": self.RELAY})
        rows = {row.name.rpartition(".")[2]: row for row in rank(codebase, diagnose(codebase)).classes}
        self.assertEqual((rows["Till"].own, rows["Till"].borne, rows["Till"].strain), ({"hard-wired-creation": 4.0}, 0.0, 4.0))
        self.assertEqual((rows["Relay"].own, rows["Relay"].borne, rows["Relay"].hard_in), ({}, 4.0, 1))

    def test_weights_come_from_the_settings(self) -> None:
        self.write(
            {
                "shop/app/Till.java": self.SHOP % "",
                "shop/app/Relay.java": self.RELAY,
                "isodesm.toml": "[strain]\nhard-wired-creation = 10",
            }
        )
        first = next(csv.DictReader(self.run_program("rank", ".", "--format", "csv").stdout.splitlines()))
        self.assertEqual(
            [first[each] for each in ("name", "role", "layer", "strain", "own")], ["shop.app.Relay", "gateway", "", "20", ""]
        )

    def test_parts_add_up_to_the_whole(self) -> None:
        codebase = read_sample("bulletin-desk")
        for by in ORDERS:
            ranking = rank(codebase, diagnose(codebase), by)
            with self.subTest(by=by):
                for row in ranking.classes:
                    self.assertEqual(row.strain, sum(row.own.values()) + row.borne)
                self.assertEqual(ranking.total_strain, sum(sum(row.own.values()) for row in ranking.classes))
                self.assertEqual([row.rank for row in ranking.classes], list(range(1, ranking.total_classes + 1)))

    def test_wrong_way_weighs_more(self) -> None:
        codebase = read_sample("bulletin-desk")
        rows = {row.name.rpartition(".")[2]: row for row in rank(codebase, diagnose(codebase)).classes}
        self.assertEqual(rows["FileGaugeFeed"].borne, 2.0 * 2 * 1.5)  # one effect, from application to infrastructure


class PackageTest(TreeTest):
    def test_worked_example(self) -> None:
        """An interface and a class that one outsider depends on: |0.5 + 0 − 1| = 0.5."""
        codebase = self.read(
            {
                "p/I.java": "package p; public interface I { }",
                "p/C.java": "package p; public class C { }",
                "q/U.java": "package q; class U { p.C c; }",
            }
        )
        coupling = dict(zip(codebase.symbols.names, measure_coupling(codebase), strict=True))
        self.assertEqual((coupling["p.C"].abstractness, coupling["p.C"].distance), (0.5, 0.5))
        self.assertEqual(
            (coupling["q.U"].abstractness, coupling["q.U"].distance), (0.0, 0.0)
        )  # only uses: on the main sequence


class SizeAndChainTest(TreeTest):
    SOURCES = {
        "Far.java": "class Far { Near n = new Near(); int a(int n) { if (n > 1) { return this.n.go(n); } return 2; } }",
        "Near.java": "class Near { Wire w = new Wire(); Wire v = new Wire();\n int go(int n) { return w.send(n) > 1 ? "
        "v.send(n) : 1; }\n private int own() { return 1; }\n}",
        "Wire.java": "class Wire implements Line { public int send(int n) { try { new java.net.Socket(); } catch "
        "(Exception e) { } return n; } public int idle() { return 1; } }",
        "Line.java": "interface Line { int send(int n); }",
        "Still.java": "class Still implements Line { public int send(int n) { return n; } }",
        "Make.java": "class Make { Wire w(boolean b) { return b ? new Wire() : null; } }",
    }

    def test_what_is_counted(self) -> None:
        codebase = self.read(self.SOURCES)
        row = dict(zip(codebase.symbols.names, measure_coupling(codebase), strict=True))
        self.assertEqual(
            [(row[name].chain_depth, row[name].chain_count) for name in ("Far", "Near", "Wire")], [(2, 2), (1, 1), (0, 0)]
        )
        self.assertEqual((row["Wire"].places, row["Wire"].others, row["Wire"].to_extend), (3, 1, 2))
        self.assertEqual((row["Wire"].members, row["Wire"].members_used), (2, 1))
        self.assertEqual((row["Near"].lines, row["Near"].members), (4, 3))

    def test_reach_equals_a_plain_search(self) -> None:
        """Exact on every sample, cycles included, in blocks of any size."""
        from isodesm.measures import reach

        for sample in ("bulletin-desk", "forecast-jobs"):
            graph = ClassGraph(read_sample(sample))
            users: dict[int, set[int]] = {}
            for source, target in graph.pairs.tolist():
                users.setdefault(target, set()).add(source)
            wanted = []
            for number in range(graph.count):
                seen, waiting = set(), [number]
                while waiting:
                    for each in users.get(waiting.pop(), ()):
                        if each not in seen:
                            seen.add(each)
                            waiting.append(each)
                wanted.append(len(seen - {number}))
            for block in (5, 4096):
                with self.subTest(sample=sample, block=block), mock.patch.object(reach, "BLOCK", block):
                    self.assertEqual(reach.measure_reach(graph).tolist(), wanted)

    def test_knots_are_those_of_another_search(self) -> None:
        import numpy
        from scipy.sparse import csr_array
        from scipy.sparse.csgraph import connected_components

        generator = numpy.random.default_rng(3)
        for count, density in ((0, 0.0), (1, 0.0), (30, 0.02), (30, 0.05), (30, 0.1), (200, 0.004), (200, 0.01)):
            with self.subTest(count=count, density=density):
                dense = generator.random((count, count)) < density
                users, used = numpy.nonzero(dense)
                starts = numpy.searchsorted(users, numpy.arange(count + 1)).tolist()
                found = knots_of(starts, used.tolist())
                number, wanted = connected_components(csr_array(dense), directed=True, connection="strong")
                self.assertEqual(len(set(zip(found, wanted.tolist(), strict=True))), number)
                self.assertEqual(len(set(found)), number)
                self.assertTrue(all(found[one] >= found[other] for one, other in zip(users, used, strict=True)))


class RippleTest(TreeTest):
    def test_worked_example(self) -> None:
        codebase = self.read({"A.java": "class A extends B { }", "B.java": "class B extends C { }", "C.java": "class C { }"})
        found = measure_ripple(ClassGraph(codebase))
        ripple = dict(zip(codebase.symbols.names, found.values.round(6).tolist(), strict=True))
        self.assertEqual(ripple, {"A": 0.0, "B": 0.3, "C": 0.39})
        self.assertEqual(found.scale, 1.0)

    def sparse(self, dense: Any) -> Sparse:
        rows, columns = dense.nonzero()
        return Sparse(dense[rows, columns], rows, columns, len(dense))

    def test_the_series_solves_the_equation(self) -> None:
        import numpy

        generator = numpy.random.default_rng(7)
        for density, high in ((0.05, 0.2), (0.2, 0.3)):
            dense = (generator.random((40, 40)) < density) * generator.random((40, 40)) * high
            radius = max(abs(numpy.linalg.eigvals(dense)))
            bound = radius_bound(self.sparse(dense))
            with self.subTest(density=density):
                self.assertGreaterEqual(bound, radius - 1e-9)
                self.assertLess(bound, radius * 1.25 + 0.05)
                scaled = dense * min(1.0, 0.9 / bound)
                numpy.testing.assert_allclose(
                    spread(self.sparse(scaled)), numpy.linalg.solve(numpy.eye(40) - scaled.T, numpy.ones(40)), rtol=1e-6
                )

    def test_a_dense_knot_is_scaled_and_said_to_be(self) -> None:
        names = [f"K{n}" for n in range(12)]
        files = {
            f"{name}.java": "class " + name + " { " + " ".join(f"{o} f{o} = new {o}();" for o in names if o != name) + " }"
            for name in names
        }
        codebase = self.read(files)
        found = measure_ripple(ClassGraph(codebase))
        self.assertGreater(found.radius, 1.0)
        self.assertAlmostEqual(found.scale, 0.9 / found.radius)
        self.assertTrue(all(0 < value < 12 for value in found.values))
        self.assertIn("all chances scaled by", self.run_program("rank").stdout)

    def test_nothing_bound_nothing_felt(self) -> None:
        found = measure_ripple(ClassGraph(self.read({"A.java": "class A { }"})))
        self.assertEqual((found.values.tolist(), found.radius), ([0.0], 0.0))


class RankOptionsTest(TreeTest):
    def rows(self, *arguments: str) -> list[dict[str, str]]:
        result = self.run_program("rank", str(DEMO / "bulletin-desk"), "--format", "csv", "--top", "0", *arguments)
        self.assertEqual(result.returncode, 0, result.stderr)
        return list(csv.DictReader(result.stdout.splitlines()))

    def test_layer_and_role(self) -> None:
        everything = self.rows()
        for option, value in (("layer", "domain"), ("role", "gateway")):
            found = self.rows(f"--{option}", value)
            self.assertEqual(found, [row for row in everything if row[option] == value])
            self.assertTrue(found)

    def test_every_order_sorts_by_its_measure(self) -> None:
        columns = {
            "fan-in": "fan_in",
            "reach": "reach",
            "ripple": "ripple",
            "lines": "lines",
            "to-extend": "to_extend",
            "chain": "chain_count",
            "knot": "knot",
        }
        for by, column in columns.items():
            values = [float(row[column]) for row in self.rows("--by", by)]
            with self.subTest(by=by):
                self.assertEqual(values, sorted(values, reverse=True))
                self.assertGreater(values[0], 0)

    def test_the_figure_has_three_drawings(self) -> None:
        result = self.run_program("rank", str(DEMO / "bulletin-desk"), "--figure", "r.svg")
        self.assertEqual(result.returncode, 0, result.stderr)
        ids = [each.get("id", "") for each in ElementTree.parse(self.root / "r.svg").iter()]
        self.assertEqual(sum(1 for each in ids if each.startswith("axes_")), 3)
        self.assertGreater(sum(1 for each in ids if each.startswith("patch_")), 90)

    def test_wrong_options(self) -> None:
        for arguments, wanted in (
            (("--by", "reech"), "Did you mean `reach`?"),
            (("--role", "servise"), "Did you mean `service`?"),
            (("--layer", "x"), "There is no layer"),
        ):
            result = self.run_program("rank", str(DEMO / "bulletin-desk"), *arguments)
            with self.subTest(arguments=arguments):
                self.assertEqual((result.returncode, wanted in result.stderr), (2, True), result.stderr)
