"""Reads the sites of a file: places that name or use another type."""

from __future__ import annotations

import re
from functools import cached_property
from typing import Any

from isodesm.facts.declarations import Declarations
from isodesm.facts.languages.dialect import Dialect
from isodesm.facts.nesting import TEXT_LIMIT, Parts
from isodesm.facts.open_records import TypeDraft
from isodesm.facts.spans import Spans
from isodesm.facts.typetext import squeeze

ARGUMENT_BYTES = 4 * TEXT_LIMIT
"""Bytes of an argument list that are looked at: white space and remarks make way before it is cut to what is kept."""
CHAIN_LIMIT = 600
"""Bytes beyond which an expression is no chain of names; it keeps chains of thousands of calls from costing their square."""
_BARE_NAME = re.compile(r'"(?:[^"\\]|\\.)*+(?:"|$)|(?<![\w$.])((?:\$|[^\W\d])[\w$]*+)(?!\s*+\()')
"""Names in an argument list that may be variables: no text, no member of something, no call."""
_WRITE_FOLLOWS = re.compile(rb"(?:\[[^\]\n]*\])*\s*(?:[.+*/-]|\?\?)?=(?![=>])")
"""What stands behind a name that is written to, or into."""
_WHOLE_FUNCTION = rb"function\s*+(?:&\s*+)?\([^()]*+\)\s*+(?::\s*+[\w\\?]++\s*+)?\{\s*+return\s++"
_DEFERRED = re.compile(rb"(?:=>|->|\blambda\b[^:\n]*:|" + _WHOLE_FUNCTION + rb")\s*+$")
"""What stands in front of the body of a function without a name."""
_FALLBACK = re.compile(
    rb"(?P<name>[A-Za-z_]\w*)\s*(?:\?\?=?|\|\||\bor|\bif\s+(?P=name)(?:\s+is\s+not\s+None)?\s+else"
    rb"|!==\s*null\s*\?\s*\$?(?P=name)\s*:)"
    rb"\s*\(?\s*(?:(?:static\s+)?fn\s*\([^()]*\)\s*(?::\s*[\w\\?]+\s*)?=>\s*|\([^()]*\)\s*=>\s*|lambda[^:()]*:\s*|"
    + _WHOLE_FUNCTION
    + rb")?$"
)
"""What stands in front of what a parameter gives way to where it was left out: `given ??`, `given or`, `given if given is not
None else`; a function may come between."""
_OPENING, _FALLBACK_ENDS = b" \t\n\r\f\v(", (b"??", b"??=", b"||", b"or", b"else", b":", b"=>", b"return")
"""What may follow such an operator, or the head of a function behind it, and how those end: most that is read stands behind
neither, which is seen sooner so."""
FALLBACK_BYTES = 160
_HOLDERS = frozenset(("creation", "call", "assignment", "throw", "delegation", "cast"))
CONTEXTS = {
    "field": "field-initializer",
    "constant": "field-initializer",
    "constructor": "constructor",
    "instance": "constructor",
    "static": "static-initializer",
}
"""Kind of member to the context of the sites in it; all others are methods."""


