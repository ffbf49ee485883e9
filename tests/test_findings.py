"""Findings and excuses, with what is expected written beside each line of small sources."""

from __future__ import annotations

import re
from collections import defaultdict

from isodesm.catalogue import catalogue_of
from isodesm.diagnosis.diagnose import diagnose
from isodesm.diagnosis.shared.findings import EXCUSES, HARD_KINDS, Diagnosis
from tests.support import CASES, TreeTest, case_names, read_sample, split_case


def verdicts_by_line(diagnosis: Diagnosis) -> dict[tuple[str, int], list]:
    found = defaultdict(list)
    for each in (*diagnosis.places, *diagnosis.excused):
        found[each.file, each.line].append(each)
    return found


class FindingCasesTest(TreeTest):
    def test_cases(self) -> None:
        """`//! level kind [tag …]` or `//! excused reason`, one after another for several; other lines have no finding."""
        for name in case_names("findings"):
            files = split_case((CASES / "findings" / name).read_text(encoding="utf-8"))
            self.root = self.root.parent / name
            found = verdicts_by_line(diagnosis := diagnose(self.read(files), excused=True))
            self.check_chains(name, diagnosis)
            for path, body in files.items():
                for number, line in enumerate(body.splitlines(), 1):
                    with self.subTest(case=name, file=path, line=line.strip()):
                        self.check_line(line, found[path, number])

    def check_chains(self, name: str, diagnosis: Diagnosis) -> None:
        """What brings an effect along says over which classes, down to the API."""
        for each in diagnosis.findings:
            if each.kind in HARD_KINDS and each.effects:
                with self.subTest(case=name, source=each.source, line=each.line):
                    self.assertGreaterEqual(len(each.chain), 2)

    def check_line(self, line: str, verdicts: list) -> None:
        said = re.split(r"(?://|#)!", line, maxsplit=1)[1:]
        wanted = [part.split() for part in "".join(said).split(";") if part.strip()]
        shown = sorted(f"{v.level} {v.kind}" for v in verdicts if not v.excuse)
        self.assertEqual(shown, sorted(" ".join(w[:2]) for w in wanted if not w[0].startswith("excused")))
        self.assertEqual([v for v in verdicts if bool(v.remedy and v.reason) == (v.excuse not in ("", "accepted"))], [])
        excuses = sorted(v.excuse for v in verdicts if v.excuse)
        if any(w[0] == "excused" for w in wanted):
            self.assertEqual(excuses, sorted(w[1] for w in wanted if w[0] == "excused"))
        tags = " ".join(tag for v in verdicts for tag in v.why)
        for each in wanted:
            for tag in each[2:] if each[0] != "excused" else ():
                self.assertIn(tag, tags)


class DemoFaultsTest(TreeTest):
    PLANTED = {
        ("BulletinService", 20): ["hard-wired-creation"],
        ("BulletinService", 24): ["dependency-cycle", "hard-wired-creation"],
        ("BulletinService", 32): ["static-effect"],
        ("BulletinService", 41): ["static-singleton"],
        ("BulletinService", 43): ["hard-wired-creation"],
        ("BulletinService", 49): ["static-singleton"],
        ("ClosureService", 16): ["service-lookup"],
        ("ClosureService", 24): ["static-effect"],
        ("DutyRoster", 15): ["service-lookup"],
        ("MorningRound", 15): ["hard-wired-creation"],
        ("MorningRound", 16): ["hard-wired-creation"],
        ("MorningRound", 17): ["hard-wired-creation"],
        ("MorningRound", 38): ["hard-wired-creation"],
        ("BulletinPage", 21): ["service-lookup"],
        ("StatusPage", 14): ["layer-skip", "static-singleton"],
        ("DutyRoster", 12): ["outward-dependency"],
        ("DigestService", 15): ["mixed-responsibility"],
        ("SirenDrill", 8): ["outward-dependency"],
        ("SirenDrill", 11): ["late-dependency"],
    }

    def test_every_planted_fault_and_nothing_else(self) -> None:
        diagnosis = diagnose(read_sample("bulletin-desk"))
        found = defaultdict(list)
        for each in diagnosis.places:
            found[each.source.rpartition(".")[2], each.line].append(each.kind)
        self.assertEqual({place: sorted(kinds) for place, kinds in found.items()}, self.PLANTED)

    def test_chain_and_words(self) -> None:
        diagnosis = diagnose(read_sample("bulletin-desk"))
        (siren,) = [f for f in diagnosis.findings if f.target.endswith("SirenRelay") and f.source.endswith("BulletinService")]
        self.assertEqual(siren.chain, ("BulletinService", "SirenRelay", "Socket"))
        self.assertEqual((siren.level, siren.crossing), ("error", "application→infrastructure"))
        self.assertIn("reaches the network (BulletinService → SirenRelay → Socket)", siren.reason)
        self.assertEqual(siren.snippet[siren.column - 1 : siren.end_column - 1], 'new SirenRelay("siren.valley", 7011)')


