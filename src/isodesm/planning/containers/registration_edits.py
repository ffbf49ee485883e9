"""What a container makes of a step: whether it can hand in what a class shall take, and how it is told of that.

A container that makes a class calls one of its constructors and looks for what serves each parameter. So before a class of
a container takes more, the container has to know what that is; where it can't, it must go on calling the old constructor.
"""

from __future__ import annotations

import re
from collections import Counter
from typing import TYPE_CHECKING, NamedTuple

from isodesm.inference.resolution import Service
from isodesm.linking.symbols import simple_name
from isodesm.planning.analysis.names_in_code import need_of_type, with_names
from isodesm.planning.containers.creatable import can_be_made
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.code import Need
from isodesm.planning.model.refusal import Reason, Refusal
from isodesm.planning.state.lifetimes import RANK, lifetime_of
from isodesm.planning.text.insertions import FIELDS

if TYPE_CHECKING:
    from isodesm.planning.model.abstraction import Abstraction
    from isodesm.planning.model.dependency import Dependency
    from isodesm.planning.model.proposal import Proposal
from isodesm.planning.containers import definition_files
from isodesm.planning.containers.array_entries import further_argument, in_array, names_arguments
from isodesm.planning.containers.attribute_entries import attribute_for, is_made_by_attribute
from isodesm.planning.containers.provider_lists import in_list
from isodesm.planning.containers.spelled_out import spelled_out
from isodesm.planning.containers.statements import statement_of
from isodesm.planning.containers.tokens import has_tokens, rules_of, token_for
from isodesm.planning.model.abstraction import CONCRETE
from isodesm.planning.state.context import PlanContext


class RegistrationEdit(NamedTuple):
    """How a container is told of a `target`: what comes into a file, and what that names."""

    target: int
    lifetime: str
    file: int
    amendment: Amendment
    needs: tuple[Need, ...]
    annotation: tuple[int, Amendment, Need] | None = None
    """What comes into a further file, the one of the class itself, and what that names."""
    id: str = ""
    """The name that it has in the container from then on, where others have to know it."""
    like: bool = True
    """Whether another registration shows how it is written."""

    def write(self, context: PlanContext) -> None:
        """Make the changes."""
        if self.id:
            context.state = context.state.with_service_id(self.target, self.id)
        context.edit(self.file, self.amendment, needs=self.needs)
        if self.annotation is not None:
            file, amendment, need = self.annotation
            context.edit(file, amendment, needs=(need,))

    @property
    def files(self) -> set[int]:
        """The files that change."""
        return {self.file, *([self.annotation[0]] if self.annotation is not None else [])}


def makes(context: PlanContext, number: int) -> bool:
    """Whether a container makes objects of a class by itself, so that no code names the constructor."""
    wiring = context.codebase.wiring
    services = wiring.by_implementation.get(number, ())
    if number in wiring.autowired:
        return True
    own = any(not each.registration.factory and each.registration.how != "method" for each in services) and not any(
        each.root for each in context.sources.creators.get(number, ())
    )
    if number in wiring.hosted and context.sources.language(number).hosts_call_one_constructor and wiring.services:
        return True  # the host asks the container for what its constructor takes
    return own or (number in wiring.managed and not services)


def container_refusal(context: PlanContext, proposal: Proposal) -> Refusal | None:
    """Why a class that a container makes can't be handed something; None where it can, or where no container makes it."""
    number = proposal.decision.source
    if not makes(context, number) or knows(context, proposal):
        return None
    if context.sources.language(number).containers_go_by_classes and context.symbols.types[number].modifiers.annotations:
        return None if has_tokens(context, number) else Refusal(Reason.CONTAINER_NEEDS_TOKEN)
    constructor = context.sources.constructor(number)
    written = definition_files.definitions_of(context, number)
    if written and not any(each.autowired for each in written):
        return None  # it is the number of arguments that says which constructor is meant
    language = context.sources.language(number)
    chooses = language.containers_annotate_constructors and not constructor_annotation(context, number)
    refuses = language.hosts_call_one_constructor and number in context.codebase.wiring.hosted
    own = constructor is not None and bool(constructor.parameters)
    planned = bool(context.state.dependencies_of(number)) and number not in context.state.legacy
    return Refusal(Reason.CONTAINER_SEES_TWO) if (chooses or refuses) and (own or planned) else None


