"""One account of what a class reaches, and sentences that are measured: `about`, `trace` and `scan` say the same, over the
samples and all cases of findings; every claim of a hard bond is held against the facts."""

from __future__ import annotations

import re
from collections.abc import Iterator

from isodesm.codebase.model import Codebase
from isodesm.codebase.reading import read
from isodesm.diagnosis.diagnose import diagnose
from isodesm.diagnosis.hard_bonds.states import States
from isodesm.diagnosis.shared.findings import HARD_KINDS, Diagnosis, Finding
from isodesm.inference.effect_kinds import EFFECT_WORDS
from isodesm.inference.evidence import is_method
from isodesm.measures.dossier import make_dossier
from isodesm.measures.ranking import rank
from isodesm.queries.trace import Hop, trace
from isodesm.settings import Settings
from tests.support import CASES, DEMO, NoHistory, TreeTest, split_case

WORDS = {words: effect for effect, words in EFFECT_WORDS.items()}


def effects_on(hop: Hop, codebase: Codebase) -> set[str]:
    """What a trace comes to; what may run behind an abstraction, and is only named, as far as it reaches by itself."""
    found = {hop.effect} - {""}
    for number in (n for n, name in enumerate(codebase.symbols.names) if name in hop.candidates):
        found.update(codebase.effects.of_type(number))
    return found.union(*(effects_on(each, codebase) for each in hop.hops))


class AccountTest(TreeTest):
    def codebases(self) -> Iterator[tuple[str, Codebase]]:
        for sample in sorted(DEMO.iterdir()):
            yield sample.name, read(sample, Settings())
        for case in sorted((CASES / "findings").glob("*.txt")):
            self.root = self.root.parent / case.stem
            yield case.name, self.read(split_case(case.read_text()))

    def test_about_trace_and_scan_say_the_same(self) -> None:
        asked = 0
        for name, codebase in self.codebases():
            diagnosis = diagnose(codebase)
            ranking = rank(codebase, diagnosis)
            for number, declared in enumerate(codebase.symbols.types):
                if codebase.roles.name(number) == "test" or not declared.name:
                    continue
                with self.subTest(codebase=name, type=declared.name):
                    told = {each.effect for each in make_dossier(codebase, diagnosis, ranking, NoHistory(), number).locked}
                    self.assertEqual(told, set(codebase.effects.of_type(number)))
                    for index, member in enumerate(declared.members):
                        if is_method(member) and member.body != (0, 0):
                            reached = set(codebase.effects.of_node((number, index)))
                            asked += len(reached)
                            self.assertLessEqual(reached, self.traced(codebase, diagnosis, (number, index)), member.name)
        self.assertGreater(asked, 100)

    def traced(self, codebase: Codebase, diagnosis: Diagnosis, node: tuple[int, int]) -> set[str]:
        return effects_on(trace(codebase, diagnosis, node).start, codebase)


