"""Turns the captures of one file into records by nesting byte ranges; the same for every language.

A *head* is the capture that says which record a match makes (`type.class`, `site.call` …, see any `facts.scm`);
the other captures of the match are its *parts*. Heads are visited in source order, so a stack of what is
still open says which type, member, loop and site encloses each.
"""

from __future__ import annotations

import re
from bisect import bisect_right
from types import ModuleType
from typing import Any

from isodesm.facts.drafts import MemberDraft, TypeDraft
from isodesm.facts.records import DeclaredType, FileSites, Import, Local, Modifiers, Parameter, Place, Site
from isodesm.facts.typetext import squeeze

FAMILIES = ("file", "type", "member", "count", "parameter", "local", "site")
"""Head families, in the order in which heads of the same range are visited."""
RANK = {family: rank for rank, family in enumerate(FAMILIES)}

TEXT_LIMIT = 400
"""Characters kept of an initialiser or argument list: enough to judge it, too few to copy a data table."""

_CHAIN = re.compile(r"[^\W\d][\w$]*(?:\s*\.\s*[^\W\d][\w$]*)*$")
_BARE_NAME = re.compile(r'"(?:\\.|[^"\\])*"|(?<![\w$.])([^\W\d][\w$]*)(?![\w$]|\s*\()')
"""Names in an argument list that may be variables: no text, no member of something, no call."""
_HOLDERS = frozenset(("creation", "call", "assignment", "throw", "delegation", "cast"))
_NO_MODIFIERS = Modifiers()
_CONTEXTS = {
    "field": "field-initializer", "constant": "field-initializer", "constructor": "constructor",
    "instance": "constructor", "static": "static-initializer",
}  # fmt: skip
"""Kind of member to the context of the sites in it; all others are methods."""


Head = tuple[int, int, int, int, str, dict[str, list[Any]]]
"""One match: start, minus its end, rank of its family, serial number, name, parts. Sorted, heads stand in source order,
the longer of two that begin together first. A plain tuple, for there are millions."""


