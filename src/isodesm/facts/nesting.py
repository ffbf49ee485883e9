"""What is open while the heads of a file are visited, and where a byte offset stands."""

from __future__ import annotations

from bisect import bisect_right
from itertools import accumulate
from typing import Any

from isodesm.facts.languages.dialect import Dialect
from isodesm.facts.open_records import MemberDraft, TypeDraft
from isodesm.facts.records import Import, Local, Place
from isodesm.facts.typetext import squeeze

TEXT_LIMIT = 400
"""Characters kept of an initialiser or argument list: enough to judge it, too few to copy a data table."""

Parts = dict[str, list[Any]]
Head = tuple[int, int, int, int, str, Parts]
"""One match: start, minus its end, rank of its family, serial number, name, parts. Sorted, heads stand in source order,
the longer of two that begin together first. A plain tuple, for there are millions."""


def _line_starts(text: bytes) -> list[int]:
    """Where each line begins; a line ends with LF, CR LF or CR."""
    starts = list(accumulate(map(len, text.splitlines(keepends=True)), initial=0))
    if len(starts) > 1 and text[-1:] not in (b"\n", b"\r"):
        starts.pop()
    return starts


class Nesting:
    """The open types, members, functions, sites and loops of one file, innermost last, each with the byte it ends at."""

    def __init__(self, dialect: Dialect, path: str, text: bytes) -> None:
        self.dialect, self.path, self.text = dialect, path, text
        self.ascii = text.isascii()
        self._string = text.decode("ascii") if self.ascii else ""
        """The text, where bytes and characters are the same: cutting it needs no decoding."""
        self.line_starts = _line_starts(text)
        self.package = ""
        self.imports: list[Import] = []
        self.types: list[TypeDraft] = []
        self.sites: list[list[Any]] = []
        self.locals: list[Local] = []
        self._type_stack: list[tuple[int, TypeDraft]] = []
        self._member_stack: list[tuple[int, MemberDraft, int]] = []
        self._site_stack: list[tuple[int, int]] = []
        self._loop_ends: list[tuple[int, int]] = []
        self._parameter_start = self._parameter_end = -1
        """The parameter that was read last: what lies in it belongs to a function that is its type or default."""
        self._function_stack: list[tuple[int, int, str]] = []
        """Functions inside members: end, start of the body, name."""
        self._spaces: list[tuple[int, str]] = []
        self._stacks = (
            self._site_stack,
            self._function_stack,
            self._member_stack,
            self._type_stack,
            self._loop_ends,
            self._spaces,
        )
        self._space = ""
        """The namespace that a statement without a block opened."""
        self._claims: list[tuple[int, int, int]] = []
        """Byte ranges of what is written in front of a type and belongs to it, with the type's index."""
        if dialect.has_module:
            self._open_module()

    def _open_module(self) -> None:
        """The type that holds what stands outside all types, if there is none yet."""
        if any(each.kind == "module" for each in self.types):
            return
        name = self.path.rpartition("/")[2].partition(".")[0]
        end = len(self.text) + 1
        module = TypeDraft("module", name, "", Place(0, end, 1, 1), len(self.types), body=(0, end))
        self.types.append(module)
        self._type_stack.insert(0, (end, module))

    def _close_before(self, start: int) -> None:
        for stack in self._stacks:
            while stack and stack[-1][0] <= start:
                stack.pop()

    def _open_member(self) -> MemberDraft | None:
        """The innermost open member, provided that it belongs to the innermost open type."""
        if self._member_stack and self._type_stack and self._member_stack[-1][2] == self._type_stack[-1][1].index:
            return self._member_stack[-1][1]
        return None

    def _scope_end(self) -> int:
        """Where the innermost function, or else the file, ends."""
        if self._function_stack and (not self._member_stack or self._function_stack[-1][0] <= self._member_stack[-1][0]):
            return self._function_stack[-1][0]
        return self._member_stack[-1][0] if self._member_stack else len(self.text)

    def _cut(self, start: int, end: int) -> str:
        return self._string[start:end] if self.ascii else self.text[start:end].decode("utf-8", "replace")

    def _part(self, parts: Parts, name: str) -> str:
        node = parts.get(name)
        if not node:
            return ""
        start, end = node[0].byte_range
        return self._string[start:end] if self.ascii else self.text[start:end].decode("utf-8", "replace")

    def _type_text(self, parts: Parts) -> str:
        """The declared type: what stands in front of the name, and dimensions behind it."""
        text = squeeze(self._part(parts, "of")).removeprefix(":").strip()
        return text + squeeze(self._part(parts, "dimensions")) if "dimensions" in parts else text

    def _span(self, parts: Parts, name: str) -> tuple[int, int]:
        node = parts.get(name)
        return node[0].byte_range if node else (0, 0)

    def _remarked_type(self, end: int) -> str:
        """The type that a remark behind an assignment gives it, where the language has such remarks."""
        found = self.dialect.type_remark.match(self.text, end) if self.dialect.type_remark else None
        return found.group(1).decode("utf-8", "replace").strip() if found else ""

    def place(self, start: int, end: int) -> Place:
        """The place of a byte span, its column counted in characters."""
        line = bisect_right(self.line_starts, start)
        line_start = self.line_starts[line - 1]
        return Place(start, end, line, (start - line_start if self.ascii else len(self._cut(line_start, start))) + 1)
