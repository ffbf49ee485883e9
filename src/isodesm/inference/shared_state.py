"""State that outlives its users: static fields and variables of modules, and which members touch them.

A member *touches* a state when its body names it: it *reads* it, or *changes* it by an assignment or through a call that
alters what it holds. A member that changes a state and hands nothing out lets others set it; one that fills it and hands it
out (a memo, a lazy accessor) does not. An *own instance* is a state that holds an object of the class that keeps it.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Container
from functools import cached_property
from typing import NamedTuple

from isodesm.facts import typetext
from isodesm.facts.records import DeclaredType, Member
from isodesm.inference.bases import Bases
from isodesm.inference.host_keys import keys_of_host
from isodesm.linking.bonds import KIND_NUMBER, OWN_CALL, BondTable
from isodesm.linking.remembering import remembered
from isodesm.linking.symbols import Symbols

_LITERAL = re.compile(
    r"""\s*(?:[-+]?[\d.][\w.]*|[rbuf]*(?:"[^"\n]*"|'[^'\n]*'|`[^`]*`)|true|false|True|False|null|None|\(\s*+\))\s*+;?\s*+$"""
)
"""An initialiser that is a plain number, word or switch."""
FIXED = frozenset(("final", "const", "readonly"))
"""Modifiers of what is given once."""
_PLAIN = frozenset(
    "boolean bool int integer long float double byte short char number string str String Integer Long Boolean Double uint "
    "Pattern Regex RegExp Class Type Logger".split()
)
"""Types whose objects never change, or whose changes matter to nobody."""
MUTATORS = (
    r"(?:add|put|set|push|append|remove|delete|clear|insert|pop|shift|unshift|update|extend|discard|offer|poll|setdefault|"
    r"merge|compute|Add|Remove|Clear|Insert|Enqueue|Dequeue|TryAdd|Push|Pop|Set)\w*"
)
CHANGED = re.compile(
    rf"\s*(?:\[[^\]\n]*\]\s*)*(?:=(?![=>])|[-+*/|&.?%^]{{1,3}}=(?!=)|\+\+|--|(?:\.|->|\?\.)(?:{MUTATORS})\s*\()"
)
"""What stands behind the name of a state that is assigned, or whose content is altered."""
_LOOSE = re.compile(r"\s*(?:threading\.)?(?:local|SimpleNamespace)\(|\s*(?:types\.)?SimpleNamespace\(")
"""The value of a variable that is there to have parts assigned, one for each thread or for the program."""
_SETS_PART = re.compile(r"\s*\.\s*\w+\s*=(?!=)")
_CHANGED_BEFORE = re.compile(
    r"(?:\+\+|--|\bunset\s*\(|\bdelete\s+|\bdel\s+|\barray_(?:push|pop|shift|unshift|splice)\s*\(\s*)\s*$"
)
_VALUE_RETURNED = re.compile(
    r"\breturn\b[ \t(]*(?![;})\s]|null\b|None\b|undefined\b|true\b|false\b|True\b|False\b)|=>(?!\s*\{)"
)
_HANDED_OUT = re.compile(r"(?:\breturn\b|=>)[\s(]*$")
_UNPACKED = re.compile(r"^\s*(?:\.Value\b(?!\s*\()|!(?![=.]))")
"""What takes a value that may be missing out of what holds it."""
_NOT_A_TYPE = re.compile(
    r"\b(?:return|new|else|throw|in|of|case|and|or|not|if|await|yield|typeof|delete|del|global|is|as|from|import|elif"
    r"|while|assert|echo|print)\s+$"
)
_TYPE_BEFORE = re.compile(r"[\w>\]]\s+$")

MOST_STATES = 200
"""Variables of one module beyond which it is bundled code, in which they are what is private elsewhere; none counts then."""
MOST_HEIRS = 40
"""Classes below a type that are asked whether they keep an object of themselves in it."""

_GLOBAL = re.compile(r"^[ \t]*+global\s++([^\n;]+)", re.MULTILINE)
_BOUND = re.compile(
    r"(?:^|[;:(,])[ \t]*+(\w++)(?:\s*+:(?!=)[^=\n]{1,400}+)?+\s*+(?:=(?!=)|:=)|\bfor\s++(\w++)\s++in\b", re.MULTILINE
)

Key = tuple[int, str]
"""(type, name of the variable)."""
Node = tuple[int, int]
"""(type, index of the member)."""


class Touch(NamedTuple):
    """What a member does with the states of its own class or module."""

    reads: frozenset[str]
    changes: frozenset[str]
    hands_out: frozenset[str]
    """States that it returns as they are."""
    gives_value: bool
    """Whether it returns anything."""


