"""The syntax tree of one source file, for questions that the facts of a file don't answer."""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import cached_property
from pathlib import PurePosixPath
from typing import Any

from isodesm.facts.languages import dialect_of
from isodesm.facts.parsing import parse

_WORD = re.compile(rb"[\w\x80-\xff]+")
_LAST_WORD = re.compile(rb"(?<![\w\x80-\xff])[\w\x80-\xff]++\Z")
_AROUND = frozenset(("expression_statement", "block", "module", "program", "argument", "argument_list"))
"""Nodes that may be just as long as the expression in them."""


class Tree:
    """One file: its text in UTF-8 and its syntax tree."""

    def __init__(self, language: str, path: str, text: bytes) -> None:
        self.language, self.path, self.text = language, path, text
        self.root: Any = parse(dialect_of(language), PurePosixPath(path).suffix, text)[0]

    def at(self, start: int, end: int) -> Any:
        """The outermost expression or declaration of exactly these bytes, else the innermost node that holds them."""
        node = (
            self.root.descendant_for_byte_range(start, max(end - 1, start))
            if end > start
            else self.root.descendant_for_byte_range(start, end)
        )
        while node.parent is not None and (node.start_byte > start or node.end_byte < end):
            node = node.parent
        while (around := node.parent) is not None and (around.start_byte, around.end_byte) == (node.start_byte, node.end_byte):
            if around.type in _AROUND:
                break
            node = around
        return node

    def nodes(self, *kinds: str) -> Iterator[Any]:
        """All nodes of some kinds, in order of place."""
        waiting = [self.root]
        while waiting:
            node = waiting.pop()
            if node.type in kinds:
                yield node
            waiting.extend(reversed(node.named_children))

    @cached_property
    def _words(self) -> dict[bytes, list[int]]:
        found: dict[bytes, list[int]] = {}
        for each in _WORD.finditer(self.text):
            found.setdefault(each[0], []).append(each.start())
        return found

    def uses_of(self, name: str) -> Iterator[tuple[int, int]]:
        """The places of a name as a whole word, sign in front and all, in comments and texts, too."""
        sought = name.encode()
        word = _LAST_WORD.search(sought)
        ahead = len(sought) - len(word[0]) if word is not None else 0
        for at in self._words.get(word[0], ()) if word is not None else ():
            if self.text[max(0, at - ahead) : at] == sought[:ahead]:
                yield at - ahead, at - ahead + len(sought)

    def of(self, node: Any) -> str:
        """The text of a node."""
        return self.text[node.start_byte : node.end_byte].decode("utf-8", "replace")
