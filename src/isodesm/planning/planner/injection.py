"""The step in which a class is handed what it decided on, with the old constructor kept where callers can't all change."""

from __future__ import annotations

import re

import msgspec

from isodesm.planning.analysis.api_substitutes import OUTSIDE_CLASSES
from isodesm.planning.analysis.decisions import spot_of
from isodesm.planning.analysis.homes import CONCRETE
from isodesm.planning.analysis.visibility import is_hidden_from
from isodesm.planning.containers.array_entries import entry_files, further_argument, names_arguments
from isodesm.planning.containers.definition_files import definitions_of, feed
from isodesm.planning.containers.registration_edits import keep_marked, knows, makes
from isodesm.planning.model.dependency import Handed
from isodesm.planning.model.step import Balance, Step, step_id
from isodesm.planning.planner.projection import Projection
from isodesm.planning.state.context import Workshop
from isodesm.planning.state.injection import hand_in
from isodesm.planning.state.lifetimes import lifetime_of
from isodesm.planning.state.recorder import Recorder
from isodesm.planning.techniques import replace_lookup, replace_singleton
from isodesm.planning.techniques.inject_through_constructor import inject as inject_through_constructor
from isodesm.planning.techniques.proposal import Proposal
from isodesm.planning.techniques.wrap_static import wrap as wrap_static
from isodesm.planning.text.constructor_visibility import keeps_one_object

BRIDGE = "bridge-constructor"
HAND_IN = "hand-in"
"""What ids of steps that hand something to a class begin with, whatever their technique: it may change from plan to plan."""


_SECRET = re.compile(r"(?i)crypt|secur|\brng|secret|random_bytes|nonce|entropy")
"""Names of what makes keys, tokens and the like."""


def hand_in_id(shop: Workshop, proposal: Proposal) -> str:
    """The id of the step that carries a proposal out."""
    return step_id(HAND_IN, shop.symbols.names[proposal.decision.source], proposal.what)


def plan_injection(shop: Workshop, recorder: Recorder, state: Projection, proposal: Proposal) -> tuple[Step, Projection]:
    """The step for one proposal, and the state after it."""
    decision = proposal.decision
    number, draft = decision.source, shop.draft
    contained = makes(shop, number)
    roots = {each.source for each in shop.creators.get(number, ()) if each.root}
    unseen = is_hidden_from(shop, roots, decision.target)
    bridge = (
        unseen
        or _is_bound(shop, proposal)
        or number in draft.bridged
        or shop.must_bridge(number, served=contained and knows(shop, proposal))
    )
    source = shop.name(number)
    given = msgspec.structs.replace(hand_in(draft, decision, proposal.wanted), optional=bridge)
    supply = msgspec.structs.replace(given.supply, makes=_made_within(shop, proposal))
    given = msgspec.structs.replace(given, supply=supply)
    shop.taken[number, given.name] = proposal
    if unseen:
        shop.unseen.add(number)

    files = {file for each in draft.made_from(number) for file in draft.files_of(each)}
    touched = files | {place.file for place in decision.places} | entry_files(shop, number)
    edits, code = recorder.change(touched, lambda: _take(shop, proposal, given, bridge=bridge))
    function = proposal.wanted.makes is not None or proposal.technique == wrap_static.NAME
    after = state.cutting(decision, bridge=bridge, deferred=function)
    before_measures, after_measures = state.measures(number), after.measures(number)
    gone = tuple(effect for effect in before_measures.locked_effects if effect not in after_measures.locked_effects)
    technique = BRIDGE if bridge and proposal.technique == inject_through_constructor.NAME else proposal.technique
    target = _decided_on(shop, proposal)
    kept = "" if not bridge else ", old constructor kept" if draft.writer(number).overloads else ", optional so far"
    step = Step(
        number=0,
        id=hand_in_id(shop, proposal),
        technique=technique,
        title=f"Hand {source} {_article(proposal)} {proposal.what}{_which(shop, proposal)}{kept}",
        classes=(shop.symbols.names[number], decision.name),
        layer=shop.codebase.layers.name(number),
        why_now=_why(shop, proposal, target, gone, bridge),
        edits=edits,
        code=code,
        frees=(
            f"a test of `{source}` can pass its own {_what(proposal)}",
            *(f"{effect} is out of `{source}`" for effect in gone),
        ),
        hazards=(*proposal.hazards, *_hazards(shop, proposal, given.name, bridge)),
        check=_check(shop, number),
        balance=Balance(
            tuple(f"{source} ⇒ {_short(finding.target)}" for finding in decision.findings), (f"{source} → {proposal.what}",)
        ),
        before=before_measures,
        after=after_measures,
        lifetime=_lifetime(shop, proposal),
    )
    return step, after