NO_TOUCH = Touch(frozenset(), frozenset(), frozenset(), False)


class SharedState:
    """Who touches what, for all types; worked out for a type when it is first asked for."""

    def __init__(self, symbols: Symbols, bonds: BondTable, bases: Bases, text_of: Callable[[int], bytes]) -> None:
        self.symbols, self.bonds, self.bases, self._text_of = symbols, bonds, bases, text_of
        self._touches: dict[int, dict[int, Touch]] = {}
        self._own: dict[int, frozenset[str]] = {}
        self._memos: dict[Node, bool] = {}
        self._fields: dict[int, dict[str, Member]] = {}

    def fields(self, number: int) -> dict[str, Member]:
        """Name to member of the states that a type keeps: static fields, or variables of a module, that are no constants."""
        found = self._fields.get(number)
        if found is None:
            found = self._fields[number] = self._fields_of(number)
        return found

    def _fields_of(self, number: int) -> dict[str, Member]:
        declared, module = self.symbols.types[number], self.symbols.is_module(number)
        if declared.kind in ("interface", "annotation", "anonymous") or (module and self.symbols.dialect(number).ignores_case):
            return {}  # variables of a script are global ones, and known as such
        found = {
            member.name.lstrip("$#"): member
            for member in declared.members
            if (member.kind == "field" or (member.kind == "property" and member.body == (0, 0)))
            and (module or member.is_static)
            and not _is_constant(member)
        }
        return found if len(found) <= MOST_STATES else {}

    def touches(self, number: int) -> dict[int, Touch]:
        """Index of each member that touches a state of its own class to what it does with it, also through its own class."""
        found = self._touches.get(number)
        if found is None:
            found = self._touches[number] = self._closed(number, self._direct_touches(number))
        return found

    def touch(self, node: Node) -> Touch:
        """What one member does with the states of its class."""
        return self.touches(node[0]).get(node[1], NO_TOUCH)

    @remembered
    def own_instances(self, number: int) -> frozenset[str]:
        """States of a type that hold an object of it, or of a class below it."""
        family = (number, *self.bases.implementers.get(number, ())[:MOST_HEIRS])
        return frozenset(name for each in family for name in self._own_of(each))

    def _own_of(self, number: int) -> frozenset[str]:
        if number not in self._own:
            self.touches(number)
            self._own.setdefault(number, frozenset())
        return self._own[number]

    @remembered
    def is_accessor(self, number: int, name: str) -> bool:
        """Whether a static member hands out the object of its own class that the class keeps, in whatever way it is filled."""
        for each in self.bases.ancestors(number):
            if found := self.symbols.members(each).get(name, ()):
                kept = self.own_instances(each)
                return any(member.is_static and kept & self.touch((each, index)).hands_out for index, member in found)
        return False

    def is_memo(self, node: Node) -> bool:
        """Whether a member works a plain value out once, say what the platform is, and keeps it."""
        found = self._memos.get(node)
        if found is None:
            found = self._memos[node] = self._is_memo(node)
        return found

    def _is_memo(self, node: Node) -> bool:
        touch = self.touch(node)
        if not (touch.changes or touch.hands_out) or not touch.gives_value or node[1] < 0:
            return False
        member = self.symbols.types[node[0]].members[node[1]]
        kept = self.fields(node[0])
        fills = any(name in kept and is_plain(kept[name].type) for name in (*touch.changes, *touch.hands_out, *touch.reads))
        return is_plain(member.type) and fills

    # --- working it out -------------------------------------------------------------------

    def _direct_touches(self, number: int) -> dict[int, Touch]:
        line = reversed(self.bases.ancestors(number))
        fields = {name: member for each in line for name, member in self.fields(each).items()}
        if not fields:
            return {}
        declared = self.symbols.types[number]
        pattern: re.Pattern[str] | None = None
        names = [name.encode("utf-8", "replace") for name in fields]
        own = self._own_names(number, declared)
        kept = {name for name, member in fields.items() if member.value and _is_given_own("=" + member.value, 0, own)}
        loose = frozenset(name for name, member in fields.items() if _LOOSE.match(member.value))
        found = {}
        for index, member in enumerate(declared.members):
            if member.kind not in ("method", "constructor", "property", "static") or member.body == (0, 0):
                continue
            part, _ = self.symbols.origin(number, index)
            content = self._text_of(self.symbols.file_of[part])[slice(*member.body)]
            if not any(name in content for name in names):
                continue
            body = content.decode("utf-8", "replace")
            bound = self._bound(number, body) if self.symbols.is_module(number) else frozenset()
            pattern = pattern or self._pattern(number, declared, fields)
            touch = _touch(body, member, bound, _States(fields, pattern, own, kept, loose))
            if touch is not NO_TOUCH:
                found[index] = touch
        self._own[number] = frozenset(kept)
        return found

    def _pattern(self, number: int, declared: DeclaredType, fields: dict[str, Member]) -> re.Pattern[str]:
        """Names as the members of a class spell those of its states; group 1 is the qualifier, group 2 the name."""
        names = r"\w++"  # all that stand so, for a list of them takes long to be made a pattern of
        if not all(each.isidentifier() for each in fields):
            names = "|".join(sorted(map(re.escape, fields), key=len, reverse=True))
        dialect = self.symbols.dialect(number)
        words = "|".join((*dialect.class_words, *([re.escape(declared.name)] if declared.name else ["(?!)"])))
        qualifier = rf"(?:{words})\s*(?:\.|::)\s*\$?"
        optional = "?" if self.symbols.is_module(number) or dialect.implicit_self else ""
        return re.compile(rf"(?<![\w$.>:])({qualifier}){optional}({names})(?![\w(])")

    def _bound(self, number: int, body: str) -> frozenset[str]:
        """Names that a function makes local by assigning them, in a language where it must say so otherwise."""
        if not self.symbols.dialect(number).self_parameter:
            return frozenset()
        declared = {name for each in _GLOBAL.findall(body) for name in re.findall(r"\w+", each)}
        return frozenset(name for pair in _BOUND.findall(body) for name in pair if name) - declared

    def _own_names(self, number: int, declared: DeclaredType) -> frozenset[str]:
        """What an object of the class itself is made by."""
        below = [self.symbols.types[each].name for each in self.bases.implementers.get(number, ())[:MOST_HEIRS]]
        return frozenset(each for each in ("self", "static", declared.name, *below) if each)

    def _closed(self, number: int, direct: dict[int, Touch]) -> dict[int, Touch]:
        """What members do through other members of their class, too."""
        if not direct:
            return direct
        calls = self._own_calls.get(number, ())
        members = self.symbols.members(number)
        found = dict(direct)
        changed = True
        while changed:
            changed = False
            for index, callee in calls:
                for below, _ in members.get(callee, ()):
                    touch, own = found.get(below), found.get(index, NO_TOUCH)
                    if touch is None or below == index:
                        continue
                    gives = own.gives_value or (own is NO_TOUCH and self._gives_value(number, index))
                    # what fills a state and hands it out is read by who calls it
                    read, set_ = (touch.changes, frozenset()) if touch.gives_value else (frozenset(), touch.changes)
                    out = own.hands_out | (
                        touch.hands_out if gives and self._give_the_same(number, index, below) else frozenset()
                    )
                    joined = Touch(own.reads | touch.reads | read, own.changes | set_, out, gives)
                    if joined != own:
                        found[index], changed = joined, True
        return found

    def _give_the_same(self, number: int, index: int, below: int) -> bool:
        """Whether two members say to give an object of one type, so that the one most likely hands on what the other gives."""
        members = self.symbols.types[number].members
        kind = typetext.head(members[index].type)
        return bool(kind) and kind == typetext.head(members[below].type) and not is_plain(kind)

    def _gives_value(self, number: int, index: int) -> bool:
        member = self.symbols.types[number].members[index]
        part, _ = self.symbols.origin(number, index)
        body = self._text_of(self.symbols.file_of[part])[slice(*member.body)].decode("utf-8", "replace")
        return _gives_value(member, body)

    @cached_property
    def _own_calls(self) -> dict[int, list[tuple[int, str]]]:
        """Type to (member, name of the member of the same class that it calls)."""
        table = self.bonds
        found: dict[int, list[tuple[int, str]]] = {}
        wanted = (OWN_CALL, KIND_NUMBER["static-call"], KIND_NUMBER["call"])
        for kind, source, member, target, callee in zip(
            table.kind, table.source, table.source_member, table.target, table.callee, strict=True
        ):
            if kind in wanted and target == source and member >= 0:
                found.setdefault(source, []).append((member, table.names.strings[callee]))
        return found


