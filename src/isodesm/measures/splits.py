"""Groups of members and consumers that have nothing to do with each other: where a class would part by itself."""

from __future__ import annotations

import msgspec


class Split(msgspec.Struct, frozen=True):
    """Members that some consumers need, and none of the others: an interface of its own."""

    members: tuple[str, ...]
    consumers: tuple[str, ...]


def splits_of(used: dict[str, set[str]]) -> tuple[Split, ...]:
    """Groups of members and consumers that have nothing to do with each other; none where there is only one."""
    groups: list[tuple[set[str], set[str]]] = []
    for name, users in sorted(used.items()):
        members, consumers = {name}, set(users)
        rest = []
        for group in groups:
            if group[1] & consumers:
                members |= group[0]
                consumers |= group[1]
            else:
                rest.append(group)
        groups = [*rest, (members, consumers)]
    if len(groups) < 2:
        return ()
    return tuple(
        Split(tuple(sorted(members)), tuple(sorted(consumers)))
        for members, consumers in sorted(groups, key=lambda each: sorted(each[0]))
    )