class Assembler:
    """Reads the heads of one file. Use once: `Assembler(dialect, text).assemble(heads)`."""

    def __init__(self, dialect: ModuleType, text: bytes) -> None:
        self.dialect, self.text = dialect, text
        self.ascii = text.isascii()
        self.line_starts = [0, *(match.end() for match in re.finditer(rb"\r\n|\r|\n", text))]
        self.package = ""
        self.imports: list[Import] = []
        self.types: list[TypeDraft] = []
        self.sites: list[list[Any]] = []
        self.locals: list[Local] = []
        self._site_at: dict[tuple[int, int], int] = {}
        self._type_stack: list[tuple[int, TypeDraft]] = []
        self._member_stack: list[tuple[int, MemberDraft, int]] = []
        self._site_stack: list[tuple[int, int]] = []
        self._loop_ends: list[tuple[int, int]] = []
        self._stacks = (self._site_stack, self._member_stack, self._type_stack, self._loop_ends)
        self._chain_start = -1
        self._pending_receivers: list[tuple[int, tuple[int, int]]] = []
        self._pending_locals: list[tuple[str, int, int, tuple[int, int], str]] = []

    def assemble(self, heads: list[Head]) -> tuple[tuple[DeclaredType, ...], FileSites]:
        """All types, sites and locals that `heads` (sorted) make."""
        readers = {family: getattr(self, f"_read_{family}") for family in FAMILIES}
        for start, back, _, _, name, parts in heads:
            self._close_before(start)
            family, _, kind = name.partition(".")
            readers[family](kind, start, -back, parts)
        self._settle()
        return tuple(each.close() for each in self.types), FileSites(
            sites=tuple(Site(*row) for row in self.sites), locals=tuple(self.locals)
        )

    # --- nesting --------------------------------------------------------------------------

    def _close_before(self, start: int) -> None:
        for stack in self._stacks:
            while stack and stack[-1][0] <= start:
                stack.pop()

    def _open_member(self) -> MemberDraft | None:
        """The innermost open member, provided that it belongs to the innermost open type."""
        if self._member_stack and self._type_stack and self._member_stack[-1][2] == self._type_stack[-1][1].index:
            return self._member_stack[-1][1]
        return None

    def _cut(self, start: int, end: int) -> str:
        return self.text[start:end].decode("utf-8", "replace")

    def _part(self, parts: dict[str, list[Any]], name: str) -> str:
        node = parts.get(name)
        return node[0].text.decode("utf-8", "replace") if node else ""

    def _span(self, parts: dict[str, list[Any]], name: str) -> tuple[int, int]:
        node = parts.get(name)
        return node[0].byte_range if node else (0, 0)

    def place(self, start: int, end: int) -> Place:
        """The place of a byte span, its column counted in characters."""
        line = bisect_right(self.line_starts, start)
        line_start = self.line_starts[line - 1]
        column = start - line_start if self.ascii else len(self._cut(line_start, start))
        return Place(start, end, line, column + 1)

    # --- declarations ---------------------------------------------------------------------

    def _read_file(self, kind: str, start: int, end: int, parts: dict[str, list[Any]]) -> None:
        if kind == "package":
            self.package = "".join(self._part(parts, "name").split())
        else:
            self.imports += self.dialect.read_import(self._cut(start, end))

    def _modifiers(self, parts: dict[str, list[Any]]) -> Modifiers:
        return self.dialect.read_modifiers(self._part(parts, "modifiers")) if "modifiers" in parts else _NO_MODIFIERS

    def _read_type(self, kind: str, start: int, end: int, parts: dict[str, list[Any]]) -> None:
        outer = self._type_stack[-1][1] if self._type_stack else None
        member = self._open_member()
        name = self._part(parts, "name")
        extends = self.dialect.read_bases(self._part(parts, "extends"))
        if kind == "anonymous":
            extends = extends or ((outer.name,) if outer else ())
            self._claim_creation(end)
        around = self._named_path(outer)
        index = len(self.types)
        opened = TypeDraft(
            kind, name, f"{around}.{name}" if around and name else name or around,
            self.place(start, end), index,
            outer=outer.index if outer else -1, outer_member=member.index if member else -1,
            modifiers=self._modifiers(parts), generics=self._part(parts, "generics"), extends=extends,
            implements=self.dialect.read_bases(self._part(parts, "implements")),
            body=(start, end) if kind == "anonymous" else self._span(parts, "body"),
        )  # fmt: skip
        self.types.append(opened)
        self._type_stack.append((end, opened))

    def _named_path(self, outer: TypeDraft | None) -> str:
        return outer.path if outer else ""

    def _claim_creation(self, end: int) -> None:
        """Tell the creation whose body has just opened which anonymous type it makes."""
        if self._site_stack and self._site_stack[-1][0] == end:
            row = self.sites[self._site_stack[-1][1]]
            if row[0] == "creation":
                row[11] = len(self.types)

    def _read_member(self, kind: str, start: int, end: int, parts: dict[str, list[Any]]) -> None:
        if not self._type_stack:
            return
        owner = self._type_stack[-1][1]
        body = self._span(parts, "body")
        whole = self._span(parts, "whole")
        opened = MemberDraft(
            kind, self._part(parts, "name"), self.place(start, end), len(owner.members),
            type=owner.name if kind == "constant" else squeeze(self._part(parts, "of")),
            modifiers=self._modifiers(parts), generics=self._part(parts, "generics"),
            throws=self.dialect.read_throws(self._part(parts, "throws")) if "throws" in parts else (),
            value=self._part(parts, "value")[:TEXT_LIMIT], whole=whole if whole != (0, 0) else (start, end), body=body,
        )  # fmt: skip
        if kind == "constructor" and owner.kind == "record" and "parameters" not in parts:
            opened.parameters = owner.components
        if body != (0, 0) or kind == "instance":
            span = body if body != (0, 0) else (start, end)
            opened.statements = self.dialect.count_simple_statements(self.text[span[0] : span[1]])
        owner.members.append(opened)
        self._member_stack.append((end, opened, owner.index))

    def _read_count(self, kind: str, start: int, end: int, parts: dict[str, list[Any]]) -> None:
        if kind == "loop":
            self._loop_ends.append((end, start))
        if member := self._open_member():
            member.branches += 1
            member.statements += kind == "loop"

    def _read_parameter(self, kind: str, start: int, end: int, parts: dict[str, list[Any]]) -> None:
        member = self._open_member()
        owner = self._type_stack[-1][1] if self._type_stack else None
        body_start = (member.facts["body"][0] or member.place.end) if member else 0
        name = self._part(parts, "name")
        parameter = Parameter(
            name=name, type=squeeze(self._part(parts, "of")), modifiers=self._modifiers(parts),
            variadic=kind == "variadic",
        )  # fmt: skip
        if member and start < body_start:
            member.parameters.append(parameter)
            self.locals.append(Local(name, parameter.type, start, member.place.end))
        elif owner and not member and start < owner.facts["body"][0]:
            owner.components.append(parameter)

    def _read_local(self, kind: str, start: int, end: int, parts: dict[str, list[Any]]) -> None:
        name, type_text = self._part(parts, "name"), squeeze(self._part(parts, "of"))
        if kind in ("element", "caught"):
            scope = end
        elif "scope" in parts:
            scope = parts["scope"][0].end_byte
        else:
            scope = self._member_stack[-1][0] if self._member_stack else len(self.text)
        inferred = type_text in self.dialect.INFERRED or kind == "untyped"
        source = self._span(parts, "iterated" if kind == "element" else "value") if inferred else (0, 0)
        if source != (0, 0):
            self._pending_locals.append((name, start, scope, source, kind if kind == "element" else ""))
        else:
            place = self.place(start, end)
            self.locals.append(
                Local(
                    name, "" if inferred else type_text, start, scope, kind=kind if kind == "caught" else "",
                    line=place.line, column=place.column, owner=self._type_stack[-1][1].index if self._type_stack else -1,
                    member=member.index if (member := self._open_member()) else -1,
                )  # fmt: skip
            )

    # --- sites ----------------------------------------------------------------------------

    def _read_site(self, kind: str, start: int, end: int, parts: dict[str, list[Any]]) -> None:
        if not self._type_stack:
            return
        reader = getattr(self, f"_site_{kind}", None)
        if reader is not None:
            reader(start, end, parts)
        else:
            text = self._part(parts, "of") or self._part(parts, "name")
            self._add_site(kind, text, start, end)

    def _add_site(
        self, kind: str, text: str, start: int, end: int, *, name: str = "", arguments: str = "", at: int = -1
    ) -> int:
        """Append a site row (the fields of `Site` in order) and return its index."""
        owner = self._type_stack[-1][1]
        member = self._open_member()
        index = len(self.sites)
        inside = self._site_stack[-1][1] if self._site_stack else -1
        self.sites.append([
            kind, text if text.isidentifier() else squeeze(text), self.place(start if at < 0 else at, end),
            owner.index, member.index if member else -1, name, -1, arguments[:TEXT_LIMIT],
            _CONTEXTS.get(member.kind, "method") if member else "static-initializer", False,
            bool(self._loop_ends) and self._loop_in_member(member), -1, inside,
        ])  # fmt: skip
        self._site_at[start, end] = index
        if kind in _HOLDERS:
            self._site_stack.append((end, index))
        return index

    def _loop_in_member(self, member: MemberDraft | None) -> bool:
        return member is None or self._loop_ends[-1][1] >= member.place.start

    def _bracketed(self, parts: dict[str, list[Any]]) -> str:
        text = self._part(parts, "arguments")
        return squeeze(text[1:-1]) if len(text) > 2 else ""

    def _site_creation(self, start: int, end: int, parts: dict[str, list[Any]]) -> None:
        at = start
        if self.text[start : start + 3] != b"new" or self.text[start + 3 : start + 4].isalnum():
            at = max(self.text.rfind(b"new", start, parts["of"][0].start_byte), start)
        outer = self._cut(start, at).rstrip().removesuffix(".").rstrip()
        plain = outer and _CHAIN.match(outer)
        index = self._add_site(
            "creation", self._part(parts, "of"), start, end, name=f".{outer}" if plain else "",
            arguments=self._bracketed(parts), at=at,
        )  # fmt: skip
        if outer and not plain:
            self._pending_receivers.append((index, (start, start + len(outer.encode()))))

    def _site_call(self, start: int, end: int, parts: dict[str, list[Any]]) -> None:
        receiver = self._part(parts, "receiver")
        plain = bool(receiver) and _CHAIN.match(receiver) is not None
        if plain and self._is_parent_call(parts):
            receiver += f".{self.dialect.PARENT}"
        index = self._add_site(
            "call", receiver if plain else "", start, end, name=self._part(parts, "name"),
            arguments=self._bracketed(parts),
        )  # fmt: skip
        if receiver and not plain:
            self._pending_receivers.append((index, self._span(parts, "receiver")))

    def _is_parent_call(self, parts: dict[str, list[Any]]) -> bool:
        """Whether the word for the parent stands between receiver and name, as in `Outer.super.run()`."""
        between = self.text[parts["receiver"][0].end_byte : parts["name"][0].start_byte]
        return len(between) > 1 and self.dialect.PARENT.encode() in between

    def _site_access(self, start: int, end: int, parts: dict[str, list[Any]]) -> None:
        chain = self._cut(start, end)
        if _CHAIN.match(chain):
            if start != self._chain_start and chain.partition(".")[0].strip() != self.dialect.SELF:
                self._chain_start = start
                self._add_site("access", chain, start, end)
            return
        index = self._add_site("access", "", start, end, name=self._part(parts, "name"))
        self._pending_receivers.append((index, self._span(parts, "receiver")))

    def _site_reference(self, start: int, end: int, parts: dict[str, list[Any]]) -> None:
        receiver, name = self._part(parts, "receiver"), self._cut(start, end).rpartition("::")[2].strip()
        if name != "new":
            self._add_site("reference", receiver if _CHAIN.match(receiver) else "", start, end, name=name)
        elif not receiver.rstrip().endswith("]"):
            index = self._add_site("creation", receiver, start, end, name="new", at=end - 3)
            self._site_stack.pop()
            self._site_at[start, end] = index

    def _site_assignment(self, start: int, end: int, parts: dict[str, list[Any]]) -> None:
        target = squeeze(self._part(parts, "name"))
        index = self._add_site("assignment", target if _CHAIN.match(target) else "", start, end)
        if "value" in parts:
            self._pending_receivers.append((index, self._span(parts, "value")))

    def _site_cast(self, start: int, end: int, parts: dict[str, list[Any]]) -> None:
        self._add_site("cast", self._part(parts, "of"), start, end)

    def _site_throw(self, start: int, end: int, parts: dict[str, list[Any]]) -> None:
        value = self._part(parts, "value")
        index = self._add_site("throw", value if _CHAIN.match(value) else "", start, end)
        self._pending_receivers.append((index, self._span(parts, "value")))

    def _site_delegation(self, start: int, end: int, parts: dict[str, list[Any]]) -> None:
        self._add_site(
            "delegation", self._part(parts, "name"), start, end, arguments=self._bracketed(parts)
        )

    # --- what can only be said at the end ---------------------------------------------------

    def _settle(self) -> None:
        for index, span in self._pending_receivers:
            self.sites[index][6] = self._site_of(span)
        for name, start, scope, source, kind in self._pending_locals:
            chain = self._cut(*source)
            site = self._site_of(source)
            if site < 0 and _CHAIN.match(chain):
                site = self._chain_site(chain, source)
            self.locals.append(Local(name, "", start, scope, site, kind))
        self._place_field_annotations()
        self.locals.sort(key=lambda local: (local.start, local.end, local.name))
        self._mark_runtime_arguments()

    def _place_field_annotations(self) -> None:
        """What is written on a field, in front of its declarator, belongs to the field."""
        for row in self.sites:
            if row[4] < 0:
                at = row[2].start
                for member in self.types[row[3]].members:
                    if member.facts["whole"][0] <= at < member.facts["whole"][1]:
                        row[4], row[8] = member.index, _CONTEXTS.get(member.kind, "method")

    def _site_of(self, span: tuple[int, int]) -> int:
        """The site that covers exactly `span`, brackets around it aside; -1 where there is none."""
        start, end = span
        while (found := self._site_at.get((start, end))) is None:
            if self.text[start : start + 1] != b"(" or self.text[end - 1 : end] != b")":
                return -1
            start, end = start + 1, end - 1
            while self.text[start : start + 1].isspace():
                start += 1
            while self.text[end - 1 : end].isspace():
                end -= 1
        return found

    def _chain_site(self, chain: str, span: tuple[int, int]) -> int:
        """A site for a plain name that initialises an inferred local, so that its type can be followed."""
        owner = next(
            (each for each in reversed(self.types) if each.place.start <= span[0] < each.place.end), None
        )
        if owner is None:
            return -1
        member = next((m.index for m in owner.members if m.place.start <= span[0] < m.place.end), -1)
        self.sites.append(
            ["name", squeeze(chain), self.place(*span), owner.index, member, "", -1, "", "method", False, False, -1, -1]
        )
        return len(self.sites) - 1

    def _mark_runtime_arguments(self) -> None:
        scopes: dict[str, list[tuple[int, int]]] = {}
        for local in self.locals:
            scopes.setdefault(local.name, []).append((local.start, local.end))
        for row in self.sites:
            if row[0] == "creation" and row[7]:
                start = row[2].start
                row[9] = any(
                    begin <= start < end
                    for name in _BARE_NAME.findall(row[7])
                    for begin, end in scopes.get(name, ())
                )