def _is_bound(shop: Workshop, proposal: Proposal) -> bool:
    """Whether only the class itself can say what it is handed, be it that its container has that."""
    number = proposal.decision.source
    if not proposal.bridge_only:
        return False
    if makes(shop, number):
        return proposal.technique != replace_lookup.NAME or not knows(shop, proposal)
    given = hand_in(shop.draft, proposal.decision, proposal.wanted)
    return shop.draft.depends(number, [given])


def _made_within(shop: Workshop, proposal: Proposal) -> tuple[int, ...]:
    """The classes that are made where something is decided on, and in lines that go with it."""
    decision, own = proposal.decision, proposal.wanted.supply.creates
    first = decision.places[0]
    spans = [first.span, *((each.start, each.end) for each in proposal.wanted.gone)]
    found = [own] if own >= 0 else []
    for row in shop.codebase.bonds.rows_of_source(decision.source):
        spot, target = spot_of(shop.codebase, row), shop.codebase.bonds.target[row]
        made = spot is not None and spot.site.kind == "creation" and target >= 0 and spot.file == first.file
        if made and any(start <= spot.span[0] and spot.span[1] <= end for start, end in spans):
            found.append(target)
    return tuple(dict.fromkeys(found))


def _take(shop: Workshop, proposal: Proposal, given: Handed, *, bridge: bool) -> None:
    """Note what a class is handed, and who supplies it from now on."""
    draft, number = shop.draft, given.owner
    fed = makes(shop, number) and knows(shop, proposal)
    if fed and definitions_of(shop, number):
        feed(shop, proposal, given.name)
    elif fed:
        _pass_in_entry(shop, proposal)
        shop.fed.add((number, given.name))
    draft.handed[number].append(given)
    if not bridge:
        draft.wired.add(number)
        replace_lookup.spare_container(shop, number)
        return
    draft.bridged.add(number)
    if makes(shop, number):
        keep_marked(shop, number, given)


def _pass_in_entry(shop: Workshop, proposal: Proposal) -> None:
    """What a class takes becomes an argument of its definition, where that names them one by one."""
    number, abstraction = proposal.decision.source, proposal.abstraction
    if abstraction is not None and names_arguments(shop, number):
        entered = further_argument(shop, number, abstraction)
        assert entered is not None  # or its container would not know of it
        shop.draft.extras[entered.file].append(entered.amendment)
        shop.draft.named[entered.file].update(entered.needs)


def _article(proposal: Proposal) -> str:
    return "a" if proposal.what.startswith("reader of") else "its"


def _which(shop: Workshop, proposal: Proposal) -> str:
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
        for each in shop.asked_by.on[target]
        if field
        and target >= 0
        and decision.kind == "hard-wired-creation"
        and each.places != decision.places
        and not set(each.places) >= set(decision.places)
    )
    return f" ({shop.name(target)})" if shared else f" for `{decision.places[0].field}`" if twins else ""


def _lifetime(shop: Workshop, proposal: Proposal) -> str:
    """How long what is handed in lives: a shared object as long as it does now."""
    if proposal.technique == replace_singleton.NAME:
        return "singleton, as the shared object does now"
    target = proposal.decision.target
    return lifetime_of(shop, target) if target >= 0 and proposal.wanted.makes is None else ""


