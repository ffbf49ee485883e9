"""extract-interface: an abstraction for a class that others decide on."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

from isodesm.planning.analysis.interface_names import Habit
from isodesm.planning.analysis.load_order import needed_at_once
from isodesm.planning.analysis.names_in_code import as_others_name, home_of
from isodesm.planning.analysis.signatures import needs_of, signature_of, visible
from isodesm.planning.model.abstraction import Abstraction
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.code import Interface, Need, Signature
from isodesm.planning.model.step import PlannedStep, TechniqueName, step_id
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.imports import import_lines
from isodesm.planning.state.internal_types import is_internal
from isodesm.planning.state.recorder import record
from isodesm.planning.techniques.new_files import said_by_names
from isodesm.planning.text.insertions import FIELDS, gap
from isodesm.planning.text.syntax import Syntax
from isodesm.planning.wording import code as remarks
from isodesm.planning.wording import steps as wording

NAME = TechniqueName.EXTRACT_INTERFACE


def interface_id(context: PlanContext, target: int, abstraction: Abstraction) -> str:
    """The id of the step that writes an abstraction, or gives one the member that it lacks."""
    return step_id(
        NAME, context.symbols.names[target], *(member.name for _, member in abstraction.members if abstraction.lacks)
    )


def plan_interface(context: PlanContext, target: int, consumer: int, abstraction: Abstraction) -> PlannedStep:
    """The step that writes the abstraction and lets the class implement it. Nothing else changes yet."""
    if abstraction.lacks:
        return plan_extension(context, target, abstraction)
    members = [member.name for _, member in abstraction.members]
    changes = record(context, _homes(context, target, abstraction), lambda: _write(context, target, abstraction))
    remarks = [_placement(context, target, consumer, abstraction), _naming(context.sources.habit(target), abstraction)]
    text = wording.interface_extracted(
        abstraction.name,
        context.name(target),
        members,
        abstraction.users,
        [*remarks, *_parts(context, target, abstraction)],
        _hazards(context, target),
    )
    return PlannedStep(
        technique=NAME,
        id=interface_id(context, target, abstraction),
        about=target,
        classes=(target,),
        text=text,
        edits=tuple(said_by_names(changes.edits, {abstraction.path: abstraction.name})),
        code=tuple(changes.code),
        added=(f"{context.name(target)} → {abstraction.name}",),
    )


def _homes(context: PlanContext, target: int, abstraction: Abstraction) -> set[int]:
    """The files that declare a class and what its abstraction asks of it."""
    parts = {context.symbols.part_of_member(target, member) for number, member in abstraction.members if number == target}
    return {context.symbols.file_of[each] for each in (target, *parts)}


def _write(context: PlanContext, target: int, abstraction: Abstraction) -> None:
    declared = context.symbols.types[target]
    language, file = context.sources.language(target), context.symbols.file_of[target]
    signatures = [
        qualified(context, number, signature_of(context.sources, number, member)) for number, member in abstraction.members
    ]
    needs = needs_of_members(context, abstraction, signatures)
    needs, circular = needed_at_once(context.codebase, target, needs)
    imports = imports_of(context, target, abstraction.home, abstraction.path, needs)
    model = context.codebase.text(file).decode("utf-8", "replace")
    visibility = visibility_of(context, target, signatures)
    if visibility == "internal":
        context.state = context.state.with_internal_names(abstraction.name)
    wanted = Interface(
        abstraction.name,
        declared.name,
        abstraction.home,
        declared.generics,
        tuple(signatures),
        imports,
        model,
        visibility,
        remarks.purpose_of(declared.name),
        imports_of(context, target, abstraction.home, abstraction.path, circular),
    )
    context.add_file(abstraction.path, language.interface(wanted), file)
    _implement(context, target, abstraction)
    context.state = context.state.with_interface(target, abstraction)


def visibility_of(context: PlanContext, number: int, signatures: Sequence[Signature]) -> str:
    """How far a new type beside another may be known, by the types that its members name."""
    said = " ".join(f"{each.result} {each.parameters} {each.constraints}" for each in signatures)
    hidden = is_internal(context.sources, context.state, number, set(re.findall(r"[A-Z]\w*", said)))
    return "internal" if hidden else "public"


def qualified(context: PlanContext, number: int, signature: Signature) -> Signature:
    """A signature with the types that are declared inside its class named as others have to."""
    if context.symbols.dialect(number).style == "modules":
        return signature
    parameters, result = (as_others_name(context.codebase, number, each) for each in (signature.parameters, signature.result))
    return signature._replace(parameters=parameters, result=result)


def needs_of_members(context: PlanContext, abstraction: Abstraction, signatures: list[Signature]) -> set[Need]:
    """What a file must import that has the members of an abstraction, each as the file of its class knows it."""
    needs: set[Need] = set()
    for (number, member), signature in zip(abstraction.members, signatures, strict=True):
        needs |= set(needs_of(context.codebase, context.symbols.part_of_member(number, member), [signature]))
    return needs


def plan_extension(context: PlanContext, target: int, abstraction: Abstraction) -> PlannedStep:
    """The step that gives an abstraction of the codebase the one member that it lacks."""
    base = abstraction.number
    files = [context.symbols.file_of[base], *_homes(context, target, abstraction)]
    changes = record(context, files, lambda: _extend(context, target, abstraction))
    return PlannedStep(
        technique=NAME,
        id=interface_id(context, target, abstraction),
        about=target,
        classes=(target, base),
        text=wording.interface_extended(abstraction.members[0][1].name, abstraction.name, context.name(target)),
        edits=tuple(changes.edits),
        code=tuple(changes.code),
        layer_of=base,
    )


def _extend(context: PlanContext, target: int, abstraction: Abstraction) -> None:
    base = abstraction.number
    file, declared = context.symbols.file_of[base], context.symbols.types[base]
    syntax, language = context.sources.syntax(file), context.sources.language(base)
    number, member = abstraction.members[0]
    signature = signature_of(context.sources, number, member)
    others = [each for each in declared.members if each.whole != (0, 0)]
    if any(each.name == "abstractmethod" for other in others for each in other.modifiers.annotations):
        signature = signature._replace(abstract=True)
    body = syntax.type_node(declared).child_by_field_name("body")
    at = max((each.whole[1] for each in others), default=body.start_byte + 1)
    at += len(syntax.text[at:]) - len(syntax.text[at:].lstrip(b";"))
    margin = (
        syntax.indent_at(others[-1].whole[0])
        if others and syntax.indent_at(others[-1].whole[0])
        else syntax.indent_at(body.start_byte) + "    "
    )
    lines = syntax.line_end.join(language.signature(signature, margin))
    tail = gap(syntax, at) if syntax.text[at:].partition(b"\n")[0].strip() else ""
    context.edit(
        file, Amendment(at, at, FIELDS, f"{syntax.line_end * 2}{lines}{tail}", f"`{abstraction.name}` has `{member.name}`")
    )
    context.edit(file, needs=needs_of(context.codebase, number, [signature]))
    _offer(context, target, abstraction)
    context.state = context.state.with_interface(target, abstraction)


def imports_of(context: PlanContext, target: int, home: str, path: str, needs: set[Need]) -> tuple[str, ...]:
    """The import lines, or for some languages the names, that a new file beside a target begins with."""
    language = context.sources.language(target)
    implicit = context.symbols.catalogues.of(language.name).implicit.package
    wanted = sorted({need for need in needs if need.home and need.home not in (home, implicit)})
    separator = context.symbols.dialect(target).separator
    renamed = {each.name: f"{each.home}{separator}{each.member}".removeprefix(separator) for each in needs if each.member}
    if language.imports_by == "namespace":
        spaces = {need.home for need in wanted if not need.member and not f"{home}.".startswith(f"{need.home}.")}
        return tuple(sorted((*spaces, *(f"{name} = {meant}" for name, meant in renamed.items()))))
    if language.imports_by == "name":
        own = {need.name for need in needs if not need.home and not need.member}
        bare = own if language.names_global_types and home else ()
        plain = (f"{need.home}{separator}{need.name}" for need in wanted if not need.member)
        return tuple(sorted([*plain, *bare, *(f"{meant} as {name}" for name, meant in renamed.items())]))
    lines = import_lines(context.draft, context.symbols.file_of[target], wanted, path)
    whole_first = sorted(lines, key=lambda line: not line.startswith("import "))
    return tuple(whole_first if language.whole_lines_first else lines)


def _implement(context: PlanContext, target: int, abstraction: Abstraction) -> None:
    """The class names its abstraction, and offers the members as it asks."""
    file = context.symbols.file_of[target]
    syntax, language = context.sources.syntax(file), context.sources.language(target)
    node = syntax.type_node(context.symbols.types[target])
    listed = syntax.bases(node)
    said = f"`{context.name(target)}` implements `{abstraction.name}`"
    if listed is not None and listed[0].named_children:
        at, text = _among_bases(syntax, listed[0], abstraction.name, bracketed=language.implements == "(")
        context.edit(file, Amendment(at, at, FIELDS, text, said))
    elif listed is not None:
        context.edit(file, Amendment(listed[0].start_byte + 1, listed[0].end_byte - 1, FIELDS, abstraction.name, said))
    else:
        context.edit(file, _first_base(context, target, node, abstraction, said))
    _offer(context, target, abstraction)
    need = Need(abstraction.name, abstraction.home)
    if abstraction.home != home_of(context.codebase, target):
        context.edit(file, needs=(need,))


def _among_bases(syntax: Syntax, listed: Any, name: str, *, bracketed: bool) -> tuple[int, str]:
    """Where a further base goes, and what is written there: behind the others, but before what all classes have as their last
    base, and before what is said by a name."""
    last = (each for each in listed.named_children if each.type == "keyword_argument" or syntax.of(each) == "object")
    behind = next(last, None) if bracketed else None
    if behind is not None:
        return behind.start_byte, f"{name}, "
    return listed.end_byte - bracketed, f", {name}"


def _offer(context: PlanContext, target: int, abstraction: Abstraction) -> None:
    """The class offers the members of its abstraction as that asks."""
    language = context.sources.language(target)
    for number, member in abstraction.members:
        if number != target or not language.public_members:
            continue
        file = context.symbols.file_of[context.symbols.part_of_member(target, member)]
        syntax = context.sources.syntax(file)
        at = member.whole[0]
        inner = syntax.indent_at(at)
        alone = not syntax.text[syntax.text.rfind(b"\n", 0, at) + 1 : at].strip()
        annotation = (
            (language.override(inner) if alone else " ".join(language.override("").split("\n")))
            if not any(each.name == "Override" for each in member.modifiers.annotations)
            else ""
        )
        lead = "" if visible(context.sources, number, member) else "public "
        words = [word for word in ("protected", "internal") if word in member.modifiers.words]
        if words:
            where = syntax.text.find(words[0].encode(), at)
            context.edit(file, Amendment(where, where + len(words[0]), FIELDS, "public", f"`{member.name}` is public"))
            lead = ""
        if annotation or lead:
            context.edit(
                file,
                Amendment(
                    at,
                    at,
                    FIELDS,
                    annotation + lead,
                    f"`{member.name}` is public" if lead else f"`{member.name}` implements that of `{abstraction.name}`",
                ),
            )


def _first_base(context: PlanContext, target: int, node: object, abstraction: Abstraction, said: str) -> Amendment:
    """The first interface of a class: behind its name, type parameters and base class."""
    language = context.sources.language(target)
    body = node.child_by_field_name("body")  # type: ignore[attr-defined]
    heads = [child for child in node.children if child.end_byte <= body.start_byte]  # type: ignore[attr-defined]
    kinds = (
        "identifier",
        "type_identifier",
        "name",
        "type_parameters",
        "type_parameter_list",
        "superclass",
        "base_clause",
        "class_heritage",
        "extends_clause",
    )
    at = max(child.end_byte for child in heads if child.type in kinds)
    text = f"{language.implements}{abstraction.name}" + (")" if language.implements == "(" else "")
    return Amendment(at, at, FIELDS, text, said)


def _placement(context: PlanContext, target: int, consumer: int, abstraction: Abstraction) -> str:
    own, there = context.sources.path(target).rpartition("/")[0], abstraction.path.rpartition("/")[0]
    if own == there:
        return wording.lives_beside(context.name(target))
    layers = context.codebase.layers
    return wording.lives_with_users(layers.name(consumer)) if layers.crossing(consumer, target) else wording.lives_in(there)


def _naming(habit: Habit, abstraction: Abstraction) -> str:
    """How the name came about, so that a reader can disagree."""
    if habit.kind == "prefix" and not habit.seen:
        return wording.NAMED_AS_LANGUAGE
    return wording.named_as(habit.seen, habit.interfaces) if habit.kind in ("prefix", "suffix") else wording.NAME_SUGGESTED


def _parts(context: PlanContext, target: int, abstraction: Abstraction) -> list[str]:
    """A word on parts that no user shares: they may become interfaces of their own."""
    from isodesm.measures.splits import splits_of

    callers = context.sources.callers
    used = {member.name: {context.name(user) for user in callers(target, member.name)} for _, member in abstraction.members}
    parts = splits_of({name: users for name, users in used.items() if users})
    return [wording.may_be_several([(part.members, part.consumers) for part in parts])] if len(parts) > 1 else []


def _hazards(context: PlanContext, target: int) -> tuple[str, ...]:
    members = context.symbols.types[target].members
    fields = [m.name for m in members if m.kind == "field" and not m.is_private and not m.is_static and m.whole != (0, 0)]
    return (wording.fields_visible(fields),) if fields and context.sources.language(target).needs_types else ()
