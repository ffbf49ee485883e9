"""The step in which a class takes what it decided on, with a legacy constructor kept where callers can't all change."""

from __future__ import annotations

import re

import msgspec

from isodesm.planning.analysis.api_substitutes import OUTSIDE_CLASSES
from isodesm.planning.analysis.callers import must_keep_constructor
from isodesm.planning.analysis.decisions import spot_of
from isodesm.planning.analysis.initialization_order import made_too_soon
from isodesm.planning.analysis.load_order import imported_late
from isodesm.planning.analysis.names_in_code import clash_in
from isodesm.planning.analysis.preconditions import inner_class_in, of_several, too_much
from isodesm.planning.analysis.visibility import hidden_constructor, hidden_type, is_hidden_from, is_local, is_named_elsewhere
from isodesm.planning.containers.array_entries import entry_files, further_argument, names_arguments
from isodesm.planning.containers.attribute_entries import attribute_files, handed_over
from isodesm.planning.containers.definition_files import definitions_of, pass_argument
from isodesm.planning.containers.registration_edits import container_refusal, keep_annotation, knows, makes
from isodesm.planning.containers.tokens import token_of_class
from isodesm.planning.model.abstraction import CONCRETE
from isodesm.planning.model.decision import Decision
from isodesm.planning.model.dependency import Dependency
from isodesm.planning.model.proposal import Proposal
from isodesm.planning.model.refusal import Hazard, Reason, Refusal, Risk
from isodesm.planning.model.step import HAND_IN, PlannedStep, StepText, TechniqueName, step_id
from isodesm.planning.planner.late_lookups import kept_late
from isodesm.planning.planner.planning import Planning
from isodesm.planning.planner.prerequisites import register, write_types
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.injection import dependency_of
from isodesm.planning.state.lifetimes import lifetime_of
from isodesm.planning.state.recorder import record
from isodesm.planning.techniques import inject_through_parameter
from isodesm.planning.techniques.registry import propose
from isodesm.planning.techniques.replace_lookup import remove_container_parameter
from isodesm.planning.text.constructor_visibility import keeps_one_object
from isodesm.planning.wording import injection as wording
from isodesm.planning.wording.hazards import hazard

_SECRET = re.compile(r"(?i)crypt|secur|\brng|secret|random_bytes|nonce|entropy")
"""Names of what makes keys, tokens and the like."""


def inject(planning: Planning, decision: Decision) -> None:
    """The steps for one decision: its abstraction where none fits, its registration, then the injection."""
    context = planning.context
    if _is_settled(context, decision):
        return
    proposal = propose(context, decision)
    if isinstance(proposal, Proposal):
        proposal = kept_late(context, proposal)
    if not isinstance(proposal, Proposal):
        planning.leave(decision, proposal)
        return
    if proposal.technique == inject_through_parameter.NAME:
        _add_parameters(planning, proposal)
        return
    if refusal := _refusal(context, proposal):
        planning.leave(decision, refusal)
        return
    needs = write_types(planning, proposal)
    id = planning.unused(inject_id(context, proposal))
    if planning.is_wanted(id):
        _add_injection(planning, proposal, (*needs, *register(planning, proposal)))


def inject_id(context: PlanContext, proposal: Proposal) -> str:
    """The id of the step that carries a proposal out."""
    return step_id(HAND_IN, context.symbols.names[proposal.decision.source], proposal.what)


def _is_settled(context: PlanContext, decision: Decision) -> bool:
    """Whether all places of a decision went with another one's."""
    if decision.target >= 0:
        return False
    taken = {(place.file, place.span) for place in context.taken_places(decision.source)}
    return all((place.file, place.span) in taken for place in decision.places)


def _refusal(context: PlanContext, proposal: Proposal) -> Refusal | None:
    """Why a proposal can't be carried out in the class as the plan has it by now; None where it can."""
    decision, sources = proposal.decision, context.sources
    source, taken = decision.source, len(context.state.dependencies_of(decision.source))
    if found := container_refusal(context, proposal):
        return found
    if (locator := context.codebase.locators.get(decision.target)) is not None and locator.is_open:
        return Refusal(Reason.ASKS_LOCATOR, name=context.name(decision.target))
    if found := of_several(sources, decision, depends=proposal.legacy_only or makes(context, source)):
        return found
    if found := too_much(sources, source, taken):
        return found
    wanted = proposal.wanted
    if made_too_soon(sources, source, wanted.default.text):
        return Refusal(Reason.CREATED_TOO_SOON)
    if inner := inner_class_in(sources, source, wanted.default.text):
        return Refusal(Reason.MADE_WITH_INNER_CLASS, name=inner)
    if is_local(sources, decision.target):
        return Refusal(Reason.LOCAL_TARGET, name=context.name(decision.target))
    asked = (each.site.text for each in decision.places if each.file == context.symbols.file_of[source])
    if late := imported_late(context.codebase, source, " ".join((wanted.default.text, *asked))):
        return Refusal(Reason.IMPORTED_LATE, name=late)
    if hidden := hidden_type(sources, source, wanted.typed.text, wanted.typed.needs):
        return Refusal(Reason.TYPE_HIDDEN, type=hidden, name=context.name(source))
    return _clash(context, proposal)


