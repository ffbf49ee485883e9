"""The step in which a class is handed what it decided on, with the old constructor kept where callers can't all change."""

from __future__ import annotations

import re

import msgspec

from isodesm.planning.analysis.api_substitutes import OUTSIDE_CLASSES
from isodesm.planning.analysis.callers import must_keep_constructor
from isodesm.planning.analysis.decisions import spot_of
from isodesm.planning.analysis.visibility import is_hidden_from
from isodesm.planning.containers.array_entries import entry_files, further_argument, names_arguments
from isodesm.planning.containers.definition_files import definitions_of, feed
from isodesm.planning.containers.registration_edits import keep_marked, knows, makes
from isodesm.planning.model.abstraction import CONCRETE
from isodesm.planning.model.dependency import Dependency
from isodesm.planning.model.proposal import Proposal
from isodesm.planning.model.step import Balance, Step, step_id
from isodesm.planning.planner.projection import Projection
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.injection import hand_in
from isodesm.planning.state.lifetimes import lifetime_of
from isodesm.planning.state.recorder import Recorder
from isodesm.planning.techniques import replace_lookup, replace_singleton
from isodesm.planning.techniques.inject_through_constructor import inject as inject_through_constructor
from isodesm.planning.techniques.wrap_static import wrap as wrap_static
from isodesm.planning.text.constructor_visibility import keeps_one_object

BRIDGE = "bridge-constructor"
HAND_IN = "hand-in"
"""What ids of steps that hand something to a class begin with, whatever their technique: it may change from plan to plan."""


_SECRET = re.compile(r"(?i)crypt|secur|\brng|secret|random_bytes|nonce|entropy")
"""Names of what makes keys, tokens and the like."""


def hand_in_id(context: PlanContext, proposal: Proposal) -> str:
    """The id of the step that carries a proposal out."""
    return step_id(HAND_IN, context.symbols.names[proposal.decision.source], proposal.what)


def plan_injection(context: PlanContext, recorder: Recorder, state: Projection, proposal: Proposal) -> tuple[Step, Projection]:
    """The step for one proposal, and the state after it."""
    decision = proposal.decision
    number = decision.source
    contained = makes(context, number)
    roots = {each.source for each in context.sources.creators.get(number, ()) if each.root}
    unseen = is_hidden_from(context.sources, roots, decision.target)
    bridge = (
        unseen
        or _is_bound(context, proposal)
        or number in context.state.legacy
        or must_keep_constructor(context.sources, number, served=contained and knows(context, proposal))
    )
    source = context.name(number)
    given = msgspec.structs.replace(hand_in(draft, decision, proposal.wanted), optional=bridge)
    supply = msgspec.structs.replace(given.supply, makes=_made_within(context, proposal))
    given = msgspec.structs.replace(given, supply=supply)
    context.state.proposals[number, given.name] = proposal
    if unseen:
        context.state.out_of_reach.add(number)

    files = {file for each in context.draft.made_from(number) for file in context.draft.files_of(each)}
    touched = files | {place.file for place in decision.places} | entry_files(context, number)
    edits, code = recorder.change(touched, lambda: _take(context, proposal, given, bridge=bridge))
    function = proposal.wanted.makes is not None or proposal.technique == wrap_static.NAME
    after = state.cutting(decision, bridge=bridge, deferred=function)
    before_measures, after_measures = state.measures(number), after.measures(number)
    gone = tuple(effect for effect in before_measures.locked_effects if effect not in after_measures.locked_effects)
    technique = BRIDGE if bridge and proposal.technique == inject_through_constructor.NAME else proposal.technique
    target = _decided_on(context, proposal)
    kept = "" if not bridge else ", old constructor kept" if context.sources.writer(number).overloads else ", optional so far"
    step = Step(
        number=0,
        id=hand_in_id(context, proposal),
        technique=technique,
        title=f"Hand {source} {_article(proposal)} {proposal.what}{_which(context, proposal)}{kept}",
        classes=(context.symbols.names[number], decision.name),
        layer=context.codebase.layers.name(number),
        why_now=_why(context, proposal, target, gone, bridge),
        edits=edits,
        code=code,
        frees=(
            f"a test of `{source}` can pass its own {_what(proposal)}",
            *(f"{effect} is out of `{source}`" for effect in gone),
        ),
        hazards=(*proposal.hazards, *_hazards(context, proposal, given.name, bridge)),
        check=_check(context, number),
        balance=Balance(
            tuple(f"{source} ⇒ {_short(finding.target)}" for finding in decision.findings), (f"{source} → {proposal.what}",)
        ),
        before=before_measures,
        after=after_measures,
        lifetime=_lifetime(context, proposal),
    )
    return step, after


def _is_bound(context: PlanContext, proposal: Proposal) -> bool:
    """Whether only the class itself can say what it is handed, be it that its container has that."""
    number = proposal.decision.source
    if not proposal.bridge_only:
        return False
    if makes(context, number):
        return proposal.technique != replace_lookup.NAME or not knows(context, proposal)
    given = hand_in(context.draft, proposal.decision, proposal.wanted)
    return context.draft.arguments.depends(number, [given])