class IdentityTest(TreeTest):
    SOURCE = (
        "class A {{ {0} java.net.Socket s() throws Exception {{ return new java.net.Socket(); }} void t() throws "
        "Exception {{ Thread.sleep(1); Thread.sleep(2); }} }}"
    )

    def test_ids_survive_moved_lines_and_tell_twins_apart(self) -> None:
        ids = []
        for filler in ("", "\n\n\n// moved\n"):
            found = diagnose(self.read({"A.java": self.SOURCE.format(filler)})).places
            ids.append([finding.id for finding in found])
        self.assertEqual(ids[0], ids[1])
        self.assertEqual(len(set(ids[0])), len(ids[0]))
        self.assertGreaterEqual(len(ids[0]), 2)


class EffectReachTest(TreeTest):
    def test_effects_fade_beyond_the_reach_and_stop_at_soft_bonds(self) -> None:
        """A chain of creations S0 → S1 → … → the network; a class that is handed S0 is free of it."""
        hops = "".join(
            f"class S{n} {{ S{n + 1} next = new S{n + 1}(); void go(int a) {{ if (a > 1) {{ next.go(a); }} }} }}\n"
            for n in range(6)
        )
        last = "class S6 { void go(int a) throws Exception { new java.net.Socket(); } }\n"
        soft = "class Soft { final S4 s; Soft(S4 s) { this.s = s; } void go() { s.go(1); } }\n"
        codebase = self.read({"S.java": hops + last + soft})
        locked = {codebase.symbols.types[n].name: codebase.effects.of_type(n) for n in range(len(codebase.symbols))}
        self.assertEqual(locked["S5"], ("network",))
        self.assertEqual(locked["S3"], ("network",))
        self.assertEqual(locked["S2"], ())
        self.assertEqual(locked["S0"], ())
        self.assertEqual(locked["Soft"], ())


class CatalogueTest(TreeTest):
    def test_every_effect_entry_is_recognised(self) -> None:
        """Sources are generated from the entries; each use must give its effect."""
        lines, wanted = [], []
        for effect, types in catalogue_of("java").effects.items():
            for name, members in types.items():
                for member in members:
                    called = member.partition("/")[0]
                    if called == "new":
                        lines.append(f"new {name}({'' if member == 'new/0' else '1'});")
                    else:
                        lines.append(f"{name}.{'any' if called == '*' else called}();")
                    wanted.append(effect)
        body = "\n".join(f"void m{n}() {{ {line} }}" for n, line in enumerate(lines))
        codebase = self.read({"A.java": f"class A {{\n{body}\n}}"})
        uses = {codebase.bonds.line[use.row] - 2: use.effect for use in codebase.effects.used[0]}
        for number, effect in enumerate(wanted):
            with self.subTest(use=lines[number]):
                self.assertEqual(uses.get(number), effect)

    def test_every_excuse_is_used_somewhere(self) -> None:
        """An excuse without a case would be one that nobody checks."""
        text = "".join((CASES / "findings" / name).read_text(encoding="utf-8") for name in case_names("findings"))
        self.assertEqual([each for each in EXCUSES if f"excused {each}" not in text], [])