class Siting(Declarations):
    """The part of the assembler that reads sites. A site is a row while it is read: the fields of `Site` in order."""

    def __init__(self, dialect: Dialect, path: str, text: bytes) -> None:
        self._site_at: dict[tuple[int, int], int] = {}
        self._chain_start = -1
        self._pending_receivers: list[tuple[int, tuple[int, int]]] = []
        self._members_around: dict[int, Spans[int]] = {}
        """Index of a type to where its members stand, once all are known."""
        self._no_reads: set[tuple[int, int]] = set()
        """Spans of chains that are called or written, and so read nothing by themselves."""
        super().__init__(dialect, path, text)

    def _read_site(self, kind: str, start: int, end: int, parts: Parts) -> None:
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
        """Append a site row and return its index."""
        owner = self._type_stack[-1][1]
        member = self._open_member()
        context = (
            CONTEXTS.get(member.kind, "method") if member else "module" if owner.kind == "module" else "static-initializer"
        )
        if member and start < member.facts["body"][0]:
            delegated = self._site_stack and self.sites[self._site_stack[-1][1]][0] == "delegation"
            if member.kind in ("method", "constructor", "property") and not delegated:
                context = "parameter-default"
            if self.dialect.head_is_outside:
                member = None
        elif member and member.kind in ("constructor", "method") and self._is_fallback(member, start):
            context = "parameter-default"
        if context == "parameter-default" or self._is_handed_over():
            context = "deferred-default" if self._is_deferred(start, end) else context
        index = len(self.sites)
        inside = self._site_stack[-1][1] if self._site_stack else -1
        self.sites.append(
            [
                kind,
                text if text.isidentifier() else squeeze(text),
                self.place(start if at < 0 else at, end),
                owner.index,
                member.index if member else -1,
                name,
                -1,
                arguments[:TEXT_LIMIT],
                context,
                False,
                bool(self._loop_ends) and self._loop_in_member(member),
                -1,
                "",
                inside,
            ]
        )
        self._site_at[start, end] = index
        if kind in _HOLDERS:
            self._site_stack.append((end, index))
        return index

    def _is_handed_over(self) -> bool:
        """Whether what is read stands among what one constructor hands to another."""
        return any(self.sites[index][0] == "delegation" for _, index in self._site_stack)

    def _is_deferred(self, start: int, end: int) -> bool:
        """Whether an expression is only worked out when a function is called that is handed on here: in one, or its name."""
        text = self.text[start:end]
        return (
            bool(_DEFERRED.search(self.text[max(start - FALLBACK_BYTES, 0) : start]))
            or text.endswith(b"(...)")
            or b"::new" in text
        )

    def _is_fallback(self, member: Any, start: int) -> bool:
        """Whether an expression stands for a parameter of its constructor or function that was left out."""
        before = self.text[max(start - FALLBACK_BYTES, 0) : start]
        if not before.rstrip(_OPENING).endswith(_FALLBACK_ENDS):
            return False
        found = _FALLBACK.search(before)
        return found is not None and any(each.name == found["name"].decode() for each in member.parameters)

    def _loop_in_member(self, member: Any) -> bool:
        return member is None or self._loop_ends[-1][1] >= member.place.start

    def _bracketed(self, parts: Parts) -> str:
        """The argument list without its brackets, cut at a limit that leaves the kept part whole."""
        if "arguments" not in parts:
            return ""
        start, end = parts["arguments"][0].byte_range
        if end - start <= 2:
            return ""
        return squeeze(
            self._cut(start + 1, end - 1) if end - start <= ARGUMENT_BYTES else self._cut(start + 1, start + ARGUMENT_BYTES)
        )

    # --- creations and calls ----------------------------------------------------------------

    def _site_creation(self, start: int, end: int, parts: Parts) -> None:
        if (known := self._site_at.get((start, end))) is not None and self.sites[known][0] == "creation":
            self.sites[known][1] = self.sites[known][1] or self._part(parts, "of")
            return
        at = start
        if self.text[start : start + 3] != b"new" or self.text[start + 3 : start + 4].isalnum():
            at = max(self.text.rfind(b"new", start, parts["of"][0].start_byte), start) if "of" in parts else start
        outer = self._cut(start, at).rstrip().removesuffix(".").rstrip()
        plain = self.dialect.read_chain(outer)
        index = self._add_site(
            "creation",
            self._part(parts, "of"),
            start,
            end,
            name=f".{plain}" if plain else "",
            arguments=self._bracketed(parts),
            at=at,
        )
        if outer and not plain:
            self._pending_receivers.append((index, (start, start + len(outer.encode()))))

    def _site_call(self, start: int, end: int, parts: Parts) -> None:
        receiver = "receiver" in parts
        plain = self._chain(parts["receiver"][0]) if receiver else ""
        if plain and self._is_parent_call(parts):
            plain += f".{self.dialect.parent_word}"
        if self._part(parts, "name") in self.dialect.name_operators and not receiver:
            argument = parts["arguments"][0]
            self._no_reads.add((argument.start_byte + 1, argument.end_byte - 1))
            return
        if "callee" in parts:
            self._no_reads.add(parts["callee"][0].byte_range)
        index = self._add_site(
            "call",
            plain,
            start,
            end,
            name=self._part(parts, "name"),
            arguments=self._bracketed(parts),
        )
        if "generics" in parts:
            self.sites[index][12] = squeeze(self._part(parts, "generics"))
        if receiver and not plain:
            self._pending_receivers.append((index, self._span(parts, "receiver")))

    def _chain(self, node: Any) -> str:
        """An expression as a chain of names, '' where it is none or longer than anybody writes one."""
        start, end = node.byte_range
        return self.dialect.read_chain(self._cut(start, end)) if end - start <= CHAIN_LIMIT else ""

    def _is_parent_call(self, parts: Parts) -> bool:
        """Whether the word for the parent stands between receiver and name, as in `Outer.super.run()`."""
        between = self.text[parts["receiver"][0].end_byte : parts["name"][0].start_byte]
        return len(between) > 2 and self.dialect.parent_word.encode() in between

    def _site_delegation(self, start: int, end: int, parts: Parts) -> None:
        self._add_site("delegation", self._part(parts, "name"), start, end, arguments=self._bracketed(parts))

    def _site_reference(self, start: int, end: int, parts: Parts) -> None:
        receiver, name = self._part(parts, "receiver"), self._cut(start, end).rpartition("::")[2].strip()
        if name != "new":
            self._add_site("reference", self.dialect.read_chain(receiver), start, end, name=name)
        elif not receiver.rstrip().endswith("]"):
            index = self._add_site("creation", receiver, start, end, name="new", at=end - 3)
            self._site_stack.pop()
            self._site_at[start, end] = index

    # --- names, fields, values --------------------------------------------------------------

    def _site_access(self, start: int, end: int, parts: Parts) -> None:
        if (start, end) in self._no_reads:
            return
        chain = self.dialect.read_chain(self._cut(start, end)) if end - start <= CHAIN_LIMIT else ""
        if chain:
            if start != self._chain_start and not self._is_own_field(chain):
                self._chain_start = start
                self._add_site("access", chain, start, end)
            return
        index = self._add_site("access", "", start, end, name=self._part(parts, "name"))
        self._pending_receivers.append((index, self._span(parts, "receiver")))

    def _is_own_field(self, chain: str) -> bool:
        """Whether a chain names a field of the object itself, and nothing behind that."""
        first, _, rest = chain.partition(".")
        return first.strip() == self.dialect.self_word and "." not in rest

    def _site_constant(self, start: int, end: int, parts: Parts) -> None:
        """A constant of a class, or the class itself as a value."""
        if self.text.endswith(b"::class", start, end):
            self._add_site("literal", self._part(parts, "receiver"), start, end)
        else:
            self._site_access(start, end, parts)

    def _site_name(self, start: int, end: int, parts: Parts) -> None:
        """A bare name that is read: kept where an import brought it in."""
        name = self._cut(start, end)
        if name in self._imported and (start, end) not in self._site_at:
            self._add_site("name", name, start, end)

    def _site_assignment(self, start: int, end: int, parts: Parts) -> None:
        target = self.dialect.read_chain(squeeze(self._part(parts, "name")))
        if "written" in parts:
            self._no_reads.add(parts["written"][0].byte_range)
        index = self._add_site("assignment", target, start, end)
        if "value" in parts:
            self._pending_receivers.append((index, self._span(parts, "value")))
        holder, _, name = target.partition(".")
        if self.dialect.assigned_fields and name and "." not in name and self._is_self(holder):
            type_text = squeeze(self._part(parts, "of")).removeprefix(":").strip() or self._remarked_type(end)
            self._assign_own_field(name, type_text, squeeze(self._part(parts, "value")), start, end)

    def _site_global(self, start: int, end: int, parts: Parts) -> None:
        """A superglobal, or a variable taken over from the global scope; what is written to it follows at once."""
        name = self._cut(start, end).split()[-1]
        follows = _WRITE_FOLLOWS.match(self.text, end, end + 120)
        self._add_site("global", name, start, end, name="written" if follows else "")

    def _site_update(self, start: int, end: int, parts: Parts) -> None:
        """`x++` and its like; the same nodes serve operators that write nothing."""
        if self.text[start : start + 2] in (b"++", b"--") or self.text[end - 2 : end] in (b"++", b"--"):
            self._site_assignment(start, end, parts)

    def _is_self(self, holder: str) -> bool:
        """Whether a name stands for the object that the open member is called on."""
        if not self.dialect.self_parameter:
            return holder == self.dialect.self_word
        return any(local.name == holder and local.kind == "self" for local in reversed(self.locals[-40:]))

    def _site_cast(self, start: int, end: int, parts: Parts) -> None:
        self._add_site("cast", self._part(parts, "of"), start, end)

    def _site_throw(self, start: int, end: int, parts: Parts) -> None:
        value = self._part(parts, "value")
        index = self._add_site("throw", self.dialect.read_chain(value), start, end)
        self._pending_receivers.append((index, self._span(parts, "value")))

    # --- what can only be said at the end ---------------------------------------------------

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
        owners = self._types_around.around(span[0])
        if not owners:
            return -1
        owner = owners[-1]
        if owner.index not in self._members_around:
            self._members_around[owner.index] = Spans((m.place.start, m.place.end, m.index) for m in owner.members)
        member = next(iter(self._members_around[owner.index].around(span[0])), -1)
        self.sites.append(
            ["value", squeeze(chain), self.place(*span), owner.index, member, "", -1, "", "method", False, False, -1, "", -1]
        )
        return len(self.sites) - 1

    @cached_property
    def _types_around(self) -> Spans[TypeDraft]:
        """Where the types stand, once all are known."""
        return Spans((each.place.start, each.place.end, each) for each in self.types)

    def _mark_runtime_arguments(self) -> None:
        named: dict[str, list[tuple[int, int, None]]] = {}
        for local in self.locals:
            named.setdefault(local.name, []).append((local.start, local.end, None))
        scopes: dict[str, Spans[None]] = {}
        kinds = ("creation", "call") if self.dialect.calls_create else ("creation",)
        for row in self.sites:
            if row[0] in kinds and row[7]:
                start = row[2].start
                for name in _BARE_NAME.findall(row[7]):
                    if name in named and name not in scopes:
                        scopes[name] = Spans(named[name])
                    if name in scopes and scopes[name].is_any_around(start):
                        row[9] = True
                        break
