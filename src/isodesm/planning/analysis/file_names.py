"""Where a new type goes so that it is found: in some languages a rule makes the path of a file from the name of its type.

Which rule a codebase has, its own files show: `Pref_Feeds` in `classes/pref/feeds.php` is found by another than in
`classes/Pref_Feeds.php`.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterator
from typing import NamedTuple

from isodesm.planning.analysis.sources import Sources

_JOINTS = re.compile(r"(?<=[a-z0-9])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])")
SPELLINGS: dict[str, Callable[[str], str]] = {
    "as the type": str,
    "folders": lambda name: name.replace("_", "/"),
    "small": str.lower,
    "small folders": lambda name: name.replace("_", "/").lower(),
    "small, words apart": lambda name: _JOINTS.sub("_", name).lower(),
    "small, words joined by dashes": lambda name: _JOINTS.sub("-", name).replace("_", "-").lower(),
}
"""How files are named after their types, the plain ways first."""
_LEAD, _TAIL = re.compile(r"(?:[A-Za-z]+[.-])?+$"), re.compile(r"(?:\.[A-Za-z]+)?+$")
"""What may stand before and behind that in the name of a file: `class-a.php`, `A.class.php`."""


HABIT = 3
"""Types that a rule leads to from which it is one."""


class Rule(NamedTuple):
    """How the path of a file is made from the name of its type."""

    spelling: str
    lead: str = ""
    tail: str = ""

    def path(self, folder: str, name: str) -> str:
        """The path of a type below a folder, without suffix."""
        inner, slash, last = SPELLINGS[self.spelling](name).rpartition("/")
        return f"{folder}/{inner}{slash}{self.lead}{last}{self.tail}".lstrip("/")


class Seen(NamedTuple):
    """A rule by which a file is found, and the folder that it counts from."""

    rule: Rule
    folder: str


def path_beside(sources: Sources, number: int, name: str) -> str:
    """The path of the file that a new type of a name lives in, beside another one: in its folder, or where the rule of the
    codebase finds types that have no package, if it is not in that folder."""
    path, language = sources.path(number), sources.language(number)
    folder = path.rpartition("/")[0]
    usual = f"{folder}/{language.file_name(name)}".lstrip("/")
    if not language.files_found_by_name:
        return usual
    found, types = _votes(sources, number)
    order = list(SPELLINGS)
    ranked = sorted(found, key=lambda each: (-found[each], order.index(each.rule.spelling), each))
    own = set(_ways(sources, number))
    near = next((each for each in ranked if each in own and found[each] >= HABIT), None)
    usual_one = next((each for each in ranked if found[each] * 2 > types), None)
    chosen = near or usual_one or next((each for each in ranked if each in own), None)
    if chosen is None:
        return usual
    packaged = bool(sources.symbols.files[sources.symbols.file_of[number]].package)
    return f"{chosen.rule.path(folder if packaged else chosen.folder, name)}.{path.rpartition('.')[2]}"


def _votes(sources: Sources, number: int) -> tuple[Counter[Seen], int]:
    """To how many types of the language each rule leads, and how many any leads to; of packages, or of none as the type at
    hand."""
    symbols = sources.symbols
    file = symbols.file_of[number]
    language, packaged = symbols.files[file].language, bool(symbols.files[file].package)
    found: Counter[Seen] = Counter()
    types = 0
    for each, declared in enumerate(symbols.types):
        facts = symbols.files[symbols.file_of[each]]
        if facts.language == language and bool(facts.package) == packaged and declared.name and declared.kind != "module":
            ways = set(_ways(sources, each))
            found.update(ways)
            types += bool(ways)
    return found, types


def _ways(sources: Sources, number: int) -> Iterator[Seen]:
    """The rules that find a type in its file."""
    symbols, declared = sources.symbols, sources.symbols.types[number]
    facts = symbols.files[symbols.file_of[number]]
    alone = sum(1 for each in facts.types if each.outer < 0 and each.name and each.kind not in ("module", "anonymous")) == 1
    path = facts.path.rpartition(".")[0]
    if declared.outer >= 0 or not alone:
        return
    for spelling, spelt in SPELLINGS.items():
        inner, slash, last = spelt(declared.name).rpartition("/")
        folder, _, stem = path.rpartition("/")
        lead, found, tail = stem.partition(last)
        if not found or not _LEAD.match(lead) or not _TAIL.match(tail):
            continue
        if not slash:
            yield Seen(Rule(spelling, lead, tail), "" if facts.package else folder)
        elif f"/{folder}".endswith(f"/{inner}"):
            yield Seen(Rule(spelling, lead, tail), "" if facts.package else folder[: -len(inner)].rstrip("/"))
