"""pass-on, a kind of lift-creation: who makes a class that takes something by now takes that as well, and passes it on.

So what an old constructor still makes for itself moves up, from maker to maker, until a composition root or a host makes it.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping

import msgspec

from isodesm.planning.analysis.callers import must_keep_constructor
from isodesm.planning.analysis.creators import Creator
from isodesm.planning.analysis.decisions import spot_of
from isodesm.planning.analysis.initialization_order import too_early
from isodesm.planning.analysis.names_in_code import needs_of_text, settled_needs
from isodesm.planning.analysis.preconditions import of_class, of_several, of_spot, too_much
from isodesm.planning.analysis.visibility import hidden_constructor, hidden_type
from isodesm.planning.containers.registration_edits import container_refusal, keep_annotation, makes
from isodesm.planning.model.code import Need
from isodesm.planning.model.decision import Spot
from isodesm.planning.model.dependency import DefaultExpression, Dependency, Forwarding, twin_of
from isodesm.planning.model.proposal import Proposal
from isodesm.planning.model.refusal import Reason, Refusal
from isodesm.planning.model.step import PASS_ON, PlannedStep, TechniqueName, step_id
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.injection import free_name
from isodesm.planning.state.recorder import record
from isodesm.planning.techniques import replace_lookup
from isodesm.planning.techniques.sharing import keeps_state
from isodesm.planning.wording import steps as wording

NAME = TechniqueName.LIFT_CREATION
Makers = Mapping[int, list[Spot]]


# --- who makes what ------------------------------------------------------------------------


def remaining_callers(context: PlanContext, number: int) -> list[Creator]:
    """The places of production that make a class by its old constructor: those that neither root nor supply has in hand."""
    passing = {(each.file, each.site) for each in context.state.forwarding_to(number)}
    passing |= set(context.sources.own_sites.get(number, ()))  # they pass what stands for it
    return [
        each
        for each in context.sources.creators.get(number, ())
        if not each.root and not each.test and (each.file, each.site) not in passing and not _is_supplied(context, each, number)
    ]


def _is_supplied(context: PlanContext, maker: Creator, number: int) -> bool:
    """Whether a creation stands in what its class is handed by now, so that whoever supplies that makes it."""
    spot = spot_of(context.codebase, maker.row)
    if spot is None:
        return False
    for each in context.state.dependencies_of(maker.source):
        taken = context.state.proposals.get((maker.source, each.name))
        if taken is not None and number in each.default.makes:
            spans = [place.span for place in taken.decision.places if place.file == spot.file]
            spans += [(gone.start, gone.end) for gone in taken.wanted.gone]
            if any(start <= spot.span[0] and spot.span[1] <= end for start, end in spans):
                return True
    return False


def creators_first(context: PlanContext) -> list[int]:
    """All classes, those that others make in front of those that make them; of a circle any first."""
    made: dict[int, set[int]] = defaultdict(set)
    for number, creators in context.sources.creators.items():
        for each in creators:
            made[each.source].add(number)
    found: dict[int, None] = {}
    names = context.symbols.names
    for start in sorted(context.sources.creators, key=names.__getitem__):
        waiting: list[tuple[int, bool]] = [(start, False)]
        opened: set[int] = set()
        while waiting:
            number, closing = waiting.pop()
            if closing:
                found.setdefault(number)
            elif number not in found and number not in opened:
                opened.add(number)
                waiting.append((number, True))
                waiting += [(each, False) for each in sorted(made[number], key=names.__getitem__, reverse=True)]
    return list(found)


def callers_of(context: PlanContext, number: int) -> Makers | Refusal:
    """The classes that can pass on what a class takes, with the places where they make it; else why one of them can't."""
    found = defaultdict(list)
    if (
        context.sources.has_several_constructors(number)
        or context.sources.inherited(number) is not None
        or context.sources.subclasses(number)
    ):
        return Refusal(Reason.SEVERAL_WAYS_TO_CREATE)
    if any(each.default.depends for each in context.state.dependencies_of(number)):
        return Refusal(Reason.ONLY_CLASS_KNOWS_TAKEN)
    for each in remaining_callers(context, number):
        spot = spot_of(context.codebase, each.row)
        if spot is None:
            return Refusal(Reason.CREATION_LOST)
        if context.draft.arguments.depends(number, sites=[(each.file, each.site)]):
            return Refusal(Reason.STANDS_IN_FOR_ARGUMENTS)
        found[each.source].append(spot)
    for owner, spots in found.items():
        if reason := _of_caller(context, owner, spots) or _of_taking(context, number, owner, spots, {number}):
            return reason
    return found


