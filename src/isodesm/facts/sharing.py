"""Equal parts of the facts of many files as one object: what comes out of a packed file has each of its words for itself."""

from __future__ import annotations

from typing import Any

import msgspec

from isodesm.facts.records import FileFacts

_replace = msgspec.structs.force_setattr


class Sharing:
    """Knows all parts that it has met: with it the facts of a large tree take half the room."""

    def __init__(self) -> None:
        self._known: dict[Any, Any] = {}

    def of(self, facts: FileFacts) -> FileFacts:
        """The facts themselves, just made and seen by nobody yet, with the parts that others have."""
        one = self._known.setdefault
        _replace(facts, "imports", tuple([one(each, each) for each in facts.imports]))
        for declared in facts.types:
            words = declared.modifiers
            _replace(declared, "modifiers", one(words, words))
            for member in declared.members:
                kind, name, text, words, thrown = member.kind, member.name, member.type, member.modifiers, member.throws
                _replace(member, "kind", one(kind, kind))
                _replace(member, "name", one(name, name))
                _replace(member, "type", one(text, text))
                _replace(member, "modifiers", one(words, words))
                if thrown:
                    _replace(member, "throws", one(thrown, thrown))
                if given := member.parameters:
                    _replace(member, "parameters", tuple([one(each, each) for each in given]))
        return facts
