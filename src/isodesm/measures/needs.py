"""How deep the objects go that it takes to have one of a class, over what is handed in."""

from __future__ import annotations

from collections.abc import Iterable

from isodesm.codebase.model import Codebase


def depth_of_needs(codebase: Codebase, numbers: Iterable[int]) -> dict[int, int]:
    """Class number to the longest way down through injected needs, in classes; 0 for one that is handed no class of the tree.

    The class behind a need is the one that the wiring says; a class that is reached again on its own way counts once.
    """
    wiring = codebase.wiring
    below: dict[int, list[int]] = {}

    def needs(number: int) -> list[int]:
        if number not in below:
            chosen = (wiring.answer(each).chosen for each in wiring.handed_to(number) if each.target >= 0 or each.key)
            below[number] = [each for each in dict.fromkeys(chosen) if each >= 0 and each != number]
        return below[number]

    depth: dict[int, int] = {}
    for start in numbers:
        waiting, open_now = [start], set()
        while waiting:
            at = waiting[-1]
            if at in depth:
                waiting.pop()
                continue
            open_now.add(at)
            todo = [each for each in needs(at) if each not in depth and each not in open_now]
            if todo:
                waiting.append(todo[0])
                continue
            depth[at] = max((1 + depth[each] for each in needs(at) if each in depth), default=0)
            open_now.discard(at)
            waiting.pop()
    return depth
