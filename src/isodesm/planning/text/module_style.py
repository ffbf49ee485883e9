"""How files of modules write their imports: quotes, semicolons, suffixes of paths, types apart; taken over from the file at
hand, or where that imports nothing from the tree."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable
from typing import NamedTuple

from isodesm.codebase.model import Codebase
from isodesm.linking.remembering import remembered
from isodesm.planning.language import language_named

ASKED = 200
"""Files of the tree that are asked at most."""
_IMPORT = re.compile(rb"^import\s++(type\s)?+[^;'\"]{0,2000}+(['\"])([^'\"\n]++)\2[ \t]*+(;?)", re.MULTILINE)
_BRACES = re.compile(rb"^import\b[^;'\"\n{]*+\{([ \t]?+)[\w$]", re.MULTILINE)
_WRITTEN = re.compile(r"import (?P<what>.*) from '(?P<path>[^']+)';")
_SUFFIX = re.compile(r"\.[cm]?[jt]sx?$")


class ModuleStyle(NamedTuple):
    """How an import is written."""

    quote: str = "'"
    end: str = ";"
    suffix: str = ""
    """What paths within the tree end with."""
    types_apart: bool = False
    """Whether what is only a type is imported as such."""
    spaced: bool = True
    """Whether a blank stands inside the braces."""


def style_of(codebase: Codebase, file: int) -> ModuleStyle:
    """The style of a file."""
    own, tree = _habits([codebase.text(file)]), _of_tree(codebase)
    braces = own[4] or tree[4]
    quote, end, suffix = (mine or theirs for mine, theirs in zip(own[:3], tree[:3], strict=True))
    return ModuleStyle(
        quote or "'",
        "" if end == "none" else ";",
        "" if suffix in ("", "none") else suffix,
        own[3] or tree[3],
        braces != "none",
    )


@remembered
def _of_tree(codebase: Codebase) -> tuple[str, str, str, bool, str]:
    files = [number for number, facts in enumerate(codebase.symbols.files) if language_named(facts.language).styled_imports][
        :ASKED
    ]
    return _habits(codebase.text(number) for number in files)


def _habits(texts: Iterable[bytes]) -> tuple[str, str, str, bool, str]:
    """What most imports have, '' where there is none: quotes, `;` or `none`, the suffix of relative paths or `none`;
    whether any imports types apart; and whether a `blank` stands inside braces or `none`."""
    quotes: Counter[str] = Counter()
    ends: Counter[str] = Counter()
    suffixes: Counter[str] = Counter()
    braces: Counter[str] = Counter()
    apart = False
    for text in texts:
        braces.update("blank" if each else "none" for each in _BRACES.findall(text))
        for kind, quote, path, end in _IMPORT.findall(text):
            quotes[quote.decode()] += 1
            ends[end.decode() or "none"] += 1
            apart = apart or bool(kind)
            if path.startswith(b"."):
                found = _SUFFIX.search(path.decode("utf-8", "replace"))
                suffixes[found[0] if found else "none"] += 1
    most = [each.most_common(1)[0][0] if each else "" for each in (quotes, ends, suffixes, braces)]
    return most[0], most[1], most[2], apart, most[3]


def styled(line: str, style: ModuleStyle, *, only_type: bool = False) -> str:
    """An import line in a style."""
    found = _WRITTEN.fullmatch(line)
    if found is None:
        return line
    path = found["path"]
    if path.startswith(".") and style.suffix and not _SUFFIX.search(path):
        path += style.suffix
    kind = "type " if only_type and style.types_apart else ""
    what = found["what"] if style.spaced else re.sub(r"\{ (.*) \}", r"{\1}", found["what"])
    return f"import {kind}{what} from {style.quote}{path}{style.quote}{style.end}"
