"""What a step may not lose: every word and value of the code that it rewrites stands somewhere after it as before."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Sequence

_REMARKS = re.compile(rb"/\*.*?\*/|//[^\n]*|(?<![\w\"'])#(?!\[)[^\n]*", re.DOTALL)
_WORDS = re.compile(rb"\"(?:\\.|[^\"\\\n])*\"|'(?:\\.|[^'\\\n])*'|[^\W\d]\w*|\d[\w.]*")
GRAMMAR = frozenset(
    "new this self static final readonly public private protected internal package import use using from as var let const val "
    "override virtual sealed abstract await async return is not None null nil cls base super parent def function fn lambda "
    "class throws unsafe global and or if else".split()
)
"""Words that come and go with the form of the code."""


def lost(files: Sequence[tuple[bytes, bytes]], may_go: Iterable[str]) -> list[str]:
    """Words and values that stand less often in all files after a step than before it, but for those that may go, in order."""
    allowed = GRAMMAR.union(*(re.findall(r"\w+", each) for each in may_go))
    before: Counter[str] = Counter()
    after: Counter[str] = Counter()
    for old, new in files:
        before.update(_words(old))
        after.update(_words(new))
    return [
        word for word in before if after[word] < before[word] and not allowed.issuperset(re.findall(r"\w+", word) or [word])
    ]


def _words(text: bytes) -> list[str]:
    return [each.decode("utf-8", "replace").lstrip("_") or "_" for each in _WORDS.findall(_REMARKS.sub(b" ", text))]