def _decided_on(shop: Workshop, proposal: Proposal) -> str:
    """What a class no longer decides on, as people call it: of functions outside all classes their own names."""
    decision = proposal.decision
    if decision.target >= 0:
        return shop.name(decision.target)
    called = sorted({shop.codebase.bonds.text_of("callee", place.row) for place in decision.places})
    return "`, `".join(called) if decision.name in OUTSIDE_CLASSES else _short(decision.name)


def _short(name: str) -> str:
    return name.replace("\\", ".").replace("#", ".").rpartition(".")[2]


def _what(proposal: Proposal) -> str:
    return f"`{proposal.wanted.typed.text}`" if proposal.wanted.typed.text else f"`{proposal.wanted.name}`"


def _why(shop: Workshop, proposal: Proposal, target: str, gone: tuple[str, ...], bridge: bool) -> str:
    number = proposal.decision.source
    source = shop.name(number)
    parts = [f"`{source}` no longer decides on `{target}`."]
    if proposal.abstraction is not None and proposal.abstraction.number == CONCRETE:
        parts.append(f"It asks for `{target}` itself: {_why_concrete(shop, proposal)}.")
    if gone:
        parts.append(f"Its tests are rid of {', '.join(gone)}.")
    creators = shop.creators.get(number, ())
    others = sorted({shop.name(each.source) for each in creators if not each.root})
    stays = "The old constructor stays" if shop.draft.writer(number).overloads else "The parameter may be left out"
    if bridge and _is_bound(shop, proposal):
        parts.append(f"{stays}: only this class knows what it is made from.")
    elif bridge and others:
        parts.append(f"{stays} for {', '.join(others[:4])}{' and others' if len(others) > 4 else ''}.")
    elif bridge and not creators:
        parts.append(f"{stays}, for nobody in this tree creates it: a host may, without arguments.")
    elif bridge and number in shop.unseen:
        parts.append(f"{stays}: those who make this class can't name all that it takes.")
    elif bridge:
        parts.append(f"{stays} for its subclasses, or for what callers leave out already.")
    elif makes(shop, number):
        parts.append("Its container hands it in from here on.")
    else:
        parts.append("Only the composition root creates it, so its callers change in the same step.")
    return " ".join(parts)


def _why_concrete(shop: Workshop, proposal: Proposal) -> str:
    if shop.no_new:
        return "no new abstractions were asked for"
    if not shop.draft.writer(proposal.decision.source).typed:
        return "this file has no types"
    if shop.asked_by.get(proposal.decision) is None:
        return "it passes it on, or others see it"
    return "an interface would have to leave out what is asked of it"


def _hazards(shop: Workshop, proposal: Proposal, name: str, bridge: bool) -> tuple[str, ...]:
    number = proposal.decision.source
    hazards = []
    below = [shop.name(each) for each in shop.subclasses(number)]
    if below:
        hazards.append(f"subclasses {', '.join(below[:4])} keep calling the old constructor")
    if keeps_one_object(shop.codebase, number):
        hazards.append("its constructor is opened for tests: that there is one object is an agreement from here on")
    if bridge and makes(shop, number):
        token = shop.draft.tokens.get((number, name))
        called = f" by the name '{token.name}'" if token is not None else ""
        hazards.append(
            f"a container makes this class, and goes on as before: it hands in no {_what(proposal)} until it is told of "
            f"one{called}"
        )
    declared = shop.symbols.types[number]
    if _SECRET.search(" ".join((proposal.decision.name, proposal.wanted.name, proposal.wanted.supply.text, declared.name))):
        hazards.append("what secrets are made from becomes replaceable: whether it may be is a decision on security")
    if "static" in declared.modifiers.words and declared.kind != "class":
        hazards.append("the class is static")
    if shop.codebase.effects.of_type(number) and "thread" in shop.codebase.effects.of_type(number):
        hazards.append("threads are at work here: what is handed in may be shared between them")
    return tuple(hazards)


def _check(shop: Workshop, number: int) -> str:
    tests = sorted({shop.symbols.files[each.file].path for each in shop.creators.get(number, ()) if each.test})
    named = f" Run {', '.join(tests[:3])}." if tests else " No test creates this class yet: now one can."
    return "See that the code compiles and behaves as before." + named