def knows(context: PlanContext, proposal: Proposal) -> bool:
    """Whether the container has what a proposal would hand in, or can be told of it by the plan."""
    target = proposal.decision.target
    if proposal.abstraction is None or target < 0 or proposal.wanted.makes is not None:
        return False
    if definition_files.definitions_of(context, proposal.decision.source):
        return definition_files.can_pass_argument(context, proposal)
    source = proposal.decision.source
    if is_made_by_attribute(context, source):
        return target in context.state.service_ids or attribute_for(context, proposal, lifetime_of(context, target)) is not None
    if names_arguments(context, source) and further_argument(context, source, proposal.abstraction) is None:
        return False
    return is_served(context, proposal.abstraction, target, source) or registration_for(context, proposal) is not None


def is_served(context: PlanContext, abstraction: Abstraction, target: int, source: int) -> bool:
    """Whether a registration serves an abstraction already for a class that asks for it; what an annotation registers serves
    all that it implements, if it is one of the container that makes the class."""
    wiring = context.codebase.wiring
    if is_made_by_attribute(context, source):
        return target in context.state.service_ids
    if target in context.state.registered or (abstraction.number >= 0 and wiring.by_abstraction.get(abstraction.number)):
        return True
    own = rules_of(context, source) if context.sources.language(source).containers_go_by_classes else None
    return any(
        each.registration.how in ("annotation", "metadata")
        and not each.registration.factory
        and (own is None or wiring.rules_of(each) == own[0])
        for each in wiring.by_implementation.get(target, ())
    )


def constructor_annotation(context: PlanContext, number: int) -> str:
    """The annotation that tells a container which constructor to call, as this class or most others write it; '' if none
    does."""
    injections, used = (
        context.codebase.wiring.injections,
        context.sources.constructor_marks.get(context.sources.language(number).name, Counter()),
    )
    own = context.sources.constructor(number)
    mine = (
        [
            annotation.name
            for annotation in own.modifiers.annotations
            if simple_name(annotation.name) in injections.markers(number)
        ]
        if own is not None
        else []
    )
    return (mine or [name for name, _ in sorted(used.items(), key=lambda each: (-each[1], each[0]))] or [""])[0]


def keep_annotation(context: PlanContext, number: int, given: Dependency) -> None:
    """Let a container go on as before: it may leave out what it is not told of, and where it has to be shown which constructor
    to call, that is the old one."""
    if context.sources.language(number).containers_go_by_classes and (number, given.name) not in context.state.injected:
        if (token := token_for(context, number, given.name, given.typed.text)) is not None:
            context.state = context.state.with_token(number, given.name, token)
        return
    constructor, annotation = context.sources.constructor(number), constructor_annotation(context, number)
    if (
        not context.sources.language(number).containers_annotate_constructors
        or constructor is None
        or not constructor.parameters
        or not annotation
        or number in context.state.old_annotations
    ):
        return
    context.state = context.state.with_old_annotation(number, annotation)
    context.edit(
        context.symbols.file_of[number],
        needs=(_home_of_annotation(context, annotation, context.sources.language(number).name),),
    )


def _home_of_annotation(context: PlanContext, name: str, language: str) -> Need:
    """Where an annotation comes from, as the first file that imports it has it."""
    for facts in context.symbols.files:
        for each in facts.imports if facts.language == language else ():
            if each.alias == name:
                return Need(name, each.name if each.member else each.name[: -len(name) - 1])
    return Need(name, "")


# --- telling -------------------------------------------------------------------------------


def registration_for(context: PlanContext, proposal: Proposal) -> RegistrationEdit | None:
    """How the container that makes the source of a proposal is told of what that hands in: written as it is told of others,
    else in the words of its family; None where neither is known."""
    abstraction, target, source = proposal.abstraction, proposal.decision.target, proposal.decision.source
    assert abstraction is not None
    lifetime = lifetime_of(context, target)
    if (attribute := attribute_for(context, proposal, lifetime)) is not None:
        return RegistrationEdit(target, lifetime, *attribute[1], like=False, id=attribute[0])
    if can_be_made(context, target) and (like := _like_others(context, abstraction, target, source, lifetime)) is not None:
        return like
    spelled = spelled_out(context, proposal, lifetime)
    return RegistrationEdit(target, lifetime, *spelled, like=False) if spelled is not None else None