def _made_within(context: PlanContext, proposal: Proposal) -> tuple[int, ...]:
    """The classes that are made where something is decided on, and in lines that go with it."""
    decision, own = proposal.decision, proposal.wanted.supply.creates
    first = decision.places[0]
    spans = [first.span, *((each.start, each.end) for each in proposal.wanted.gone)]
    found = [own] if own >= 0 else []
    for row in context.codebase.bonds.rows_of_source(decision.source):
        spot, target = spot_of(context.codebase, row), context.codebase.bonds.target[row]
        made = spot is not None and spot.site.kind == "creation" and target >= 0 and spot.file == first.file
        if made and any(start <= spot.span[0] and spot.span[1] <= end for start, end in spans):
            found.append(target)
    return tuple(dict.fromkeys(found))


def _take(context: PlanContext, proposal: Proposal, given: Dependency, *, bridge: bool) -> None:
    """Note what a class is handed, and who supplies it from now on."""
    number = given.owner
    fed = makes(context, number) and knows(context, proposal)
    if fed and definitions_of(context, number):
        feed(context, proposal, given.name)
    elif fed:
        _pass_in_entry(context, proposal)
        context.state.injected.add((number, given.name))
    context.draft.handed[number].append(given)
    if not bridge:
        context.state.wired.add(number)
        replace_lookup.spare_container(context, number)
        return
    context.state.legacy.add(number)
    if makes(context, number):
        keep_marked(context, number, given)


def _pass_in_entry(context: PlanContext, proposal: Proposal) -> None:
    """What a class takes becomes an argument of its definition, where that names them one by one."""
    number, abstraction = proposal.decision.source, proposal.abstraction
    if abstraction is not None and names_arguments(context, number):
        entered = further_argument(context, number, abstraction)
        assert entered is not None  # or its container would not know of it
        context.draft.extras[entered.file].append(entered.amendment)
        context.draft.named[entered.file].update(entered.needs)


def _article(proposal: Proposal) -> str:
    return "a" if proposal.what.startswith("reader of") else "its"


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
    if proposal.technique == replace_singleton.NAME:
        return "singleton, as the shared object does now"
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


def _why(context: PlanContext, proposal: Proposal, target: str, gone: tuple[str, ...], bridge: bool) -> str:
    number = proposal.decision.source
    source = context.name(number)
    parts = [f"`{source}` no longer decides on `{target}`."]
    if proposal.abstraction is not None and proposal.abstraction.number == CONCRETE:
        parts.append(f"It asks for `{target}` itself: {_why_concrete(context, proposal)}.")
    if gone:
        parts.append(f"Its tests are rid of {', '.join(gone)}.")
    creators = context.sources.creators.get(number, ())
    others = sorted({context.name(each.source) for each in creators if not each.root})
    stays = "The old constructor stays" if context.sources.writer(number).overloads else "The parameter may be left out"
    if bridge and _is_bound(context, proposal):
        parts.append(f"{stays}: only this class knows what it is made from.")
    elif bridge and others:
        parts.append(f"{stays} for {', '.join(others[:4])}{' and others' if len(others) > 4 else ''}.")
    elif bridge and not creators:
        parts.append(f"{stays}, for nobody in this tree creates it: a host may, without arguments.")
    elif bridge and number in context.state.out_of_reach:
        parts.append(f"{stays}: those who make this class can't name all that it takes.")
    elif bridge:
        parts.append(f"{stays} for its subclasses, or for what callers leave out already.")
    elif makes(context, number):
        parts.append("Its container hands it in from here on.")
    else:
        parts.append("Only the composition root creates it, so its callers change in the same step.")
    return " ".join(parts)


def _why_concrete(context: PlanContext, proposal: Proposal) -> str:
    if context.no_new:
        return "no new abstractions were asked for"
    if not context.sources.writer(proposal.decision.source).typed:
        return "this file has no types"
    if context.asked_of(proposal.decision) is None:
        return "it passes it on, or others see it"
    return "an interface would have to leave out what is asked of it"


def _hazards(context: PlanContext, proposal: Proposal, name: str, bridge: bool) -> tuple[str, ...]:
    number = proposal.decision.source
    hazards = []
    below = [context.name(each) for each in context.sources.subclasses(number)]
    if below:
        hazards.append(f"subclasses {', '.join(below[:4])} keep calling the old constructor")
    if keeps_one_object(context.codebase, number):
        hazards.append("its constructor is opened for tests: that there is one object is an agreement from here on")
    if bridge and makes(context, number):
        token = context.state.tokens.get((number, name))
        called = f" by the name '{token.name}'" if token is not None else ""
        hazards.append(
            f"a container makes this class, and goes on as before: it hands in no {_what(proposal)} until it is told of "
            f"one{called}"
        )
    declared = context.symbols.types[number]
    if _SECRET.search(" ".join((proposal.decision.name, proposal.wanted.name, proposal.wanted.supply.text, declared.name))):
        hazards.append("what secrets are made from becomes replaceable: whether it may be is a decision on security")
    if "static" in declared.modifiers.words and declared.kind != "class":
        hazards.append("the class is static")
    if context.codebase.effects.of_type(number) and "thread" in context.codebase.effects.of_type(number):
        hazards.append("threads are at work here: what is handed in may be shared between them")
    return tuple(hazards)


def _check(context: PlanContext, number: int) -> str:
    tests = sorted({context.symbols.files[each.file].path for each in context.sources.creators.get(number, ()) if each.test})
    named = f" Run {', '.join(tests[:3])}." if tests else " No test creates this class yet: now one can."
    return "See that the code compiles and behaves as before." + named
