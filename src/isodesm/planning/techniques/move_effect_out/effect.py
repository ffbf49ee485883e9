"""move-effect-out: what a class calls outside the tree goes into a gateway of its own, and the decisions stay.

Each call becomes one of a method that does the same: nothing is cut but whom the class asks. Where a call can't become one,
and for what a boundary class keeps, what belongs together is a matter of meaning: the step names the places, and why.
"""

from __future__ import annotations

from collections.abc import Iterator

import msgspec

from isodesm.diagnosis.shared.findings import Finding
from isodesm.linking.symbols import simple_name
from isodesm.planning.analysis.decisions import place_of
from isodesm.planning.analysis.load_order import needed_at_once
from isodesm.planning.model.code import Adapter, Interface, Need
from isodesm.planning.model.decision import Decision
from isodesm.planning.model.dependency import DefaultExpression
from isodesm.planning.model.gateways import ExternalGateway
from isodesm.planning.model.proposal import Proposal, WantedDependency
from isodesm.planning.model.refusal import Reason, Refusal
from isodesm.planning.model.step import Edit, PlannedStep, TechniqueName, step_id
from isodesm.planning.state.context import PlanContext
from isodesm.planning.techniques.extract_interface.interface import imports_of, visibility_of
from isodesm.planning.techniques.move_effect_out.external_gateway import NOUNS, around
from isodesm.planning.techniques.new_files import new_files
from isodesm.planning.wording import code as remarks
from isodesm.planning.wording import steps as wording
from isodesm.planning.wording.reasons import sentence

NAME = TechniqueName.MOVE_EFFECT_OUT
MIXED = "mixed-responsibility"
KINDS = (MIXED, "oversized-boundary")


def mixed_decision(context: PlanContext, finding: Finding) -> Decision | None:
    """The calls by which a member reaches outside in the midst of decisions; None where all are handed in by now."""
    number, codebase = finding.source_number, context.codebase
    wanted = {tag.removeprefix("reaches-") for tag in finding.why}
    member = codebase.bonds.source_member[finding.row]
    rows = [
        use.row
        for use in codebase.effects.used.get(number, ())
        if use.effect in wanted and not use.sort and codebase.bonds.source_member[use.row] == member
    ]
    places = [place for row in dict.fromkeys(rows) if (place := place_of(codebase, finding, row))]
    taken = {(place.file, place.span) for place in context.taken_places(number)}
    left = tuple(place for place in places if (place.file, place.span) not in taken)
    return Decision(number, -1, MIXED, finding.member, left) if left else None


def propose(context: PlanContext, decision: Decision) -> Proposal | Refusal | None:
    """A gateway that the class is handed, and asks in the place of what it called."""
    if decision.target >= 0:
        return None
    found = around(context, decision)
    if isinstance(found, Refusal):
        return found
    gateway, wide = found
    plain = tuple(msgspec.structs.replace(place, field="") for place in wide.places)  # what is kept is no gateway
    wide = msgspec.structs.replace(wide, places=plain)
    language = context.sources.language(decision.source)
    heads = {each.span: each.head for each in gateway.calls}
    uses = {each.span: f"{{field}}{language.link}{each.passing.signature.name}" for each in gateway.calls}
    default = DefaultExpression(
        language.creation.format(gateway.adapter, ""), -1, needs=(Need(gateway.adapter, gateway.adapter_home),)
    )
    name = gateway.abstraction.name
    wanted = WantedDependency(
        gateway.abstraction.typed, NOUNS[gateway.effect], default, use=f"{{field}}{language.link}", uses=uses, heads=heads
    )
    return Proposal(NAME, wide, wanted, name, gateway=gateway)


# --- the gateway ---------------------------------------------------------------------------


def external_gateway_id(context: PlanContext, gateway: ExternalGateway) -> str:
    """The id of the step that writes a gateway."""
    return step_id(NAME, context.symbols.names[gateway.number], gateway.abstraction.name)


