"""Statements in the midst of a member that could stand anywhere: what they take, and the one thing that they leave.

A block is moved as it stands, so it must not go anywhere by itself, nor know anything but what it is given.
"""

from __future__ import annotations

import re
import string
from collections.abc import Iterator
from typing import Any, NamedTuple

from isodesm.diagnosis.form.boundary_rules import Bound, is_calculation, is_decision, plain
from isodesm.facts.decisions import parts_of
from isodesm.planning.analysis.expressions import INFERRED
from isodesm.planning.analysis.names_in_code import needs_of_text
from isodesm.planning.analysis.sources import Sources
from isodesm.planning.model.code import Need

LEAST_PARTS = 3
"""Decisions and calculations from which a block is worth a method, at least one of them a decision."""
MOST_STATEMENTS = 60
_JUMPS = re.compile(
    r"(?<![\w$])(?:return|throw|raise|break|continue|yield|await|goto|this|self|super|parent|static|global|nonlocal|echo|print|"
    r"function|fn|lambda|def|class|new|del|unset|with|using|lock|synchronized|try|catch|out|ref)(?!\w)|\$this|=>|"
    r"->\s*\{|::|&\$|`"
)
"""What leads out of a block, or ties it to where it stands."""
_WORD = re.compile(r"(?<![\w$.])(?<!->)(?<!::)\$?[A-Za-z_]\w*")
_KEYWORDS = frozenset(
    "if else elif elseif for foreach while do switch case default match in not and or is as of null None true false True False "
    "undefined int long double float boolean bool char byte short string var let const final array decimal object pass".split()
)
_PLAIN_FUNCTIONS = re.compile(
    r"^(?:abs|ceil|floor|round|min|max|sum|len|int|float|str|bool|range|sorted|count|strlen|substr|strtolower|strtoupper|trim|"
    r"intdiv|in_array|implode|explode|array_sum|array_keys|array_values|str_replace|number_format|parseInt|parseFloat|isNaN)$"
)
"""Functions that give the same for the same anywhere."""
_LITERALS = {r"-?\d[\d_.]*": "number", r"[\"'][^\"'+]*[\"']": "string", "true|false": "boolean"}
"""Values that tell the type of what begins with them, where types go behind names."""
_MANY_LINES = re.compile(r"\"\"\"|\'\'\'|<<<|@\"|`")
"""Texts that may go on over lines, whose margins belong to them."""
_GIVEN_VALUE = re.compile(r"(?<![\w$.>\[])\$?(\w+)\s*(?:[-+*/%.|&^]|\*\*|//|<<|>>|\?\?)?=(?![=>])")
_COUNTED = re.compile(r"(?<![\w$.>])\$?(\w+)\s*(?:\+\+|--)|(?:\+\+|--)\$?(\w+)")
_LOOPED = re.compile(r"\bfor(?:each)?\s*\(?[^;:)]*?\$?(\w+)\s*(?:\)|:|\bin\b|\bof\b)")
_OPERATORS = frozenset("+-*/%.|&^<>!?:=")
_SIGNS = string.ascii_letters + string.digits + "_"


class Head(NamedTuple):
    """The beginning of a statement that gives a variable a value: what stands in front of the sign, as written, the variable,
    the type behind it, and where the value begins."""

    text: str
    name: str
    kind: str
    value: int


class Block(NamedTuple):
    """Statements from one place to another: the variables that they take as (type, name), type and name of what they leave,
    the code in front of what it is given, and what other code needs to import to hold them."""

    start: int
    end: int
    taken: tuple[tuple[str, str], ...]
    result: str
    left: str
    head: str
    weight: int
    needs: tuple[Need, ...]


