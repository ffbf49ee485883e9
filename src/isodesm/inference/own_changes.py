"""Classes whose objects change after they are made: a method of theirs assigns a field, or alters what one holds."""

from __future__ import annotations

import re
from collections.abc import Callable

from isodesm.facts.records import Member
from isodesm.inference.bases import Bases
from isodesm.inference.evidence import is_field, is_method
from isodesm.inference.shared_state import CHANGED
from isodesm.linking.remembering import remembered
from isodesm.linking.symbols import Symbols

MOST_BELOW = 12
"""Classes below one that are asked, too."""
BY_NAME = frozenset(("__getattr__", "__getattribute__", "__setattr__", "__get", "__set"))
"""Methods that let an object have members which nobody declared."""
_OF_SELF = re.compile(r"(?<![\w$.>])(?:\$?this|self)\s*(?:\.|->)\s*[#$]?(\w++)")
_NAME = re.compile(r"(?<![\w$.>])(\w++)")


class OwnChanges:
    """Answers once for each class."""

    def __init__(self, symbols: Symbols, bases: Bases, text_of: Callable[[int], bytes]) -> None:
        self.symbols, self.bases, self._text_of = symbols, bases, text_of

    @remembered
    def of(self, number: int) -> bool:
        """Whether an object of a class, by its own methods or those that it inherits, changes itself, or has members by name;
        of a class that others extend, whether an object of one of those does."""
        below = self.bases.implementers.get(number, ())[:MOST_BELOW]
        return any(self._in(each) for each in (*self.bases.ancestors(number), *below))

    @remembered
    def of_itself(self, number: int) -> bool:
        """The same of a class that is made as it is, whoever extends it."""
        return any(map(self._in, self.bases.ancestors(number)))

    @remembered
    def _in(self, number: int) -> bool:
        declared = self.symbols.types[number]
        implicit = self.symbols.dialect(number).implicit_self
        fields = {m.name.lstrip("$#") for m in declared.members if is_field(m) and not m.is_static}
        return any(
            member.name in BY_NAME or self._changes(number, index, member, fields if implicit else frozenset())
            for index, member in enumerate(declared.members)
            if is_method(member) and not member.is_static and member.body != (0, 0)
        )

    def _changes(self, number: int, index: int, member: Member, fields: set[str] | frozenset[str]) -> bool:
        part, _ = self.symbols.origin(number, index)
        body = self._text_of(self.symbols.file_of[part])[slice(*member.body)].decode("utf-8", "replace")
        if any(CHANGED.match(body, found.end()) for found in _OF_SELF.finditer(body)):
            return True
        taken = {each.name for each in member.parameters}
        return any(
            found[1] in fields and found[1] not in taken and CHANGED.match(body, found.end()) for found in _NAME.finditer(body)
        )
