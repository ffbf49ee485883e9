"""Cases of registrations, one construct of one family of containers each, and the table of what is read right.

`python -m tests.wiring_cases` prints the table, and what differs.
"""

from __future__ import annotations

import re
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from isodesm.codebase.model import Codebase
from isodesm.codebase.reading import read
from isodesm.diagnosis.diagnose import diagnose
from isodesm.inference.registrations import Registration
from isodesm.inference.resolution import Service
from isodesm.queries.wiring_report import WIRING_KINDS
from isodesm.settings import Settings
from tests.support import CASES, case_names, split_case

NOTE = re.compile(r"(?://|#|<!--)([=?!]) (.*?)\s*(?:-->)?$")
RIGHT, WRONG, UNREAD = "right", "wrong", "not read"


class Case(NamedTuple):
    """A construct of a family, with the files that show it."""

    family: str
    construct: str
    files: dict[str, str]


class Outcome(NamedTuple):
    """Whether a case was read right, and the lines that differ: (file, line, wanted, found)."""

    verdict: str
    differences: list[tuple[str, int, list[str], list[str]]]


def cases() -> Iterator[Case]:
    """Every case, by family and construct."""
    for name in case_names("wiring"):
        text = (CASES / "wiring" / name).read_text(encoding="utf-8")
        for part in re.split(r"^### ", text, flags=re.MULTILINE)[1:]:
            construct, _, body = part.partition("\n")
            yield Case(name.removesuffix(".txt"), construct.strip(), split_case(body))


def judge(case: Case, root: Path) -> Outcome:
    """Read the files of a case in a folder of its own, and hold what is found against what is noted in them."""
    for name, content in case.files.items():
        path = root / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(content, encoding="utf-8")
    codebase = read(root, Settings())
    found = _found(codebase)
    differences, registrations = [], False
    for name, body in case.files.items():
        for line, text in enumerate(body.splitlines(), 1):
            wanted = sorted(_wanted(text))
            got = sorted([*found.get((name, line), []), *_answers(codebase, wanted)])
            registrations = registrations or any("<-" in each or each == "rule" for each in got)
            if wanted != got:
                differences.append((name, line, wanted, got))
    noted = any("<-" in each for name, line, wanted, _ in differences for each in wanted)
    return Outcome(RIGHT if not differences else WRONG if registrations or not noted else UNREAD, differences)


def _wanted(text: str) -> Iterator[str]:
    note = NOTE.search(text)
    for index, part in enumerate(note.group(2).split(";") if note else ()):
        sign, said = note.group(1) if index == 0 else "", part.strip()
        if said[:2] in ("! ", "? "):
            sign, said = said[0], said[2:]
        if sign == "!" or said.startswith(("error ", "warning ", "note ")):
            yield " ".join(said.split()[:2])
        elif sign == "?" or (re.match(r"\w+\.\w+ ", said) and " <- " not in said):
            yield f"? {said}"
        else:
            head, *tags = said.split(" <- ")
            words = tags[0].split() if tags else []
            yield f"{head} <- {' '.join([*words[:2], *sorted(words[2:])])}" if tags else head


def _found(codebase: Codebase) -> dict[tuple[str, int], list[str]]:
    found: dict[tuple[str, int], list[str]] = {}
    for service in codebase.wiring.services:
        registration = service.registration
        found.setdefault((registration.file, registration.line), []).append(shown(codebase, service))
    for rule in codebase.wiring.rules:
        found.setdefault((rule.file, rule.line), []).append("rule")
    for each in diagnose(codebase).findings:
        if each.kind in WIRING_KINDS and each.kind != "bypassed-injection":
            found.setdefault((each.file, each.line), []).append(f"{each.level} {each.kind}")
    return found


def shown(codebase: Codebase, service: Service) -> str:
    """A registration in one line: what is served by what, how long, and what is special about it."""
    it, names = service.registration, codebase.symbols.names
    implementation = names[service.implementation] if service.implementation >= 0 else it.implementation
    served = it.id if it.id == it.abstraction else _short(it.abstraction)
    return f"{served} <- {_short(implementation) or '?'} {it.lifetime or '-'}{''.join(_tags(it))}"


def _tags(it: Registration) -> list[str]:
    said = {
        f"key={it.id}": it.id,
        "if": it.condition,
        it.order: it.order,
        "alias": it.alias,
        "wraps": it.wraps,
        f"for={_short(it.only_for)}": it.only_for,
        "proxied": it.proxied,
        f"made={'|'.join(map(_short, it.made))}": it.made,
        "rule": it.rule,
    }
    return sorted(f" {tag}" for tag, holds in said.items() if holds)


def _short(name: str) -> str:
    head, sign, arguments = name.partition("<")
    simple = re.split(r"[\\#.]", head)[-1]
    return simple + (f"<{', '.join(map(_short, arguments.rstrip('>').split(', ')))}>" if sign else "")


def _answers(codebase: Codebase, wanted: list[str]) -> Iterator[str]:
    """What the wiring says to the questions of a line: `? Class.parameter how [Implementation]`."""
    for each in wanted:
        if each.startswith("? "):
            asker, parameter = each.split()[1].split(".")
            number = next(n for n, t in enumerate(codebase.symbols.types) if t.name == asker)
            need = next((i for i in codebase.wiring.handed_to(number) if i.name.lstrip("$") == parameter), None)
            if need is None:
                yield f"? {asker}.{parameter} is no need"
                continue
            answer = codebase.wiring.answer(need)
            chosen = f" {codebase.symbols.types[answer.chosen].name}" if answer.chosen >= 0 else ""
            yield f"? {asker}.{parameter} {answer.how}{chosen}"


def table(verdicts: dict[tuple[str, str], str]) -> str:
    """The constructs by family, as Markdown: a row a construct, a column a language, its families named in the cells."""
    constructs = sorted({construct for _, construct in verdicts})
    languages = sorted({family.partition(".")[0] for family, _ in verdicts})
    lines = [f"| | {' | '.join(languages)} |", "|---|" + "---|" * len(languages)]
    for construct in constructs:
        cells = []
        for language in languages:
            of = [
                (f.partition(".")[2], v)
                for (f, c), v in sorted(verdicts.items())
                if c == construct and f.startswith(language + ".")
            ]
            cells.append(", ".join(name if verdict == RIGHT else f"**{name}: {verdict}**" for name, verdict in of) or "–")
        lines.append(f"| {construct} | {' | '.join(cells)} |")
    return "\n".join(lines)


def main(chosen: str = "") -> int:
    """Print what differs and the table; the number of cases that are not right."""
    verdicts: dict[tuple[str, str], str] = {}
    for case in cases():
        if chosen in f"{case.family} {case.construct}":
            with tempfile.TemporaryDirectory() as folder:
                outcome = judge(case, Path(folder))
            verdicts[case.family, case.construct] = outcome.verdict
            for name, line, wanted, found in outcome.differences:
                print(
                    f"{case.family} | {case.construct} | {name}:{line}\n    wanted {wanted}\n    found  {found}",
                    file=sys.stderr,
                )
    print(table(verdicts))
    counts = {verdict: list(verdicts.values()).count(verdict) for verdict in (RIGHT, WRONG, UNREAD)}
    print("\n" + ", ".join(f"{count} {verdict}" for verdict, count in counts.items()))
    return counts[WRONG] + counts[UNREAD]


if __name__ == "__main__":
    sys.exit(bool(main(*sys.argv[1:2])))