_OWN_OBJECT = re.compile(
    r"\s*(?:\[[^\]\n]*\]\s*)?(?:\?\?|\|\|)?=(?!=)\s*(?:&\s*)?"
    r"(?:new\s+(\w+)\b|(\w+)\s*\(|((?:this|\$this|self)\s*(?:;|$|\n)|new\s+(?:\$\w+|\()))"
)
"""An assignment of an object that is made, or of the object itself, behind the name that it is given to."""


def _is_given_own(text: str, at: int, own: frozenset[str]) -> bool:
    """Whether what stands at a place assigns an object of the class itself; `own` are the names that make one."""
    found = _OWN_OBJECT.match(text, at)
    if found is None:
        return False
    made, called, _ = found.groups()
    return made in own or made == "get_called_class" or called in own or called == "cls" or (made is None and called is None)


_NAMED = r"(?<!\w)(?:self::|static::|cls\.|\w+\.)?\$?(\w+)"
_ASKED = tuple(
    re.compile(f"(?={each.format(_NAMED)})")  # at every place: one may stand inside what another matches
    for each in (
        r"{}\s*(?:===?|is)\s*(?:null|None|undefined)\b",
        r"\bnull\s*===?\s*{}\b",
        r"!\s*(?:isset\s*\(\s*)?{}\b(?!\s*[.\[(=])",
        r"\bnot\s+{}\b(?!\s*[.\[(])",
        r"\bempty\s*\(\s*{}\b",
        r"{}\s*(?:\?\?|\|\|)=",
        r"!\s*{}\.HasValue",
        r"\bif\s*\(?\s*{}(?:\.HasValue)?\s*\)?\s*[{{:]?\s*return\b",
    )
)
"""How code asks whether a state has a value yet."""


