"""Types of members: fields, and what methods give, through bases and type arguments, in any file."""

from __future__ import annotations

import re
from typing import NamedTuple

from isodesm.facts import typetext
from isodesm.facts.records import Member
from isodesm.linking.bonds import UNKNOWN
from isodesm.linking.hierarchy import Hierarchy

FIELD_KINDS = frozenset(("field", "constant", "component", "property"))
"""Kinds of member that are read like a variable."""
_MADE = re.compile(r"(?:await\s++)?+(new\s++)?+([$\w.\\]++)\s*+(?:<[^()]*>)?\s*+\(")
"""An initialiser that begins with a creation or a call."""

_CAST = re.compile(r"(?<!\s)\s*+(?:as|satisfies)\s.*|!", re.DOTALL)


class Scope(NamedTuple):
    """Where a type text was written: file, index of the type in it, index of the member (-1: none)."""

    file: int
    local: int
    member: int


class Value(NamedTuple):
    """The type of an expression: its target, the text it was read from, and the scope of that text."""

    target: int
    text: str = ""
    scope: Scope = Scope(-1, -1, -1)


NOTHING = Value(UNKNOWN)


class MemberValues:
    """Types of members as one file sees them."""

    def __init__(self, hierarchy: Hierarchy, number: int) -> None:
        self.hierarchy, self.symbols = hierarchy, hierarchy.symbols
        self.names = hierarchy.file(number)
        self.number = number

    # --- types as texts -------------------------------------------------------------------

    def of_text(self, text: str, scope: Scope) -> Value:
        """The value of a type text in a scope, of this or any other file."""
        name = typetext.head(text)
        if not name or name == "void":
            return NOTHING
        target = self.hierarchy.file(scope.file).resolve_type(text, scope.local, scope.member)
        return Value(target, text, scope)

    def argument(self, value: Value, index: int) -> Value:
        """The value of a type argument; for a wildcard, that of its bound."""
        arguments = typetext.arguments(value.text)
        if not arguments or not -len(arguments) <= index < len(arguments):
            return NOTHING
        text = arguments[index]
        if text.startswith("?"):
            text = text.partition("extends")[2].strip()
        return self.of_text(text, value.scope)

    # --- members --------------------------------------------------------------------------

    def _scope_of(self, number: int, member: int = -1) -> Scope:
        number, member = self.symbols.origin(number, member)
        file = self.symbols.file_of[number]
        return Scope(file, number - self.symbols.first[file], member)

    def inherited(self, start: Value) -> list[Value]:
        """The type of a value and those it inherits from in the tree, nearest first, with their type arguments."""
        above = self.hierarchy.inherited.get(start.target)
        if above is None:
            above = self.hierarchy.inherited[start.target] = self._above(start.target)
        return [start, *above]

    def _above(self, number: int) -> tuple[Value, ...]:
        found, seen = [Value(number)], {number}
        for value in found:
            for base, text in self.hierarchy.bases(value.target):
                if base >= 0 and base not in seen:
                    seen.add(base)
                    declared = self.symbols.types[value.target]
                    scope = self._scope_of(value.target)
                    outer = Scope(scope.file, declared.outer, declared.outer_member)
                    found.append(Value(base, text, scope if declared.generics else outer))
        return tuple(found[1:])

    def field(self, owner: Value, name: str) -> tuple[Value, int, Member | None]:
        """The value of a field seen through `owner`, the type that declares it, and the member (None: not found)."""
        if owner.target < 0:
            return NOTHING, UNKNOWN, None
        for each in self.inherited(owner):
            for index, member in self.symbols.members(each.target).get(name, ()):
                if member.kind in FIELD_KINDS:
                    return self._member_value(each, index, member), each.target, member
        return NOTHING, UNKNOWN, None

    def method(self, owner: Value, name: str, arity: int) -> tuple[Value, int, int]:
        """The value that a call gives, the type that declares the method, and the method's index (-1: not found)."""
        if owner.target < 0:
            return self._external_method(owner, name), UNKNOWN, -1
        fallback = None
        for each in self.inherited(owner):
            for index, member in self.symbols.members(each.target).get(name, ()):
                if member.kind == "component" and arity == 0:
                    return self._member_value(each, index, member), each.target, index
                if member.kind != "method":
                    continue
                if len(member.parameters) == arity or arity < 0:
                    return self._member_value(each, index, member), each.target, index
                if fallback is None or any(parameter.variadic for parameter in member.parameters):
                    fallback = (each, index, member)
        if fallback is None:
            return NOTHING, UNKNOWN, -1
        each, index, member = fallback
        return self._member_value(each, index, member), each.target, index

    def _member_value(self, owner: Value, index: int, member: Member) -> Value:
        """The type of a member; where that is a type variable of its owner, the argument the owner was given."""
        name = typetext.head(member.type)
        declared = self.symbols.types[owner.target]
        if declared.generics and name.isidentifier():
            for position, (variable, _) in enumerate(typetext.type_parameters(declared.generics)):
                if variable == name and owner.text:
                    given = self.argument(owner, position)
                    if given.target != UNKNOWN:
                        return given
        scope = self._scope_of(owner.target, index)
        if not member.type and member.value:
            return self._of_initialiser(member.value, scope)
        if name in self.names.dialect.self_types:
            return owner
        return self.of_text(member.type, scope)

    def _of_initialiser(self, text: str, scope: Scope) -> Value:
        """The type of what a field without a written one begins with: a creation, or a call whose result is known."""
        key = (scope.file, text)
        found = self.hierarchy.initialisers.get(key)
        if found is None:
            self.hierarchy.initialisers[key] = NOTHING  # for one that leads back to itself
            found = self.hierarchy.initialisers[key] = self._initialised(text, scope)
        return found

    def made_class(self, number: int, member: Member, index: int) -> int:
        """The class that a field's initialiser creates, and does nothing else; UNKNOWN for any other initialiser."""
        found = _MADE.match(member.value)
        if found is None or not _spans(member.value, found.end() - 1):
            return UNKNOWN
        scope = self._scope_of(number, index)
        names = self.hierarchy.file(scope.file)
        if found.group(1):
            return self._class_named(found.group(2), scope)
        if not names.dialect.calls_create:
            return UNKNOWN
        prefix = names.type_prefix(found.group(2).split("."), scope.local, scope.member)
        is_class = not prefix.rest and prefix.target >= 0 and not self.symbols.is_module(prefix.target)
        return prefix.target if is_class else UNKNOWN

    def _class_named(self, text: str, scope: Scope) -> int:
        target = self.of_text(text, scope).target
        return target if target < 0 or not self.symbols.is_module(target) else UNKNOWN

    def _initialised(self, text: str, scope: Scope) -> Value:
        names = self.hierarchy.file(scope.file)
        made = _MADE.match(text)
        chain = names.dialect.read_chain(made.group(2) if made else text)
        if not chain or (made and not _spans(text, made.end() - 1)):
            return NOTHING
        if made and made.group(1):
            return self.of_text(made.group(2), scope)
        parts = chain.split(".")
        if parts[0] == names.dialect.self_word:
            value = Value(self.symbols.first[scope.file] + scope.local)
            rest = tuple(parts[1:])
        else:
            prefix = names.type_prefix(parts, scope.local, scope.member)
            value, rest = Value(prefix.target), prefix.rest
        if value.target == UNKNOWN:
            return NOTHING
        if made and not rest:
            is_class = value.target < 0 or not self.symbols.is_module(value.target)
            return value if names.dialect.calls_create and is_class else NOTHING
        if not made:
            return self._walk(value, list(rest)) if rest else NOTHING
        value = self._walk(value, list(rest[:-1])) if len(rest) > 1 else value
        return self.method(value, rest[-1], -1)[0] if value.target >= 0 else NOTHING

    def _walk(self, value: Value, fields: list[str]) -> Value:
        for name in fields:
            value, _, member = self.field(value, name)
            if member is None:
                return NOTHING
        return value

    def _external_method(self, owner: Value, name: str) -> Value:
        """The element that a generic container outside the tree hands out, where the catalogue knows the method."""
        index = self.names.catalogue.elements.get(name)
        if owner.target == UNKNOWN or index is None or "<" not in owner.text:
            return NOTHING
        return self.argument(owner, index)


def _spans(text: str, opening: int) -> bool:
    """Whether the bracket at `opening` closes where the text ends, so that the text is that one call."""
    depth = 0
    for index in range(opening, len(text)):
        depth += (text[index] in "([{") - (text[index] in ")]}")
        if depth == 0:
            return not _CAST.sub("", text[index + 1 :]).strip()
    return True