def _of_caller(context: PlanContext, owner: int, spots: Iterable[Spot]) -> Refusal | None:
    """Why a class can't pass on anything where it makes another; None where it can."""
    if context.sources.is_made_of_fields(owner):
        return Refusal(Reason.CALLER_MADE_OF_FIELDS)
    for spot in spots:
        if reason := of_spot(context.sources, owner, spot):
            return reason
        syntax = context.sources.syntax(spot.file)
        node, member = syntax.at(*spot.span), spot.member
        assert member is not None
        if member.kind not in ("method", "property", "constructor"):
            return Refusal(Reason.CREATED_BY_FIELD)
        if member.kind == "constructor" and member not in context.sources.constructors(owner):
            return Refusal(Reason.CREATED_BY_DELEGATION)
        if syntax.traits.functions_rebind_this and syntax.has_own_self(node, syntax.member_node(member)):
            return Refusal(Reason.CREATED_UNDER_ANOTHER_THIS)
        if (node.start_byte, node.end_byte) != spot.span or syntax.arguments(node) is None:
            return Refusal(Reason.CREATION_LOST)
        if _is_taken(context, owner, spot):
            return Refusal(Reason.CREATED_ON_THE_WAY)
    return None


def _is_taken(context: PlanContext, owner: int, spot: Spot) -> bool:
    """Whether an expression stands in one that its class is handed by now."""
    return any(
        place.file == spot.file and place.span[0] <= spot.span[0] and spot.span[1] <= place.span[1]
        for place in context.taken_places(owner)
    )


def _of_taking(context: PlanContext, number: int, owner: int, spots: Iterable[Spot], seen: set[int]) -> Refusal | None:
    """Why a maker, or one of its own makers that pass on to it already, can't take what a class takes; None where all can."""
    lacking = [each for each in context.state.dependencies_of(number) if not _is_at_hand(context, owner, each)]
    if not lacking:
        return _of_sharing(context, number, owner, spots)
    if reason := of_class(context.sources, owner) or _of_sharing(context, number, owner, spots):
        return reason
    if too_much(context.sources, owner, len(context.state.dependencies_of(owner)), len(lacking)):
        return Refusal(Reason.CALLER_IS_FULL, name=context.name(owner))
    for given in lacking:
        if hidden := hidden_in(context, owner, given):
            return Refusal(Reason.TYPE_HIDDEN, type=hidden, name=context.name(owner))
        moved = _moved(context.state.proposals[number, given.name], owner)
        reason = (
            container_refusal(context, moved)
            or _of_time(context, moved)
            or of_several(context.sources, msgspec.structs.replace(moved.decision, places=()), depends=makes(context, owner))
        )
        if reason:
            return reason
    further = context.state.forwarding_to(owner)
    if owner in seen:
        return None
    seen.add(owner)
    return next((why for each in further if (why := _of_taking(context, number, each.owner, (), seen))), None)


def _is_at_hand(context: PlanContext, owner: int, given: Dependency) -> bool:
    return twin_of(given, context.state.dependencies_of(owner)) is not None or _is_own(context, given, owner)


def _is_own(context: PlanContext, given: Dependency, owner: int) -> bool:
    """Whether what stands for a dependency is kept by its maker itself, which so can go on naming it."""
    decision = context.state.proposals[given.owner, given.name].decision
    return decision.kind in ("static-singleton", "ambient-state") and owner in (
        decision.target,
        decision.places[0].finding.target_number,
    )


def _of_time(context: PlanContext, moved: Proposal) -> Refusal | None:
    """Why what is handed in can't be fetched as early as a maker is made; None where it can."""
    decision = moved.decision
    if moved.technique == replace_lookup.NAME or decision.kind == "ambient-state" and moved.wanted.makes is None:
        return Refusal(Reason.FETCHED_LATE)
    return too_early(context.sources, decision) if decision.kind == "static-singleton" else None


def _of_sharing(context: PlanContext, number: int, owner: int, spots: Iterable[Spot]) -> Refusal | None:
    """Why all objects that a maker makes can't share what they take; None where they can, or it makes just one."""
    spots = list(spots)
    once = len(spots) == 1 and spots[0].member is not None and spots[0].member.kind == "constructor"
    for given in context.state.dependencies_of(number):
        alone = once and twin_of(given, context.state.dependencies_of(owner)) is None
        if not alone and (reason := keeps_state(context, context.state.proposals[number, given.name])):
            return reason
    return None


def _moved(taken: Proposal, owner: int) -> Proposal:
    """A proposal as one for the maker of the class."""
    return msgspec.structs.replace(taken, decision=msgspec.structs.replace(taken.decision, source=owner))


# --- the step ------------------------------------------------------------------------------


def forwarding_id(context: PlanContext, owner: int, number: int) -> str:
    """The id of the step by which a maker passes on what a class takes."""
    return step_id(PASS_ON, context.symbols.names[owner], context.symbols.names[number])