def _is_constant(member: Member) -> bool:
    """Whether a field can't change, as far as its declaration tells."""
    fixed = bool(FIXED.intersection(member.modifiers.words))
    plain = typetext.head(member.type) in _PLAIN and "[" not in member.type and "<" not in member.type
    literal = bool(member.value) and _LITERAL.match(member.value) is not None
    return fixed and (plain or literal)


class _States(NamedTuple):
    """The states of a type: `fields`, spelt as `pattern` has it, and the names that make `own` objects of it.

    `kept` takes in those given an own instance; `loose` are those that hold whatever is assigned to a part of them.
    """

    fields: Container[str]
    pattern: re.Pattern[str]
    own: frozenset[str]
    kept: set[str]
    loose: frozenset[str]


def _touch(body: str, member: Member, bound: frozenset[str], states: _States) -> Touch:
    """What a body does with states; of names in `bound` it has its states.own."""
    reads: set[str] = set()
    changes: set[str] = set()
    out: set[str] = set()
    hidden = {*bound, *(each.name.lstrip("$") for each in member.parameters)}
    for match in states.pattern.finditer(body):
        qualified, name = match.groups()
        if name not in states.fields:
            continue
        before = body[max(match.start() - 40, 0) : match.start()]
        if not qualified and (name in hidden or (name not in reads | changes and _declares(before))):
            hidden.add(name)
            continue
        if (
            CHANGED.match(body, match.end())
            or _CHANGED_BEFORE.search(before)
            or (name in states.loose and _SETS_PART.match(body, match.end()))
        ):
            changes.add(name)
            if _is_given_own(body, match.end(), states.own):
                states.kept.add(name)
            if re.search(r"\breturn\b[\s(]*$", before):
                out.add(name)
        else:
            reads.add(name)
            behind = _UNPACKED.sub("", body[match.end() : match.end() + 12]).lstrip()
            if name in states.loose or (_HANDED_OUT.search(before) and not behind.startswith((".", "->", "(", "="))):
                out.add(name)
    for name, assigned, returned in keys_of_host(body, states.pattern):
        if name in states.fields:
            (changes if assigned else reads).add(name)
            out.update((name,) if returned else ())
    filled = changes & _filled(body) if changes else set()
    reads, changes = reads | filled, changes - (filled - out)
    if not (reads or changes):
        return NO_TOUCH
    return Touch(frozenset(reads), frozenset(changes), frozenset(out), _gives_value(member, body))


def _filled(body: str) -> set[str]:
    """The names that a body asks whether they have a value: states among them are only given one where they have none yet, so
    that nobody sets them from outside."""
    return {found[1] for pattern in _ASKED for found in pattern.finditer(body)}


def _declares(before: str) -> bool:
    """Whether what stands before a name makes it a local variable."""
    return bool(_TYPE_BEFORE.search(before)) and not _NOT_A_TYPE.search(before)


def is_plain(text: str) -> bool:
    """Whether a type is that of a plain value: a number, word, switch, or the like of an enumeration."""
    name = typetext.head(text.rstrip("?")).rpartition(".")[2]
    return name in _PLAIN or name in ("Optional", "Nullable") or name.endswith(("ID", "Id", "Kind", "Platform", "Version"))


def _gives_value(member: Member, body: str) -> bool:
    if member.kind == "constructor" or typetext.head(member.type) in ("void", "None", "Void"):
        return False
    return bool(_VALUE_RETURNED.search(body)) or (
        not body.startswith("{")
        and member.kind == "method"
        and "\n" not in body.strip()
        and "return" not in body
        and bool(member.type)
    )
