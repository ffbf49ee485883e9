"""The documents that come with the program, by what they are about."""

from __future__ import annotations

import difflib
import re
from collections.abc import Iterator
from pathlib import Path

from isodesm.errors import UsageError

_IN_PACKAGE, _IN_SOURCE = Path(__file__).parent.parent / "pages", Path(__file__).parents[3] / "docs"
FOLDERS = ("findings", "techniques")
"""Folders of pages that are named after a kind or a technique."""
SHOWN_NAMES = 5


def folder() -> Path:
    """Where the documents lie: in the package, or, in a working copy, beside the source."""
    return _IN_PACKAGE if _IN_PACKAGE.is_dir() else _IN_SOURCE


def topics() -> dict[str, str]:
    """Every name that has a page, with what sort of thing it names."""
    from isodesm.diagnosis.shared.findings import EXCUSES, KINDS
    from isodesm.measures.ranking import ORDERS
    from isodesm.planning.model.step import TECHNIQUES

    settings = dict.fromkeys(_settings(), "setting")
    found = settings | {path.stem: "page" for path in sorted(folder().glob("*.md"))}
    found |= dict.fromkeys(ORDERS, "measure") | dict.fromkeys(EXCUSES, "excuse")
    return found | dict.fromkeys(TECHNIQUES, "technique") | dict.fromkeys(KINDS, "finding")


def page_of(name: str) -> str:
    """What the documents say of a kind of finding, an excuse, a technique, a measure, a setting, or a page, as Markdown.

    UsageError with the nearest names for what they don't know.
    """
    known = topics()
    if name not in known:
        near = difflib.get_close_matches(name, known, n=SHOWN_NAMES, cutoff=0.5)
        hint = f" The nearest: {', '.join(f'`{each}`' for each in near)}." if near else " `isodesm explain` lists them all."
        raise UsageError(f"There is no page about `{name}`.{hint}")
    for each in FOLDERS if known[name] in ("finding", "technique") else ():
        path = folder() / each / f"{name}.md"
        if path.is_file():
            return path.read_text(encoding="utf-8")
    if known[name] == "excuse":
        from isodesm.diagnosis.shared.findings import EXCUSES

        more = "\n\n".join(_about(name, folder() / "findings/README.md"))
        return f"# {name}\n\nAn excuse: {EXCUSES[name]}.\n\n{more}\n"
    if known[name] == "setting":
        return f"# {name}\n\n" + "\n\n".join(_about(name, folder() / "settings.md")) + "\n"
    if known[name] == "measure":
        return f"# {name}\n\n" + "\n\n".join(_about(name, folder() / "measures.md")) + "\n"
    return (folder() / f"{name}.md").read_text(encoding="utf-8")


def _settings() -> Iterator[str]:
    """The keys of the settings file."""
    import msgspec

    from isodesm.settings import Limits, Settings, StrainWeights

    for record in (Settings, StrainWeights, Limits):
        yield from (field.encode_name for field in msgspec.structs.fields(record))


def _about(name: str, path: Path) -> Iterator[str]:
    """The parts of a page that are about a name: its row of a table, and the section of that name."""
    text = path.read_text(encoding="utf-8")
    heads: list[str] = []
    for line in text.splitlines():
        if line.startswith("|"):
            heads = [*heads, line][:2] if len(heads) < 2 else heads
            if re.match(rf"\|(?:.*\|)?[^|]*`{re.escape(name)}`[^|]*\|", line):
                yield "\n".join([*heads, line])
        else:
            heads = []
    sections = re.split(r"(?m)^(?=## )", text)
    yield from (each.strip() for each in sections if each.lower().startswith(f"## {name.replace('-', ' ')}\n".lower()))


def listed() -> Iterator[tuple[str, list[str]]]:
    """The sorts of things that there are pages about, with their names."""
    known = topics()
    for sort in ("finding", "excuse", "technique", "measure", "setting", "page"):
        yield sort, sorted(name for name, each in known.items() if each == sort)
