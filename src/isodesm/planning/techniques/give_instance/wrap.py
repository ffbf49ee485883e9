"""give-instance: an object in the place of a static class: an interface, and a class that passes each call on to it.

The static class stays as it is, for all who call it so far: nothing of it moves.
"""

from __future__ import annotations

import re

import msgspec

from isodesm.facts.records import Member
from isodesm.planning.analysis.homes import module_home
from isodesm.planning.analysis.load_order import needed_at_once
from isodesm.planning.analysis.names_in_code import need_of_type
from isodesm.planning.analysis.signatures import signature_of
from isodesm.planning.language.base import Language
from isodesm.planning.model.code import Adapter, AdapterMember, Interface, Need, Signature
from isodesm.planning.model.gateways import StaticGateway
from isodesm.planning.model.step import PlannedStep, TechniqueName, step_id
from isodesm.planning.state.context import PlanContext
from isodesm.planning.techniques.extract_interface.interface import imports_of, needs_of_members, qualified, visibility_of
from isodesm.planning.techniques.give_instance.static_gateway import STATES
from isodesm.planning.techniques.new_files import new_files
from isodesm.planning.wording import code as remarks
from isodesm.planning.wording import steps as wording

NAME = TechniqueName.GIVE_INSTANCE
_BY_REFERENCE = re.compile(r"^(?:\[[^\]]*\]\s*)*(ref|out|in)\s")


def gateway_id(context: PlanContext, target: int) -> str:
    """The id of the step that puts an object in the place of a static class."""
    return step_id(NAME, context.symbols.names[target])


def plan_gateway(context: PlanContext, target: int, gateway: StaticGateway) -> PlannedStep:
    """The step that writes the interface and the class that passes on. Nothing that is there changes."""
    name, abstraction = context.name(target), gateway.abstraction
    members = list(dict.fromkeys(member.name for _, member in abstraction.members))
    text = wording.static_class_wrapped(name, abstraction.name, gateway.adapter, abstraction.users, members)
    named = {abstraction.path: abstraction.name, gateway.adapter_path: gateway.adapter}
    step = new_files(context, target, gateway_id(context, target), NAME, text, named, lambda: _write(context, target, gateway))
    return msgspec.structs.replace(step, added=(f"{gateway.adapter} → {name}",))


def _write(context: PlanContext, target: int, gateway: StaticGateway) -> None:
    abstraction = gateway.abstraction
    language, file = context.sources.language(target), context.symbols.file_of[target]
    called = [_passing(context, target, number, member, gateway) for number, member in abstraction.members]
    signatures = [each.signature for each in called]
    needs = needs_of_members(context, abstraction, signatures)
    model = context.codebase.text(file).decode("utf-8", "replace")
    hidden = visibility_of(context, target, signatures) == "internal" or "public" not in _words(context, target)
    visibility = "internal" if hidden and language.types_hidden_within == "assembly" else "public"
    if visibility == "internal":
        context.state = context.state.with_internal_names(abstraction.name, gateway.adapter)
    at_once, circular = needed_at_once(context.codebase, target, needs)
    interface = Interface(
        abstraction.name,
        context.name(target),
        abstraction.home,
        "",
        tuple(signatures),
        imports_of(context, target, abstraction.home, abstraction.path, at_once),
        model,
        visibility,
        remarks.purpose_of(context.name(target)),
        imports_of(context, target, abstraction.home, abstraction.path, circular),
    )
    home = adapter_home(context, target, gateway)
    own = {*needs, need_of_type(context.codebase, target), Need(abstraction.name, abstraction.home)}
    adapter = Adapter(
        gateway.adapter,
        abstraction.name,
        context.name(target),
        home,
        tuple(called),
        imports_of(context, target, home, gateway.adapter_path, own),
        model,
        visibility,
    )
    context.add_file(abstraction.path, language.interface(interface), file)
    context.add_file(gateway.adapter_path, language.adapter(adapter), file)
    context.state = context.state.with_adapter(target, gateway)


def _words(context: PlanContext, target: int) -> tuple[str, ...]:
    return context.symbols.types[target].modifiers.words


def adapter_home(context: PlanContext, target: int, gateway: StaticGateway) -> str:
    """Where the class that passes on is imported from."""
    if gateway.existing >= 0:
        return need_of_type(context.codebase, gateway.existing).home
    home = gateway.abstraction.home
    if context.symbols.dialect(target).style != "modules":
        return home
    return module_home(
        context.sources, target, home if home.startswith("/") else home.rpartition(".")[0] + "._", gateway.adapter_path
    )


def _passing(context: PlanContext, target: int, number: int, member: Member, gateway: StaticGateway) -> AdapterMember:
    """A member of the adapter, by that of the static class."""
    language, name = context.sources.language(target), member.name.lstrip("$")
    owner = context.symbols.types[target].path
    if member.kind in STATES:
        text = f"{owner}{language.static_link}{language.sign}{name}"
        if not language.interfaces_have_state:
            return AdapterMember(Signature(name, "", member.type), text)
        accessors = "{ get; set; }" if name in gateway.written else "{ get; }"
        found = qualified(context, number, Signature(name, accessors, member.type, kind="property"))
        return AdapterMember(found, text)
    found = qualified(context, number, signature_of(context.sources, number, member))
    found = found._replace(parameters=re.sub(r"^this\s+", "", found.parameters))
    if context.symbols.dialect(target).self_types:
        found = found._replace(parameters=_own_named(found.parameters, owner), result=_own_named(found.result, owner))
    arguments = ", ".join(_argument(context, number, member, language))
    generics = found.generics if language.reference_parameters else ""
    return AdapterMember(found, f"{owner}{language.static_link}{name}{generics}({arguments})")


def _own_named(text: str, owner: str) -> str:
    """What a class calls `self`, as others name it."""
    return re.sub(r"\bself\b", owner, text)


def _argument(context: PlanContext, number: int, member: Member, language: Language) -> list[str]:
    """What a call passes on of each parameter."""
    syntax = context.sources.syntax(context.symbols.file_of[context.symbols.part_of_member(number, member)])
    texts = [syntax.of(each) for each in syntax.parameters(member)[1]]
    given = []
    for index, each in enumerate(member.parameters):
        text, name = texts[index] if index < len(texts) else "", each.name
        word = _BY_REFERENCE.match(" ".join(text.split())) if language.reference_parameters else None
        spread = language.spread if each.variadic else ""
        sign = language.sign if not name.startswith("$") else ""
        given.append(f"{word[1] + ' ' if word else ''}{spread}{sign}{name}")
    return given