def _like_others(
    context: PlanContext, abstraction: Abstraction, target: int, source: int, lifetime: str
) -> RegistrationEdit | None:
    """The same by a registration that can be followed word for word."""
    if (
        context.sources.language(target).container_arrays
        and (entered := in_array(context, abstraction, target, source)) is not None
    ):
        return RegistrationEdit(target, lifetime, *entered) if lifetime == "singleton" else None
    services = [each for each in context.codebase.wiring.services if _is_model(context, each, target)]
    if context.sources.language(target).containers_go_by_classes:
        return _by_class(context, abstraction, target, lifetime, source, services)
    calls = [
        each
        for each in services
        if each.registration.how == "call" and each.abstraction >= 0 and each.abstraction != each.implementation
    ]
    if calls:
        return _by_call(
            context,
            abstraction,
            target,
            lifetime,
            min(calls, key=lambda each: (each.lifetime != lifetime, RANK.get(each.lifetime, -1))),
        )
    annotated = [each for each in services if each.registration.how == "annotation"]
    return _by_annotation(context, target, lifetime, annotated) if annotated else None


def _by_class(
    context: PlanContext, abstraction: Abstraction, target: int, lifetime: str, source: int, services: list[Service]
) -> RegistrationEdit | None:
    """The same for containers that go by classes; only of what all may share, for that is what they make of it."""
    if abstraction.number != CONCRETE or lifetime != "singleton":
        return None
    annotation = _allowing(context, source, target)
    if (listed := in_list(context, source, target, services)) is not None:
        return RegistrationEdit(target, lifetime, *listed, (need_of_type(context.codebase, target),), annotation)
    wiring = context.codebase.wiring
    own = [each for each in wiring.by_implementation.get(source, ()) if not wiring.is_of_test(each)]
    files = {each.registration.file for each in own}
    if len(files) > 1:  # each is a container of its own, which would have to be told as well
        return None
    bound = [
        each
        for each in services
        if each.registration.how == "call"
        and each.abstraction == each.implementation
        and each.registration.file in files
        and each.lifetime == lifetime
    ]
    if bound:
        told = _by_call(context, abstraction, target, lifetime, bound[0])
        return told._replace(annotation=annotation) if told is not None else None
    annotated = [each for each in services if each.registration.how == "annotation" and each.lifetime == lifetime]
    return _by_annotation(context, target, lifetime, annotated) if annotated else None


def _is_plain(context: PlanContext, service: Service) -> bool:
    """Whether a registration in code says no more than what serves what."""
    given = service.registration
    known = service.implementation >= 0 and given.file in context.codebase.wiring.file_numbers
    return known and not given.factory and not given.arguments and not given.id


def _is_model(context: PlanContext, service: Service, target: int) -> bool:
    return (
        _is_plain(context, service)
        and context.sources.language(service.implementation) == context.sources.language(target)
        and context.codebase.roles.name(service.implementation) not in ("controller", "test")
    )


def _by_call(
    context: PlanContext, abstraction: Abstraction, target: int, lifetime: str, model: Service
) -> RegistrationEdit | None:
    """The statement of another registration once more, with the names of this one."""
    found = statement_of(context.sources, model)
    if found is None:
        return None
    file, syntax, statement = found
    text = _renamed(context, syntax.of(statement), model, abstraction, target)
    if not text:
        return None
    at = statement.end_byte
    said = f"registers `{context.name(target)}` as `{abstraction.name}`, as the line above does"
    amendment = Amendment(at, at, FIELDS, f"{syntax.line_end}{syntax.indent_at(statement.start_byte)}{text}", said)
    needs = (Need(abstraction.name.partition(".")[0], abstraction.home), need_of_type(context.codebase, target))
    return RegistrationEdit(target, model.lifetime or lifetime, file, amendment, needs)