def _clash(context: PlanContext, proposal: Proposal) -> Refusal | None:
    """Why a file can't name what it would have to; None where all can."""
    source, wanted, symbols = proposal.decision.source, proposal.wanted, context.symbols
    names = [*wanted.typed.needs, *wanted.default.needs]
    roots = (home for home, _ in context.sources.root_sites.get(source, ()))
    for file in sorted({symbols.file_of[source], *roots}):
        if name := clash_in(context.codebase, file, names):
            return Refusal(Reason.NAME_CLASH, file=symbols.files[file].path.rpartition("/")[2], name=name)
    return None


def _add_parameters(planning: Planning, proposal: Proposal) -> None:
    """Plan the step by which functions take what no constructor could hand them."""
    context, before = planning.context, planning.so_far.projection
    if not planning.is_wanted(planning.unused(inject_id(context, proposal))):
        return
    decision = proposal.decision
    after = before.cutting(decision, bridge=True, deferred=True)
    left = after.measures(decision.source).locked_effects
    gone = tuple(effect for effect in before.measures(decision.source).locked_effects if effect not in left)
    planned = inject_through_parameter.plan_parameters(context, proposal, gone)
    planning.add(msgspec.structs.replace(planned, id=planning.unused(planned.id)), (), after)


# --- the step ------------------------------------------------------------------------------


class Injection(msgspec.Struct, frozen=True):
    """What a step injects: the proposal, the dependency that it becomes, and whether callers may leave that out."""

    proposal: Proposal
    given: Dependency
    legacy: bool
    out_of_reach: bool
    """Whether the composition roots can't name it."""


def _add_injection(planning: Planning, proposal: Proposal, needs: tuple[str, ...]) -> None:
    """Plan the step of a proposal, and what follows from it."""
    context, decision, number = planning.context, proposal.decision, proposal.decision.source
    injection = _injection(context, proposal)
    context.state = context.state.with_proposal(number, injection.given.name, proposal)
    if injection.out_of_reach:
        context.state = context.state.with_out_of_reach(number)
    files = {file for each in context.draft.made_from(number) for file in context.draft.files_of(each)}
    touched = (
        files | {place.file for place in decision.places} | entry_files(context, number) | attribute_files(context, number)
    )
    changes = record(context, touched, lambda: _take(context, injection))
    before = planning.so_far.projection
    function = proposal.wanted.makes is not None or proposal.technique == TechniqueName.WRAP_STATIC
    after = before.cutting(decision, bridge=injection.legacy, deferred=function)
    left = after.measures(number).locked_effects
    gone = tuple(effect for effect in before.measures(number).locked_effects if effect not in left)
    source = context.name(number)
    bridges = injection.legacy and proposal.technique == TechniqueName.INJECT_THROUGH_CONSTRUCTOR
    planned = PlannedStep(
        technique=TechniqueName.BRIDGE_CONSTRUCTOR if bridges else proposal.technique,
        id=planning.unused(inject_id(context, proposal)),
        about=number,
        classes=(number,),
        target=decision.name,
        text=_text(context, injection, gone),
        edits=tuple(changes.edits),
        code=tuple(changes.code),
        added=(f"{source} → {proposal.what}",),
        removed=tuple(f"{source} ⇒ {_short(finding.target)}" for finding in decision.findings),
        lifetime=_lifetime(context, proposal),
    )
    planning.add(planned, needs, after)


def _injection(context: PlanContext, proposal: Proposal) -> Injection:
    """What a proposal becomes."""
    decision, sources = proposal.decision, context.sources
    number = decision.source
    roots = {each.source for each in sources.creators.get(number, ()) if each.root}
    unseen = is_hidden_from(sources, roots, decision.target) or hidden_constructor(
        sources, roots, proposal.wanted.default.creates
    )
    legacy = (
        unseen
        or _is_bound(context, proposal)
        or number in context.state.legacy
        or must_keep_constructor(sources, number, served=makes(context, number) and knows(context, proposal))
    )
    given = dependency_of(sources, context.state, decision, proposal.wanted)
    default = msgspec.structs.replace(given.default, makes=_made_within(context, proposal))
    return Injection(proposal, msgspec.structs.replace(given, optional=legacy, default=default), legacy, unseen)


