"""What other files can see of a file: its declarations, and no places, bodies or remarks.

While that stays the same, what the other files name resolves as before, however much of the file itself has changed.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from typing import Any

import msgspec

from isodesm.facts.records import DeclaredType, Import, Member


def surface_of(language: str, package: str, imports: Iterable[Import], types: Iterable[DeclaredType], generated: bool) -> str:
    """A digest of what a file shows to others. Anonymous types, which nobody else can name, are no part of it."""
    shown = (
        language,
        package,
        generated,
        [(each.name, each.alias, each.static, each.wildcard, each.member, each.exported, each.everywhere) for each in imports],
        [_declared(each) for each in types if each.kind != "anonymous"],
    )
    return hashlib.blake2b(msgspec.msgpack.encode(shown), digest_size=16).hexdigest()


def _declared(given: DeclaredType) -> tuple[Any, ...]:
    named = (given.kind, given.name, given.path, given.space, given.outer < 0, given.outer_member, given.generics)
    return (*named, given.modifiers, given.extends, given.implements, [_member(each) for each in given.members])


def _member(given: Member) -> tuple[Any, ...]:
    named = (given.kind, given.name, given.type, given.generics, given.throws, given.value, given.whole == (0, 0))
    return (*named, given.modifiers, given.parameters, given.body == (0, 0))
