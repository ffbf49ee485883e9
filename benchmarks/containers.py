"""Whether what `wiring` says is what a container does: `containers.py TREE COMMAND…`.

The command starts the container of the tree and prints what it did, one thing a line, tabs between the words:

    gets   ASKED  CLASS  shared|fresh    what came for a name or a type, and whether a second time the same object came
    fails  ASKED                         nothing came
    holds  OWNER  CLASS                  what an object that came holds, directly or in a list

Classes go by their simple names; an ASKED is a class, an interface or the key of a registration. Lines about what the tree does
not declare are left aside. Prints what differs and a last line with the counts; ends with 1 if anything differs.
"""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Iterable
from pathlib import Path

import isodesm
from isodesm.codebase.model import Codebase
from isodesm.linking.bonds import KIND_NUMBER
from isodesm.linking.symbols import simple_name

WORDS = {"singleton": "shared", "transient": "fresh"}
"""How long something lives to what asking twice shows; what lives for a request shows either."""


def said_by(command: list[str], root: Path) -> list[list[str]]:
    """The lines of a command, split."""
    done = subprocess.run(command, cwd=root, capture_output=True, text=True, check=False)
    if done.returncode:
        raise SystemExit(done.stderr)
    return [line.split("\t") for line in done.stdout.splitlines() if line]


class Expected:
    """What the wiring of a codebase lets expect."""

    def __init__(self, codebase: Codebase) -> None:
        self.codebase, self.wiring = codebase, codebase.wiring
        self.findings = isodesm.diagnose(codebase).findings
        self.names = {declared.name for declared in codebase.symbols.types}

    def _numbers(self, name: str) -> list[int]:
        return [number for number, declared in enumerate(self.codebase.symbols.types) if declared.name == name]

    def given(self, asked: str) -> set[tuple[str, str]]:
        """Classes that may come for a name or type, each with what asking twice shows ('' for either)."""
        found = set()
        for service in self.wiring.services:
            given = service.registration
            names = {simple_name(given.abstraction), given.id, simple_name(given.id)}
            if asked in names and not given.only_for and not self.wiring.is_of_test(service):
                made = [self.codebase.symbols.types[service.implementation].name] if service.implementation >= 0 else []
                for each in (*made, *map(simple_name, given.made)):
                    found.add((each, WORDS.get(service.lifetime, "")))
        for number in self._numbers(asked):
            rules = [self.wiring.rules_of(each) for each in self.wiring.by_implementation.get(number, ())]
            if number in self.wiring.autowired or any(each.registers == "concrete" for each in rules):
                found.add((asked, ""))
        return found

    def held(self, owner: str) -> set[str]:
        """Classes that an object of a class may be handed, or makes itself."""
        found = set()
        for number in self._numbers(owner):
            for injection in self.wiring.handed_to(number):
                answer = self.wiring.answer(injection)
                served = (answer.chosen, *answer.candidates, *(each.implementation for each in answer.services))
                found |= {self.codebase.symbols.types[each].name for each in served if each >= 0}
            bonds = self.codebase.bonds
            made = (bonds.target[row] for row in bonds.rows_of_source(number) if bonds.kind[row] == KIND_NUMBER["creation"])
            found |= {self.codebase.symbols.types[each].name for each in made if each >= 0}
        return found

    def fails(self, asked: str) -> bool:
        """Whether the container is said not to make something: an error stands at it, or at what it is made of."""
        errors = {each.source for each in self.findings if each.level in ("error", "warning") and each.kind in FAULTS}
        waiting, seen = [name for name, _ in self.given(asked)] or [asked], set()
        while waiting:
            name = waiting.pop()
            if name not in seen:
                seen.add(name)
                waiting += self.held(name)
        return any(simple_name(each) in seen for each in errors) or not self.given(asked)


FAULTS = (
    "unregistered-dependency",
    "mismatched-argument",
    "ambiguous-implementation",
    "untyped-injection-point",
    "dependency-cycle",
)
"""Kinds of findings for which a container fails."""


def compare(codebase: Codebase, lines: Iterable[list[str]]) -> tuple[int, list[str]]:
    """How many lines agree, and what is wrong with the others."""
    expected, same, wrong = Expected(codebase), 0, []
    for word, asked, *rest in lines:
        if word == "gets" and rest[0] in expected.names:
            fits = any(rest[0] == name and shown in ("", rest[1]) for name, shown in expected.given(asked))
            said = f"`{asked}` gives {rest[0]}, {rest[1]}; wiring says {sorted(expected.given(asked))}"
        elif word == "holds" and asked in expected.names and rest[0] in expected.names:
            fits = rest[0] in expected.held(asked)
            said = f"`{asked}` holds {rest[0]}; wiring says {sorted(expected.held(asked))}"
        elif word == "fails":
            fits, said = expected.fails(asked), f"`{asked}` fails; wiring finds nothing wrong with it"
        else:
            continue
        same += fits
        wrong += [] if fits else [said]
    return same, wrong


def main() -> int:
    """Compare, and print what differs."""
    root = Path(sys.argv[1])
    same, wrong = compare(isodesm.read(root), said_by(sys.argv[2:], root))
    for each in wrong:
        print(each)
    print(f"{same} agree, {len(wrong)} differ")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
