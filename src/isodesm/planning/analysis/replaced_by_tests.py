"""What tests put something else in the place of, by where code looks it up."""

from __future__ import annotations

import re
from collections import defaultdict
from typing import NamedTuple

from isodesm.codebase.model import Codebase
from isodesm.inference.evidence import is_test_path
from isodesm.linking.remembering import remembered
from isodesm.planning.analysis.names_in_code import home_of_file


class Replaced(NamedTuple):
    """A place in a test that replaces something: what it is looked up in, as written, and where the test says so."""

    owner: str
    file: str
    line: int


def replaced_by_a_test(codebase: Codebase, number: int, name: str) -> Replaced | None:
    """Where a test replaces what the file of a class looks up by a dotted name; None where none does."""
    facts = codebase.symbols.files[codebase.symbols.file_of[number]]
    owner, _, last = name.rpartition(".")
    home = home_of_file(codebase, codebase.symbols.file_of[number])
    short = home.rpartition(".")[2]
    full = {each for each in (f"{home}.{owner}".rstrip("."), f"{short}.{owner}".rstrip("."), owner) if each}
    known = (each for each in _replaced(codebase, facts.language).get(last, ()))
    return next((each for each in known if each.owner in full or any(each.owner.endswith(f".{one}") for one in full)), None)


@remembered
def _replaced(codebase: Codebase, language: str) -> dict[str, list[Replaced]]:
    """Simple name to where tests replace something of that name, in order of file and line."""
    rules = codebase.symbols.catalogues.of(language).replaced_by_tests
    found: dict[str, list[Replaced]] = defaultdict(list)
    if not rules.path and not rules.member:
        return found
    by_path = re.compile(rf"\b(?:{'|'.join(map(re.escape, rules.path))})\(\s*+[\"']([\w.]++)[\"']")
    by_member = re.compile(rf"\b(?:{'|'.join(map(re.escape, rules.member))})\(\s*+([A-Za-z_][\w.]*+)\s*+,\s*+[\"'](\w++)[\"']")
    for number, facts in enumerate(codebase.symbols.files):
        if facts.language != language or not is_test_path(facts.path):
            continue
        text = codebase.text(number).decode("utf-8", "replace")
        for match in by_path.finditer(text):
            owner, _, name = match[1].rpartition(".")
            found[name].append(Replaced(owner, facts.path, text.count("\n", 0, match.start()) + 1))
        for match in by_member.finditer(text):
            found[match[2]].append(Replaced(match[1], facts.path, text.count("\n", 0, match.start()) + 1))
    return found