def plan_forwarding(context: PlanContext, number: int, owner: int, spots: list[Spot]) -> PlannedStep:
    """The step by which one caller of a constructor takes what that class takes, and forwards it."""
    before = {each.name for each in context.state.dependencies_of(owner)}

    def apply() -> None:
        fetched = frozenset(
            each.name
            for each in context.state.dependencies_of(number)
            if _is_own(context, each, owner) and twin_of(each, context.state.dependencies_of(owner)) is None
        )
        _take(context, number, owner, spots, set())
        site_of = context.codebase.bonds.site
        added = (Forwarding(owner, spot.row, spot.file, site_of[spot.row], fetched) for spot in spots)
        context.state = context.state.with_forwarding(number, *added)

    above = callers_above(context, owner)
    touched = {file for one in above for each in context.draft.made_from(one) for file in context.draft.files_of(each)}
    changes = record(context, touched | {spot.file for spot in spots}, apply)
    caller = context.name(owner)
    types = [each.typed.text for each in context.state.dependencies_of(owner) if each.name not in before]
    return PlannedStep(
        technique=NAME,
        id=forwarding_id(context, owner, number),
        about=owner,
        follows=number,
        classes=(owner, number),
        text=wording.forwarded(
            caller,
            context.name(number),
            types,
            keeps_legacy=owner in context.state.legacy,
            overloads=context.sources.language(number).overloads,
        ),
        edits=tuple(changes.edits),
        code=tuple(changes.code),
        added=tuple(f"{caller} → {each}" for each in types),
    )


def callers_above(context: PlanContext, number: int) -> set[int]:
    """A class, and those who pass on what it takes or whose own takings it is made for, over any number of steps."""
    found, waiting = {number}, [number]
    while waiting:
        below = waiting.pop()
        above = {each.owner for each in context.state.forwarding_to(below)}
        above |= {
            owner for owner, handed in context.state.dependencies.items() if any(below in each.default.makes for each in handed)
        }
        waiting += sorted(above - found)
        found |= above
    return found


def _take(context: PlanContext, number: int, owner: int, spots: Iterable[Spot], seen: set[int]) -> None:
    """Let a caller take what a class takes and it has not; and with it those who forward to it already."""
    spots = list(spots)
    kept = not context.sources.language(owner).overloads or any(
        spot.member is not None and spot.member.kind != "constructor" for spot in spots
    )
    legacy = owner in context.state.legacy or must_keep_constructor(context.sources, owner)
    for given in context.state.dependencies_of(number):
        known = context.state.dependencies_of(owner)
        if (own := twin_of(given, known)) is not None:
            held = (msgspec.structs.replace(each, kept=True) if kept and each is own else each for each in known)
            context.state = context.state.with_dependencies(owner, tuple(held))
        elif not _is_own(context, given, owner):
            added = _taken_too(context, given, owner, kept=kept, optional=legacy)
            moved = msgspec.structs.replace(_moved(context.state.proposals[number, given.name], owner), technique=NAME)
            context.state = context.state.with_dependency(added).with_proposal(owner, added.name, moved)
    if legacy:
        context.state = context.state.with_legacy(owner)
        if makes(context, owner):
            for each in context.state.dependencies_of(owner):
                keep_annotation(context, owner, each)
    else:
        context.state = context.state.with_wired(owner)
    seen.add(owner)
    for further in context.state.forwarding_to(owner):
        if further.owner not in seen:
            spot = spot_of(context.codebase, further.row)
            _take(context, owner, further.owner, [spot] if spot is not None else [], seen)


def _taken_too(context: PlanContext, given: Dependency, owner: int, *, kept: bool, optional: bool) -> Dependency:
    """The same dependency for a maker, which knows nothing of where it was decided on."""
    default = given.default
    needs = _default_needs(context, given)
    return Dependency(
        owner=owner,
        name=free_name(context.sources, context.state, owner, given.name),
        typed=given.typed,
        default=DefaultExpression(default.text, -1, default.creates, tuple(dict.fromkeys(needs)), makes=default.makes),
        places=(),
        kept=kept,
        declared=False,
        assigned=False,
        optional=optional,
    )


def hidden_in(context: PlanContext, owner: int, given: Dependency) -> str:
    """What a class can't name, or not make, of a dependency and what stands for it; '' where it can name all."""
    sources, default = context.sources, given.default
    closed = next((each for each in (default.creates, *default.makes) if hidden_constructor(sources, [owner], each)), -1)
    if closed >= 0:
        return context.name(closed)
    needs = (*given.typed.needs, *_default_needs(context, given))
    return hidden_type(sources, owner, f"{given.typed.text} {default.text}", needs)


def _default_needs(context: PlanContext, given: Dependency) -> tuple[Need, ...]:
    """What a file must import to name what stands for a dependency."""
    default = given.default
    if default.file < 0:
        return default.needs
    local = context.symbols.local_in(given.owner, default.file)
    named = needs_of_text(context.codebase, default.file, local, default.text)
    return (*default.needs, *settled_needs(named, (*given.typed.needs, *default.needs)))
