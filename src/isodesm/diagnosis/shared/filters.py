"""Part of a diagnosis: of some kinds, from a level on, of a layer or a class."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable

import msgspec

from isodesm.codebase.class_lookup import check_layer, find_class
from isodesm.codebase.overview import Overview
from isodesm.diagnosis.shared.findings import KINDS, LEVELS, Diagnosis, Finding


class Wanted(msgspec.Struct, frozen=True):
    """What to show: kinds (none: all), the mildest level, a layer, a class; '' for any."""

    kinds: tuple[str, ...] = ()
    level: str = ""
    layer: str = ""
    class_name: str = ""

    @property
    def is_all(self) -> bool:
        return self == Wanted()


def only(diagnosis: Diagnosis, wanted: Wanted, overview: Overview) -> Diagnosis:
    """The part of a diagnosis that is wanted. UsageError for a layer or class that isn't there."""
    if wanted.is_all:
        return diagnosis
    keep = _test(wanted, overview)
    excused = tuple(filter(keep, diagnosis.excused))
    counts = Counter(each.excuse for each in excused)
    return msgspec.structs.replace(
        diagnosis,
        findings=tuple(filter(keep, diagnosis.findings)),
        places=tuple(filter(keep, diagnosis.places)),
        excused=excused,
        by_excuse=dict(sorted(counts.items(), key=lambda item: (-item[1], item[0]))),
    )


def _test(wanted: Wanted, overview: Overview) -> Callable[[Finding], bool]:
    if wanted.layer:
        check_layer(overview, wanted.layer)
    number = find_class(overview, wanted.class_name) if wanted.class_name else -1
    levels = LEVELS[: LEVELS.index(wanted.level) + 1] if wanted.level else LEVELS
    kinds = frozenset(wanted.kinds or KINDS)
    return lambda each: (
        each.kind in kinds
        and (each.level in levels or bool(each.excuse))
        and (not wanted.layer or each.layer == wanted.layer)
        and (number < 0 or number in (each.source_number, each.target_number))
    )