def plan_external_gateway(context: PlanContext, gateway: ExternalGateway) -> PlannedStep:
    """The step that writes the interface and the class behind it. Nothing that is there changes."""
    number, abstraction = gateway.number, gateway.abstraction
    calls = list(dict.fromkeys(call.passing.signature.name for call in gateway.calls))
    text = wording.outside_wrapped(context.name(number), abstraction.name, gateway.adapter, calls)
    named = {abstraction.path: abstraction.name, gateway.adapter_path: gateway.adapter}
    return new_files(
        context, number, external_gateway_id(context, gateway), NAME, text, named, lambda: _write(context, gateway)
    )


def _write(context: PlanContext, gateway: ExternalGateway) -> None:
    number, abstraction = gateway.number, gateway.abstraction
    language, file = context.sources.language(number), context.symbols.file_of[number]
    model = context.codebase.text(file).decode("utf-8", "replace")
    visibility = visibility_of(context, number, [each.passing.signature for each in gateway.calls])
    if visibility == "internal":
        context.state = context.state.with_internal_names(abstraction.name, gateway.adapter)
    members = tuple(dict.fromkeys(each.passing for each in gateway.calls))
    needs = {need for each in gateway.calls for need in each.result_needs}
    own = {*needs, *(need for each in gateway.calls for need in each.needs), Need(abstraction.name, abstraction.home)}
    at_once, circular = needed_at_once(context.codebase, number, needs)
    interface = Interface(
        abstraction.name,
        context.name(number),
        abstraction.home,
        "",
        tuple(each.signature for each in members),
        imports_of(context, number, abstraction.home, abstraction.path, at_once),
        model,
        visibility,
        purpose=remarks.outside_of(context.name(number)),
        for_checkers=imports_of(context, number, abstraction.home, abstraction.path, circular),
    )
    adapter = Adapter(
        gateway.adapter,
        abstraction.name,
        remarks.OUTSIDE,
        gateway.adapter_home,
        members,
        imports_of(context, number, gateway.adapter_home, gateway.adapter_path, own),
        model,
        visibility,
    )
    context.add_file(abstraction.path, language.interface(interface), file)
    context.add_file(gateway.adapter_path, language.adapter(adapter), file)
    context.state = context.state.with_beside(number, gateway.effect)


# --- by hand -------------------------------------------------------------------------------


def plan_move(context: PlanContext, finding: Finding, refusal: Refusal | None) -> PlannedStep:
    """The step for a member that holds both, or for a boundary class that keeps data and logic, where a person has to cut."""
    name, mixed = simple_name(finding.source), finding.kind == MIXED
    where = f"{name}.{finding.member}" if finding.member and not finding.member.startswith("<") else name
    its_job = refusal is not None and refusal.reason is Reason.ITS_JOB
    what = wording.DECISIONS if its_job else wording.EFFECT if mixed else wording.DATA_AND_LOGIC
    places = [Edit(finding.file, finding.line, wording.to_do(where, what), by_hand=True)]
    places += [Edit(each.file, each.line, each.message, by_hand=True) for each in finding.related]
    title = name + (f".{finding.member}" if mixed and finding.member else "")
    found = f"{finding.message} {finding.reason}".strip()
    return PlannedStep(
        technique=NAME,
        id=step_id(NAME, finding.source, finding.member),
        about=finding.source_number,
        classes=(finding.source_number,),
        text=wording.moved_by_hand(what, title, found, sentence(refusal) if refusal else "", mixed=mixed),
        edits=tuple(places),
    )


def mixed_findings(findings: tuple[Finding, ...] | list[Finding], focus: frozenset[int]) -> Iterator[Finding]:
    """The findings of members and classes with two jobs that a plan is about."""
    return (
        each for each in findings if each.kind in KINDS and each.level != "note" and (not focus or each.source_number in focus)
    )