class Blocks:
    """Finds the blocks of one member."""

    def __init__(self, sources: Sources, bound: Bound, number: int, index: int) -> None:
        symbols = sources.symbols
        self.sources, self.bound, self.number = sources, bound, number
        self.member, self.file = symbols.types[number].members[index], symbols.file_of[number]
        self.syntax, self.language = sources.syntax(self.file), sources.language(number)
        facts = symbols.files[self.file]
        parts = parts_of(facts.language, facts.path, self.syntax.text, *self.member.body)
        said = ((each, plain(self.syntax.text[each.start : each.end])) for each in parts)
        self.weighed = [(each, is_decision(each, text), is_calculation(each, text)) for each, text in said]
        line = sources.codebase.roles.ancestors(number)
        self.own = {each.name.lstrip("$") for one in line for each in symbols.types[one].members}
        first = symbols.first[self.file]
        modules = (each for each in range(first, first + len(facts.types)) if symbols.is_module(each))
        self.own |= {member.name for each in modules for member in symbols.types[each].members}

    def found(self) -> list[Block]:
        """The blocks, which don't overlap, in order of place."""
        body = self.syntax.body(self.member)
        statements = self.syntax.statements(body) if body is not None else []
        chosen: list[Block] = []
        candidates = self._candidates(statements) if len(statements) <= MOST_STATEMENTS else ()
        for each in sorted(candidates, key=lambda each: (-each.weight, len(each.taken), each.end - each.start, each.start)):
            if all(each.end <= other.start or other.end <= each.start for other in chosen):
                chosen.append(each)
        return sorted(chosen)

    def _candidates(self, statements: list[Any]) -> Iterator[Block]:
        for first, opening in enumerate(statements):
            known = self._known(statements[:first])
            for closing in statements[first:]:
                start, end = opening.start_byte, closing.end_byte
                if self._is_tied(start, end):
                    break
                if block := self._block(known, start, end):
                    yield block

    def _code(self, start: int, end: int) -> str:
        return self.syntax.text[start:end].decode("utf-8", "replace")

    def _is_tied(self, start: int, end: int) -> bool:
        said = plain(self.syntax.text[start:end])
        tied = _JUMPS.search(said) or _MANY_LINES.search(self._code(start, end))
        return bool(tied) or self.bound.names_it(said) or self.bound.lies_in(start, end) or self._may_fail(start, end)

    def _may_fail(self, start: int, end: int) -> bool:
        """Whether a call may throw what a method would have to declare, where a language asks for that."""
        if not self.language.checked_errors:
            return False
        table, symbols = self.sources.codebase.bonds, self.sources.symbols
        sites = self.sources.codebase.content(self.file).sites
        for row in table.rows_of_source(self.number):
            site, name = table.site[row], table.text_of("callee", row)
            if site < 0 or not name or not start <= sites[site].place.start < end:
                continue
            target = table.target[row]
            if target >= 0 and any(member.throws for _, member in symbols.members(target).get(name, ())):
                return True
            outside = self.sources.codebase.target_name(target) if target < 0 else ""
            if target < 0 and not (outside and symbols.catalogues.is_value(outside, symbols.files[self.file].language)):
                return True
        return False

    def _known(self, earlier: list[Any]) -> dict[str, str]:
        """What has a value by then whatever happened: parameters and variables, to their types ('' for none written)."""
        begin, end = self.member.body[0], earlier[-1].end_byte if earlier else self.member.body[0]
        changed = set() if self._needs_types else set(_written(plain(self.syntax.text[begin:end])))
        given = ((each.name.lstrip("$"), each.type) for each in self.member.parameters)
        found = {name: "" if name in changed else kind for name, kind in given}
        for node in earlier:
            if head := _head(self._code(node.start_byte, node.end_byte)):
                found.setdefault(head.name, self._type_of(head.name, node.end_byte) or head.kind)
        return found

    def _type_of(self, name: str, before: int) -> str:
        """The type that a variable of the member is declared with, '' for none."""
        begin = self.member.body[0]
        named = self.sources.codebase.locals_named(self.file)
        declared = (*named.get(name, ()), *named.get(f"${name}", ()))
        kinds = {each.type for each in declared if begin <= each.start < before}
        kind = next(iter(kinds)) if len(kinds) == 1 else ""
        return "" if kind in INFERRED else kind

    def _block(self, known: dict[str, str], start: int, end: int) -> Block | None:
        inside = [each for each in self.weighed if start <= each[0].start and each[0].whole <= end]
        decisions, reckoned = sum(each[1] for each in inside), sum(each[2] for each in inside)
        if not decisions or decisions + reckoned < LEAST_PARTS:
            return None
        said = plain(self.syntax.text[start:end])
        written = _written(said)
        after = plain(self.syntax.text[end : self.member.body[1]])
        left = [name for name in written if name in _words(after)]
        if any(name in _written(after) for name in left):
            return None  # that is half of a rule
        taken = self._taken(known, written, said)
        declared = self._declared(known, left[0], start, end) if len(left) == 1 else None
        if declared is None or taken is None:
            return None
        result, head = declared
        local = self.number - self.sources.symbols.first[self.file]
        types = " ".join([result, *(kind for kind, _ in taken)])
        texts = (self._code(start, end), types)
        needs = {need for each in texts for need in needs_of_text(self.sources.codebase, self.file, local, each)}
        return Block(start, end, taken, result, left[0], head, decisions + reckoned, tuple(sorted(needs)))

    def _taken(self, known: dict[str, str], written: list[str], said: str) -> tuple[tuple[str, str], ...] | None:
        """What a block is given; None where something that it names is neither given nor known anywhere."""
        words = _words(said)
        for name in sorted(words - known.keys() - set(written) - _KEYWORDS):
            if name in self.own or not (name[:1].isupper() or _PLAIN_FUNCTIONS.match(name)):
                return None
        fresh = {name for name in written if name not in known}
        if fresh & self.own and self.sources.symbols.dialect(self.number).implicit_self:
            return None  # a field by its bare name
        used = [name for name in dict.fromkeys(word.lstrip("$") for word in _WORD.findall(said)) if name in known]
        taken = [(known[name] if known[name] not in INFERRED else "", name) for name in used]
        return None if self._needs_types and any(not kind for kind, _ in taken) else tuple(taken)

    @property
    def _needs_types(self) -> bool:
        return self.language.needs_types or (self.language.typed and self.syntax.traits.types_behind_names)

    def _declared(self, known: dict[str, str], name: str, start: int, end: int) -> tuple[str, str] | None:
        """The type of what a block leaves, and the code that gives it to its variable; None where that can't be told."""
        code = self._code(start, end)
        head = _head(code)
        kind = self._type_of(name, end) or known.get(name, "")
        if head is None or head.name != name:
            return (kind, f"{self.language.sign}{name}") if name in known and (kind or not self._needs_types) else None
        kind = kind or head.kind
        if not kind and self._needs_types and not self.language.needs_types:
            value = re.split(r"[;\n]", code[head.value :], maxsplit=1)[0].strip()
            kind = next((found for pattern, found in _LITERALS.items() if re.fullmatch(pattern, value)), "")
        return None if not kind and self._needs_types else (kind, head.text)


def _head(code: str) -> Head | None:
    """How a statement begins that gives a variable a value; None for any other."""
    line = code.split("\n", 1)[0]
    at = line.find("=")
    if at <= 0 or line[at - 1] in _OPERATORS or line[at + 1 : at + 2] in ("=", ">"):
        return None
    text = line[:at].rstrip()
    front, _, kind = text.partition(":")
    bare = front.rstrip()
    before = bare.rstrip(_SIGNS)
    if before == bare or "(" in text or before.endswith((".", ">")):
        return None
    return Head(text, bare[len(before) :], kind.strip(), at + 1)


def _written(said: str) -> list[str]:
    """The variables that a text gives a value, loops included."""
    counted = (name for pair in _COUNTED.findall(said) for name in pair if name)
    return list(dict.fromkeys([*_GIVEN_VALUE.findall(said), *counted, *_LOOPED.findall(said)]))


def _words(said: str) -> set[str]:
    return {word.lstrip("$") for word in _WORD.findall(said)}