def _is_bound(context: PlanContext, proposal: Proposal) -> bool:
    """Whether only the class itself can say what it is handed, be it that its container has that."""
    number = proposal.decision.source
    if not proposal.legacy_only:
        return False
    if makes(context, number):
        return proposal.technique != TechniqueName.REPLACE_LOOKUP or not knows(context, proposal)
    given = dependency_of(context.sources, context.state, proposal.decision, proposal.wanted)
    return context.draft.arguments.depends(number, [given])


def _made_within(context: PlanContext, proposal: Proposal) -> tuple[int, ...]:
    """The classes that are made where something is decided on, and in lines that go with it."""
    decision, own = proposal.decision, proposal.wanted.default.creates
    first = decision.places[0]
    spans = [first.span, *((each.start, each.end) for each in proposal.wanted.gone)]
    found = [own] if own >= 0 else []
    for row in context.codebase.bonds.rows_of_source(decision.source):
        spot, target = spot_of(context.codebase, row), context.codebase.bonds.target[row]
        if spot is None or spot.site.kind != "creation" or target < 0 or spot.file != first.file:
            continue
        if any(start <= spot.span[0] and spot.span[1] <= end for start, end in spans):
            found.append(target)
    return tuple(dict.fromkeys(found))


def _take(context: PlanContext, injection: Injection) -> None:
    """Note what a class takes, and who supplies it from now on."""
    proposal, given = injection.proposal, injection.given
    number = given.owner
    fed = makes(context, number) and knows(context, proposal)
    if fed and definitions_of(context, number):
        pass_argument(context, proposal, given.name)
    elif fed:
        _pass_in_entry(context, proposal, given)
        context.state = context.state.with_injected(number, given.name)
        if (token := token_of_class(context, number, given.typed.text)) is not None:
            context.state = context.state.with_token(number, given.name, token)
    context.state = context.state.with_dependency(given)
    if not injection.legacy:
        context.state = context.state.with_wired(number)
        remove_container_parameter(context, number)
        return
    context.state = context.state.with_legacy(number)
    if makes(context, number):
        keep_annotation(context, number, given)


def _pass_in_entry(context: PlanContext, proposal: Proposal, given: Dependency) -> None:
    """What a class takes becomes an argument of its definition, where that names them one by one."""
    number, abstraction = proposal.decision.source, proposal.abstraction
    id = context.state.service_ids.get(proposal.decision.target, "")
    if id and (handed := handed_over(context, number, given.name, id)) is not None:
        context.edit(handed.file, handed.amendment)
    elif abstraction is not None and names_arguments(context, number):
        entered = further_argument(context, number, abstraction)
        assert entered is not None  # or its container would not know of it
        context.edit(entered.file, entered.amendment, needs=entered.needs)


# --- what it says --------------------------------------------------------------------------


def _text(context: PlanContext, injection: Injection, gone: tuple[str, ...]) -> StepText:
    proposal, number = injection.proposal, injection.given.owner
    facts = wording.Injected(
        source=context.name(number),
        what=proposal.what,
        which=_which(context, proposal),
        as_code=_what(proposal),
        target=_decided_on(context, proposal),
        gone=gone,
        legacy=injection.legacy,
        overloads=context.sources.language(number).overloads,
        reads=proposal.what.startswith(wording.READER),
    )
    hazards = (*proposal.hazards, *_hazards(context, injection))
    creators = context.sources.creators.get(number, ())
    tests = sorted({context.symbols.files[each.file].path for each in creators if each.test})
    reasons = _reasons(context, injection, facts)
    return wording.injected(facts, reasons, tuple(hazard(each) for each in hazards), wording.check_of(tests))


def _reasons(context: PlanContext, injection: Injection, facts: wording.Injected) -> list[str]:
    """Why the step is taken, and who goes on as before."""
    proposal = injection.proposal
    found = []
    if proposal.abstraction is not None and proposal.abstraction.number == CONCRETE:
        found.append(wording.asks_for_class(facts.target, _why_concrete(context, proposal)))
    if facts.gone:
        found.append(wording.rid_of(facts.gone))
    if injection.legacy:
        found.append(wording.stays_for(_why_legacy(context, injection), overloads=facts.overloads))
    else:
        found.append(wording.CONTAINER_INJECTS if makes(context, injection.given.owner) else wording.ROOT_INJECTS)
    return found


