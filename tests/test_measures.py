"""Measures: the worked examples of `docs/measures.md`, and sums that add up."""

from __future__ import annotations

from isodesm.codebase.model import read
from isodesm.diagnosis.hardbonds import diagnose
from isodesm.measures.coupling import measure_coupling
from isodesm.measures.ranking import ORDERS, rank
from tests.support import DEMO, TreeTest


class CouplingTest(TreeTest):
    def test_worked_example(self) -> None:
        """A uses B (twice) and C, C uses A; String is outside; nested and anonymous types count where they are written."""
        codebase = self.read({
            "A.java": "class A { B b; C c; String s; void m(B other) { new Object() { B in; }; } }",
            "B.java": "class B { }", "C.java": "class C { A a; C self; }",
        })  # fmt: skip
        coupling = dict(zip(codebase.symbols.names, measure_coupling(codebase), strict=False))
        self.assertEqual((coupling["B"].fan_in, coupling["B"].fan_out, coupling["B"].instability), (1, 0, 0.0))
        self.assertEqual((coupling["C"].fan_in, coupling["C"].fan_out), (1, 1))
        ranked = {row.name: row for row in rank(codebase, diagnose(codebase)).classes}
        self.assertEqual((ranked["A"].fan_in, ranked["A"].fan_out, ranked["A"].external, ranked["A"].instability), (1, 2, 2, 0.667))


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
        self.write({"shop/app/Till.java": self.SHOP % "", "shop/app/Relay.java": self.RELAY, "isodesm.toml": "[strain]\nhard-wired-creation = 10"})
        out = self.run_program("rank", ".", "--format", "csv").stdout.splitlines()
        self.assertEqual(out[1].split(",")[1:6], ["shop.app.Relay", "gateway", "", "20", "0"])

    def test_parts_add_up_to_the_whole(self) -> None:
        codebase = read(DEMO / "bulletin-desk")
        for by in ORDERS:
            ranking = rank(codebase, diagnose(codebase), by)
            with self.subTest(by=by):
                for row in ranking.classes:
                    self.assertEqual(row.strain, sum(row.own.values()) + row.borne)
                self.assertEqual(ranking.total_strain, sum(sum(row.own.values()) for row in ranking.classes))
                self.assertEqual([row.rank for row in ranking.classes], list(range(1, ranking.total_classes + 1)))

    def test_wrong_way_weighs_more(self) -> None:
        codebase = read(DEMO / "bulletin-desk")
        rows = {row.name.rpartition(".")[2]: row for row in rank(codebase, diagnose(codebase)).classes}
        self.assertEqual(rows["FileGaugeFeed"].borne, 2.0 * 2 * 1.5)  # one effect, from application to infrastructure