def new_registration_for(context: PlanContext, abstraction: Abstraction, target: int) -> RegistrationEdit | None:
    """How the one call that registers a class as itself registers it under an abstraction, written as others are that live as
    long; None where there is no such call, or nothing shows how."""
    wiring, table = context.codebase.wiring, context.codebase.bonds
    own = wiring.by_implementation.get(target, ())
    if len(own) != 1 or own[0].registration.how != "call" or not _is_plain(context, own[0]) or own[0].abstraction != target:
        return None
    if any(table.target[row] == target for row in table.rows_of_kind("lookup")):
        return None
    models = [
        each
        for each in wiring.services
        if _is_model(context, each, target)
        and each.registration.how == "call"
        and -1 < each.abstraction != each.implementation
        and (each.lifetime, each.registration.family) == (own[0].lifetime, own[0].registration.family)
    ]
    found = statement_of(context.sources, own[0])
    shown = statement_of(context.sources, models[0]) if models else None
    if found is None or shown is None:
        return None
    text = _renamed(context, shown[1].of(shown[2]), models[0], abstraction, target)
    file, _, statement = found
    said = f"`{context.name(target)}` is registered as `{abstraction.name}`"
    amendment = Amendment(statement.start_byte, statement.end_byte, FIELDS, text, said)
    needs = (Need(abstraction.name.partition(".")[0], abstraction.home),)
    return RegistrationEdit(target, own[0].lifetime, file, amendment, needs) if text else None


def _renamed(context: PlanContext, text: str, model: Service, abstraction: Abstraction, target: int) -> str:
    """The statement of another registration with the names of this one; '' where it does not name both."""
    names = {
        context.name(model.abstraction): abstraction.name,
        context.name(model.implementation): context.symbols.types[target].path,
    }
    return with_names(text, names)


def _by_annotation(context: PlanContext, target: int, lifetime: str, annotated: list[Service]) -> RegistrationEdit | None:
    """The annotation that most classes bear by which this container finds its own."""
    rules = context.symbols.catalogues.registering(context.sources.language(target).name).annotations
    used: Counter[tuple[str, str]] = Counter()
    for service in annotated:
        number = service.implementation
        itself = context.codebase.wiring.rules_of(service).provides_itself
        for annotation in context.symbols.types[number].modifiers.annotations:
            name, given = simple_name(annotation.name), " ".join(annotation.arguments.split())
            said = re.fullmatch(r"\{ ?(\w+): ?(?:'\w+'|\"\w+\") ?\}", given)
            if name in rules and (said[1] in itself if said else not given):
                used[name, given] += 1
    if not used:
        return None
    name, given = min(used, key=lambda each: (-used[each], each))
    file, amendment, need = _annotating(context, target, name, given)
    return RegistrationEdit(target, rules[name] or lifetime, file, amendment, (need,))


def _allowing(context: PlanContext, source: int, target: int) -> tuple[int, Amendment, Need] | None:
    """The mark that lets a container make a class, as the class has it that it is handed to; None where neither needs one, or
    the class has marks of its own."""
    if context.symbols.types[target].modifiers.annotations:
        return None
    words = context.codebase.wiring.injections.words(source).allowed_by
    own = (simple_name(each.name) for each in context.symbols.types[source].modifiers.annotations if not each.arguments)
    known = next((each for each in own if each in words), "")
    used = Counter(
        simple_name(annotation.name)
        for each in context.codebase.wiring.services
        if each.implementation >= 0 and not known
        for annotation in context.symbols.types[each.implementation].modifiers.annotations
        if simple_name(annotation.name) in words and not annotation.arguments
    )
    name = known or min(used, key=lambda each: (-used[each], each), default="")
    return _annotating(context, target, name, "") if name else None


def _annotating(context: PlanContext, target: int, name: str, given: str) -> tuple[int, Amendment, Need]:
    """A mark in front of a class, with the file that it stands in and what that names."""
    need = _home_of_annotation(context, name, context.sources.language(target).name)
    file = context.symbols.file_of[target]
    syntax = context.sources.syntax(file)
    node = syntax.type_node(context.symbols.types[target])
    opening = context.sources.language(target).annotation.format(name, given)
    at = (node.parent if node.parent.type == "export_statement" else node).start_byte
    annotation = Amendment(
        at,
        at,
        FIELDS,
        f"{opening}{syntax.line_end}{syntax.indent_at(at)}",
        f"`{context.name(target)}` is made by the container from here on",
    )
    return file, annotation, need