def _why_legacy(context: PlanContext, injection: Injection) -> str:
    number = injection.given.owner
    creators = context.sources.creators.get(number, ())
    others = sorted({context.name(each.source) for each in creators if not each.root})
    if _is_bound(context, injection.proposal):
        return wording.ONLY_CLASS_KNOWS
    if others:
        return wording.for_callers(others)
    if not creators:
        told = (number, injection.given.name) in context.state.injected
        if makes(context, number) and not told:
            return wording.CONTAINER_CREATES
        if told:
            named = not context.sources.language(number).overloads and is_named_elsewhere(context.sources, number)
            return wording.NAMED_ELSEWHERE if named else wording.FOR_OTHERS
        return wording.NOBODY_CREATES
    return wording.CANT_NAME if number in context.state.out_of_reach else wording.FOR_OTHERS


def _why_concrete(context: PlanContext, proposal: Proposal) -> str:
    if context.no_new:
        return wording.NO_NEW_ABSTRACTIONS
    if not context.sources.language(proposal.decision.source).typed:
        return wording.NO_TYPES
    if context.asked_of(proposal.decision) is None:
        return wording.NEEDS_ITS_CLASS
    source = proposal.decision.source
    by_class = context.sources.language(source).containers_go_by_classes and makes(context, source)
    return wording.GOES_BY_CLASSES if by_class else wording.ASKS_TOO_MUCH


def _hazards(context: PlanContext, injection: Injection) -> list[Hazard]:
    """What the class itself makes worth minding."""
    proposal, number, name = injection.proposal, injection.given.owner, injection.given.name
    declared, found = context.symbols.types[number], list[Hazard]()
    if below := [context.name(each) for each in context.sources.subclasses(number)]:
        overloads = context.sources.language(number).overloads
        risk = Risk.SUBCLASSES_KEEP_CALLING if overloads else Risk.SUBCLASSES_KEEP_DEFAULT
        found.append(Hazard(risk, names=", ".join(below[:4])))
    if keeps_one_object(context.codebase, number):
        found.append(Hazard(Risk.OPENED_FOR_TESTS))
    if injection.legacy and makes(context, number) and (number, name) not in context.state.injected:
        token = context.state.tokens.get((number, name))
        called = f" by the name '{token.name}'" if token is not None else ""
        found.append(Hazard(Risk.CONTAINER_GOES_ON, what=_what(proposal), called=called))
    named = (proposal.decision.name, proposal.wanted.name, proposal.wanted.default.text, declared.name)
    if _SECRET.search(" ".join(named)):
        found.append(Hazard(Risk.SECURITY))
    if "static" in declared.modifiers.words and declared.kind != "class":
        found.append(Hazard(Risk.CLASS_IS_STATIC))
    if "thread" in (context.codebase.effects.of_type(number) or ()):
        found.append(Hazard(Risk.THREADS))
    return found


def _which(context: PlanContext, proposal: Proposal) -> str:
    """Which of several classes behind one abstraction a function makes, or which of several fields it is for."""
    abstraction, target = proposal.abstraction, proposal.decision.target
    shared = (
        proposal.wanted.makes is not None
        and abstraction is not None
        and abstraction.number >= 0
        and abstraction.number != target
    )
    decision = proposal.decision
    twins = any(
        (each.source, each.target, each.kind) == (decision.source, target, decision.kind) and each.places[0].field != field
        for field in [decision.places[0].field]
        for each in context.considered.on[target]
        if field
        and target >= 0
        and decision.kind == "hard-wired-creation"
        and each.places != decision.places
        and not set(each.places) >= set(decision.places)
    )
    return f" ({context.name(target)})" if shared else f" for `{decision.places[0].field}`" if twins else ""


def _lifetime(context: PlanContext, proposal: Proposal) -> str:
    """How long what is handed in lives: a shared object as long as it does now."""
    if proposal.technique == TechniqueName.REPLACE_SINGLETON:
        return wording.SHARED_LIFETIME
    target = proposal.decision.target
    return lifetime_of(context, target) if target >= 0 and proposal.wanted.makes is None else ""


def _decided_on(context: PlanContext, proposal: Proposal) -> str:
    """What a class no longer decides on, as people call it: of functions outside all classes their own names."""
    decision = proposal.decision
    if decision.target >= 0:
        return context.name(decision.target)
    called = sorted({context.codebase.bonds.text_of("callee", place.row) for place in decision.places})
    return "`, `".join(called) if decision.name in OUTSIDE_CLASSES else _short(decision.name)


def _short(name: str) -> str:
    return name.replace("\\", ".").replace("#", ".").rpartition(".")[2]


def _what(proposal: Proposal) -> str:
    return f"`{proposal.wanted.typed.text}`" if proposal.wanted.typed.text else f"`{proposal.wanted.name}`"
