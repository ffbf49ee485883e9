"""Why a bond that has the shape of a hard one may be no fault: rules in order, the first that speaks decides."""

from __future__ import annotations

from isodesm.diagnosis.hard_bonds.cases import Case
from isodesm.diagnosis.hard_bonds.creations import (
    CREATION_RULES,
    Rule,
    is_data,
    is_error,
    is_one_of_kinds,
    is_part,
    opens_own_device,
)

MAINS = frozenset(("main", "Main"))


def excuse_of(case: Case) -> str:
    """The excuse of a would-be finding; '' where it has none."""
    rules = {"creation": CREATION_RULES, "static-call": STATIC_RULES, "static-field": STATIC_RULES, "call": STATIC_RULES}
    for rule in (*EVERYWHERE, *rules.get(case.kind, ())):
        if found := rule(case):
            return found
    return ""


# --- for every kind ---------------------------------------------------------------------------


def in_test(case: Case) -> str:
    """Test code."""
    return "test" if case.source_role == "test" else ""


def in_generated_code(case: Case) -> str:
    """Code that a generator made."""
    return "generated" if case.facts.generated else ""


def in_composition_root(case: Case) -> str:
    """In a class that is one, in a program's `main`, or in a container's definition method."""
    starts = case.member is not None and case.member.kind == "method" and case.member.name in MAINS and case.member.is_static
    root = case.source_role == "composition-root" or starts or case.usage.roots.covers(case.row)
    return "composition-root" if root else ""


def is_cross_cutting(case: Case) -> str:
    """A logger, a text or the like."""
    name = f"{case.target_name}.{case.callee}" if case.callee else case.target_name
    if name in case.catalogue.cross_cutting.members.split():
        return "cross-cutting"
    if case.is_static and (case.target, case.callee) in case.codebase.text_lookups.members:
        return "cross-cutting"
    if case.external:
        return ""
    logs = case.known.is_cross_cutting(case.target) and case.effects
    return "cross-cutting" if logs or (case.kind == "creation" and case.usage.states.is_cross_cutting(case.source)) else ""


EVERYWHERE: tuple[Rule, ...] = (in_test, in_generated_code, in_composition_root, is_cross_cutting)


# --- static members ---------------------------------------------------------------------------


def is_standard_static(case: Case) -> str:
    """A static member of a library class without an effect."""
    return "pure" if case.external and not case.direct_effect else ""


def is_named_constructor_of_data(case: Case) -> str:
    """A named constructor of data, or of a part, is no other decision than its creation."""
    return (is_data(case) or is_part(case)) if case.is_named_constructor else ""


def is_shared_view(case: Case) -> str:
    """A view that has the one window of another kind shown; who fetches a window to ask it for something has no such excuse."""
    if case.source_role != "presentation" or case.target_role != "presentation" or not case.nodes:
        return ""
    gives = any(case.codebase.shared.touch(node).gives_value for node in case.nodes)
    return "" if gives or case.effects else "view-part"


def is_adapter(case: Case) -> str:
    """A class that only passes on what it is asked is the object that others replace."""
    return "adapter" if case.usage.adapters.passes_on(case.source, case.target) else ""


STATIC_RULES: tuple[Rule, ...] = (
    is_standard_static,
    is_error,
    opens_own_device,
    is_named_constructor_of_data,
    is_one_of_kinds,
    is_shared_view,
    is_adapter,
)