class SentencesTest(AccountTest):
    """Each sentence of a hard bond is one of these, and what it names is so."""

    test_about_trace_and_scan_say_the_same = None

    def test_every_claim_is_so(self) -> None:
        read_once: set[str] = set()
        for name, codebase in self.codebases():
            self.states, self.diagnosis = States(codebase), diagnose(codebase)
            for finding in self.diagnosis.places:
                if finding.kind in HARD_KINDS:
                    with self.subTest(codebase=name, place=f"{finding.file}:{finding.line}", reason=finding.reason):
                        read_once |= set(self.check(codebase, finding))
            for finding in self.diagnosis.findings:
                again = re.search(r", one of (\d+) places\.$", finding.message)
                self.assertEqual(finding.places, int(again[1]) if again else finding.places)
                self.assertTrue(again is None or finding.places > 1)
                places = {(each.file, each.line, each.message) for each in finding.related}
                self.assertEqual(len(places), len(finding.related), finding.message)
        self.assertEqual(read_once, {each for each in dir(self) if each.startswith("says_")})

    def check(self, codebase: Codebase, finding: Finding) -> Iterator[str]:
        """The names of the checks that a reason went through: all of its sentences, or none is known."""
        known = [
            (name, re.match(getattr(self, name).__doc__, finding.reason)) for name in dir(self) if name.startswith("says_")
        ]
        found = [(name, match) for name, match in known if match]
        self.assertTrue(found, "a sentence that nobody checks")
        for name, match in found:
            getattr(self, name)(codebase, finding, match)
            yield name

    def names(self, text: str) -> set[str]:
        return set(re.findall(r"`([\w$<>.]+)`", text))

    def says_reaches(self, codebase: Codebase, finding: Finding, said: re.Match[str]) -> None:
        r"""It reaches ([\w ]+?)(?: \((.+)\))?, and"""
        effects = [WORDS[words] for words in re.split(r" and (?=a |the |another |random|threads)", said[1])]
        self.assertEqual(effects, list(finding.effects[:2]))
        if said[2]:
            self.assertEqual(said[2].split(" → "), list(finding.chain))
        row, table = finding.row, codebase.bonds
        index = table.source_member[row]
        self.assertLessEqual(set(effects), {*codebase.effects.of_type(finding.source_number), *self.own(codebase, finding)})
        self.assertEqual(index < 0 or index < len(codebase.symbols.types[finding.source_number].members), True)

    def own(self, codebase: Codebase, finding: Finding) -> set[str]:
        """Effects of what a place uses by itself, felt on the spot or not."""
        both = (finding.source_number, finding.target_number)
        used = {use.effect for number in both for use in codebase.effects.used.get(number, ())}
        return used | set(codebase.effects.of_type(finding.target_number) if finding.target_number >= 0 else ())

    def says_is_changed_from(self, codebase: Codebase, finding: Finding, said: re.Match[str]) -> None:
        r"""It is changed from ((?:`[^`]+`(?:, )?)+)( as well)?; what `(.+)` does depends on who ran before"""
        writers = {codebase.symbols.types[each].name for each in self.writers(finding)}
        self.assertLessEqual(self.names(said[1]), {*writers, *(f"{w}" for w in writers)})
        self.assertEqual(bool(said[2]), finding.source_number in self.writers(finding))

    def writers(self, finding: Finding) -> set[int]:
        keys = [key for key, uses in self.states.uses.items() if any(use.row == finding.row for use in uses)]
        return {each for key in keys for each in self.states.writers(key)}

    def says_changes_it_itself(self, codebase: Codebase, finding: Finding, said: re.Match[str]) -> None:
        r"""`(.+)` changes it for everybody; what"""
        self.assertIn(finding.source_number, self.writers(finding))

    def says_its_keeper_changes_it(self, codebase: Codebase, finding: Finding, said: re.Match[str]) -> None:
        r"""`([^`]+)` changes it; what"""
        keeper = next(key for key, uses in self.states.uses.items() if any(use.row == finding.row for use in uses))
        self.assertTrue(self.states.is_set_by_keeper(keeper))

    def says_it_comes_with_the_request(self, codebase: Codebase, finding: Finding, said: re.Match[str]) -> None:
        r"""It comes with the request; what"""
        self.assertRegex(finding.message, r"`\$_[A-Z]+`")

    def says_nobody_knows(self, codebase: Codebase, finding: Finding, said: re.Match[str]) -> None:
        r"""Nothing here says what it holds; what"""
        self.assertEqual(self.writers(finding) - {finding.source_number}, set())

    def says_it_takes_it_already(self, codebase: Codebase, finding: Finding, said: re.Match[str]) -> None:
        r"""A constructor of `(.+?)` takes it already; this is only the default"""
        self.assertIn("default-of-seam", finding.why)
        if "made once" in finding.reason:
            self.assertEqual(codebase.bond(finding.row).context, "parameter-default")

    def says_there_are_others(self, codebase: Codebase, finding: Finding, said: re.Match[str]) -> None:
        r"""There are other implementations \((.+?)\), and this place has chosen one\."""
        others = {codebase.symbols.types[n].name for n in codebase.roles.other_implementations(finding.target_number)}
        self.assertLessEqual(self.names(said[1]), others)

    def says_it_works_with(self, codebase: Codebase, finding: Finding, said: re.Match[str]) -> None:
        r"""(?:Little more speaks for a service than that )?`[^`]+` works with ([\w$, ]+?)(?:;|,|\.| and )"""
        self.assertLessEqual(set(said[1].split(", ")), set(codebase.roles.collaborators(finding.target_number)))

    def says_what_speaks_for_it(self, codebase: Codebase, finding: Finding, said: re.Match[str]) -> None:
        r"""(?:Little more speaks for a service than that )?`[^`]+` (?!works with|changes)(.+?)(?:; a test has|, and `|\.$)"""
        self.assertEqual(
            codebase.roles[finding.target_number].evidence[0].reason.partition("; ")[0], said[1].partition("; ")[0]
        )

    def says_it_is_handed_the_owner(self, codebase: Codebase, finding: Finding, said: re.Match[str]) -> None:
        r"""It is handed `(.+)` itself, so nobody could make it beforehand\."""
        self.assertRegex(finding.snippet, r"\b(?:this|self)\b")

    def says_an_inner_class_decides(self, codebase: Codebase, finding: Finding, said: re.Match[str]) -> None:
        r"""An? (\w+) class decides on a class of the outer layer (\w+)\."""
        self.assertEqual(finding.crossing, f"{said[1]}→{said[2]}")
        self.assertEqual(finding.layer, said[1])

    def says_it_is_shared_behind(self, codebase: Codebase, finding: Finding, said: re.Match[str]) -> None:
        r"""It goes to what the whole program shares \((.+)\); all tests of `.+` share that, too\."""
        way = said[1].split(" → ")
        self.assertGreaterEqual(len(way), 2)
        for called in way[:-1]:
            owner, _, member = called.rpartition(".")
            owners = [n for n, each in enumerate(codebase.symbols.types) if each.name == owner.rpartition(".")[2]]
            self.assertTrue(any(member in codebase.symbols.members(n) for n in owners), called)

    def says_tests_share_what_was_left(self, codebase: Codebase, finding: Finding, said: re.Match[str]) -> None:
        r"""All tests of `.+` share that one object and what earlier tests left in it\."""
        held = re.search(r"fetches the shared `(.+?)`", finding.message)[1]
        kept = [n for n, each in enumerate(codebase.symbols.types) if each.name == held]
        self.assertTrue(any(codebase.own_changes.of(number) for number in kept))

    def says_tests_get_one_object(self, codebase: Codebase, finding: Finding, said: re.Match[str]) -> None:
        r"""All tests of `.+` get that one object, and none can be given another\."""
        self.assertEqual(finding.kind, "static-singleton")

    def says_it_is_cross_cutting(self, codebase: Codebase, finding: Finding, said: re.Match[str]) -> None:
        r"""It is cross-cutting, so each of them is left in peace; what it is set to still goes from one test to the next\."""
        self.assertTrue(self.states.chatter[finding.source_number])

    def says_a_need_does_not_show(self, codebase: Codebase, finding: Finding, said: re.Match[str]) -> None:
        r"""What `.+` needs does not show in its constructor, and fails only at run time\."""
        self.assertEqual(finding.kind, "service-lookup")
