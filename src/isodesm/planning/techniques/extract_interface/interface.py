"""extract-interface: an abstraction for a class that others decide on."""

from __future__ import annotations

import re

from isodesm.planning.analysis.interface_names import Habit
from isodesm.planning.analysis.names_in_code import home_of
from isodesm.planning.analysis.signatures import needs_of, signature_of, visible
from isodesm.planning.model.abstraction import Abstraction
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.code import Interface, Need, Signature
from isodesm.planning.model.step import Balance, Edit, Step, step_id
from isodesm.planning.planner.projection import Projection
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.imports import import_lines
from isodesm.planning.state.recorder import Recorder
from isodesm.planning.text.insertions import FIELDS, gap

NAME = "extract-interface"


def interface_id(context: PlanContext, target: int, abstraction: Abstraction) -> str:
    """The id of the step that writes an abstraction, or gives one the member that it lacks."""
    return step_id(
        NAME, context.symbols.names[target], *(member.name for _, member in abstraction.members if abstraction.lacks)
    )


def plan_interface(
    context: PlanContext, recorder: Recorder, state: Projection, target: int, consumer: int, abstraction: Abstraction
) -> Step:
    """The step that writes the abstraction and lets the class implement it. Nothing else changes yet."""
    if abstraction.lacks:
        return plan_extension(context, recorder, state, target, abstraction)
    name = context.name(target)
    members = ", ".join(f"`{member.name}`" for _, member in abstraction.members)
    measures = state.measures(target)
    edits, code = recorder.change(_homes(context, target, abstraction), lambda: _write(context, target, abstraction))
    edits = tuple(Edit(e.file, e.line, f"new file: `{abstraction.name}`", text=e.text, new=True) if e.new else e for e in edits)
    return Step(
        number=0,
        id=interface_id(context, target, abstraction),
        technique=NAME,
        title=f"Extract interface {abstraction.name} from {name}",
        classes=(context.symbols.names[target],),
        layer=context.codebase.layers.name(target),
        why_now=f"Constructors can ask for `{abstraction.name}` once it is there; it has what "
        f"{'its one user calls' if abstraction.users <= 1 else f'its {abstraction.users} users call'}: {members}. "
        f"{_placement(context, target, consumer, abstraction)} "
        f"{_naming(context.habit(target), abstraction)}{_parts(context, target, abstraction)}",
        edits=edits,
        code=code,
        frees=(),
        hazards=_hazards(context, target),
        check="The code compiles; nothing behaves differently.",
        balance=Balance((), (f"{name} → {abstraction.name}",)),
        before=measures,
        after=measures,
    )


def _homes(context: PlanContext, target: int, abstraction: Abstraction) -> set[int]:
    """The files that declare a class and what its abstraction asks of it."""
    parts = {context.symbols.part_of_member(target, member) for number, member in abstraction.members if number == target}
    return {context.symbols.file_of[each] for each in (target, *parts)}


def _write(context: PlanContext, target: int, abstraction: Abstraction) -> None:
    draft, declared = context.draft, context.symbols.types[target]
    writer, file = draft.writer(target), context.symbols.file_of[target]
    signatures = [qualified(context, number, signature_of(draft, number, member)) for number, member in abstraction.members]
    needs = needs_of_members(context, abstraction, signatures)
    imports = imports_of(context, target, abstraction.home, abstraction.path, needs)
    model = context.codebase.text(file).decode("utf-8", "replace")
    said = " ".join(f"{each.result} {each.parameters} {each.constraints}" for each in signatures)
    visibility = "internal" if draft.is_internal(target, set(re.findall(r"[A-Z]\w*", said))) else "public"
    if visibility == "internal":
        draft.hidden.add(abstraction.name)
    wanted = Interface(
        abstraction.name, declared.name, abstraction.home, declared.generics, tuple(signatures), imports, model, visibility
    )
    draft.new_file(abstraction.path, writer.interface(wanted), file)
    _implement(context, target, abstraction)
    context.extracted[target] = abstraction


def qualified(context: PlanContext, number: int, signature: Signature) -> Signature:
    """A signature with the types that are declared inside its class named as others have to."""
    if context.symbols.dialect(number).style == "modules":
        return signature
    inner = [
        declared.name
        for each, declared in enumerate(context.symbols.types)
        if declared.outer >= 0 and declared.name and context.symbols.outer(each) == number
    ]
    if not inner:
        return signature
    pattern = re.compile(rf"(?<![\w.])({'|'.join(map(re.escape, inner))})\b(?=[\s<>\[\],?.)]|$)")
    named = rf"{context.symbols.types[number].path}.\1"
    return signature._replace(parameters=pattern.sub(named, signature.parameters), result=pattern.sub(named, signature.result))


def needs_of_members(context: PlanContext, abstraction: Abstraction, signatures: list[Signature]) -> set[Need]:
    """What a file must import that has the members of an abstraction, each as the file of its class knows it."""
    needs: set[Need] = set()
    for (number, member), signature in zip(abstraction.members, signatures, strict=True):
        needs |= set(needs_of(context.codebase, context.symbols.part_of_member(number, member), [signature]))
    return needs


def plan_extension(context: PlanContext, recorder: Recorder, state: Projection, target: int, abstraction: Abstraction) -> Step:
    """The step that gives an abstraction of the tree the one member that it lacks."""
    name, base, measures = context.name(target), abstraction.number, state.measures(target)
    member = abstraction.members[0][1]
    edits, code = recorder.change(
        [context.symbols.file_of[base], *_homes(context, target, abstraction)], lambda: _extend(context, target, abstraction)
    )
    return Step(
        number=0,
        id=interface_id(context, target, abstraction),
        technique=NAME,
        title=f"Add {member.name} to {abstraction.name}, for {name}",
        classes=(context.symbols.names[target], context.symbols.names[base]),
        layer=context.codebase.layers.name(base),
        why_now=f"`{abstraction.name}` has all that is asked of `{name}` but `{member.name}`, and `{name}` alone "
        f"implements it: one member more "
        "is less than a second abstraction.",
        edits=edits,
        code=code,
        frees=(),
        hazards=("implementers outside this tree, and doubles that tests make of it, must follow",),
        check="The code compiles; nothing behaves differently.",
        balance=Balance((), ()),
        before=measures,
        after=measures,
    )


def _extend(context: PlanContext, target: int, abstraction: Abstraction) -> None:
    draft, base = context.draft, abstraction.number
    file, declared = context.symbols.file_of[base], context.symbols.types[base]
    syntax, writer = draft.syntax(file), draft.writer(base)
    number, member = abstraction.members[0]
    signature = signature_of(draft, number, member)
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
    lines = syntax.line_end.join(writer.signature(signature, margin))
    tail = gap(syntax, at) if syntax.text[at:].partition(b"\n")[0].strip() else ""
    draft.extras[file].append(
        Amendment(at, at, FIELDS, f"{syntax.line_end * 2}{lines}{tail}", f"`{abstraction.name}` has `{member.name}`")
    )
    draft.named[file].update(needs_of(context.codebase, number, [signature]))
    _offer(context, target, abstraction)
    context.extracted[target] = abstraction


def imports_of(context: PlanContext, target: int, home: str, path: str, needs: set[Need]) -> tuple[str, ...]:
    """The import lines, or for some languages the names, that a new file beside a target begins with."""
    language = context.language(target)
    implicit = context.symbols.catalogues.of(language).implicit.package
    wanted = sorted({need for need in needs if need.home and need.home not in (home, implicit)})
    if language == "csharp":
        return tuple(sorted({need.home for need in wanted if not f"{home}.".startswith(f"{need.home}.")}))
    if language in ("java", "php"):
        separator = context.symbols.dialect(target).separator
        bare = sorted({need.name for need in needs if not need.home}) if language == "php" and home else []
        return tuple(sorted([*(f"{need.home}{separator}{need.name}" for need in wanted), *bare]))
    lines = import_lines(context.draft, context.symbols.file_of[target], wanted, path)
    return tuple(sorted(lines, key=lambda line: not line.startswith("import ")) if language == "python" else lines)


def _implement(context: PlanContext, target: int, abstraction: Abstraction) -> None:
    """The class names its abstraction, and offers the members as it asks."""
    draft, file = context.draft, context.symbols.file_of[target]
    syntax, writer = draft.syntax(file), draft.writer(target)
    node = syntax.type_node(context.symbols.types[target])
    listed = syntax.bases(node)
    said = f"`{context.name(target)}` implements `{abstraction.name}`"
    if listed is not None and listed[0].named_children:
        end = listed[0].end_byte - (1 if writer.language == "python" else 0)
        draft.extras[file].append(Amendment(end, end, FIELDS, f", {abstraction.name}", said))
    elif listed is not None:
        draft.extras[file].append(Amendment(listed[0].start_byte + 1, listed[0].end_byte - 1, FIELDS, abstraction.name, said))
    else:
        draft.extras[file].append(_first_base(context, target, node, abstraction, said))
    _offer(context, target, abstraction)
    need = Need(abstraction.name, abstraction.home)
    if abstraction.home != home_of(context.codebase, target):
        draft.named[file].add(need)


def _offer(context: PlanContext, target: int, abstraction: Abstraction) -> None:
    """The class offers the members of its abstraction as that asks."""
    draft, writer = context.draft, context.draft.writer(target)
    for number, member in abstraction.members:
        if number != target or not writer.public_members:
            continue
        file = context.symbols.file_of[context.symbols.part_of_member(target, member)]
        syntax = draft.syntax(file)
        at = member.whole[0]
        inner = syntax.indent_at(at)
        alone = not syntax.text[syntax.text.rfind(b"\n", 0, at) + 1 : at].strip()
        mark = (
            (writer.override(inner) if alone else " ".join(writer.override("").split("\n")))
            if not any(each.name == "Override" for each in member.modifiers.annotations)
            else ""
        )
        lead = "" if visible(draft, number, member) else "public "
        words = [word for word in ("protected", "internal") if word in member.modifiers.words]
        if words:
            where = syntax.text.find(words[0].encode(), at)
            draft.extras[file].append(Amendment(where, where + len(words[0]), FIELDS, "public", f"`{member.name}` is public"))
            lead = ""
        if mark or lead:
            draft.extras[file].append(
                Amendment(
                    at,
                    at,
                    FIELDS,
                    mark + lead,
                    f"`{member.name}` is public" if lead else f"`{member.name}` implements that of `{abstraction.name}`",
                )
            )


def _first_base(context: PlanContext, target: int, node: object, abstraction: Abstraction, said: str) -> Amendment:
    """The first interface of a class: behind its name, type parameters and base class."""
    writer = context.draft.writer(target)
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
    text = f"{writer.implements}{abstraction.name}" + (")" if writer.implements == "(" else "")
    return Amendment(at, at, FIELDS, text, said)


def _placement(context: PlanContext, target: int, consumer: int, abstraction: Abstraction) -> str:
    own, there = context.path(target).rpartition("/")[0], abstraction.path.rpartition("/")[0]
    if own == there:
        return f"It lives beside `{context.name(target)}`."
    if context.codebase.layers.crossing(consumer, target):
        return f"It lives in the {context.codebase.layers.name(consumer)} layer with its users, so that the dependency turns round."
    return f"It lives in `{there}`, where this codebase keeps such things."


def _naming(habit: Habit, abstraction: Abstraction) -> str:
    """How the name came about, so that a reader can disagree."""
    if habit.kind == "prefix" and not habit.seen:
        return "Named as interfaces of this language are."
    if habit.kind in ("prefix", "suffix"):
        return f"Named as {habit.seen} of {habit.interfaces} interfaces here are."
    return "The name is a suggestion: take a better one where the domain has it."


def _parts(context: PlanContext, target: int, abstraction: Abstraction) -> str:
    """A word on parts that no user shares: they may become interfaces of their own."""
    from isodesm.measures.dossier import splits_of

    used = {
        member.name: {context.name(user) for user in context.callers(target, member.name)} for _, member in abstraction.members
    }
    parts = splits_of({name: users for name, users in used.items() if users})
    if len(parts) < 2:
        return ""
    shown = " and ".join(
        f"{', '.join(f'`{name}`' for name in part.members)} (for {', '.join(part.consumers)})" for part in parts
    )
    return f" Its users share no member, so it may as well be {len(parts)} interfaces: {shown}."


def _hazards(context: PlanContext, target: int) -> tuple[str, ...]:
    declared = context.symbols.types[target]
    hazards = []
    fields = [
        m.name for m in declared.members if m.kind == "field" and not m.is_private and not m.is_static and m.whole != (0, 0)
    ]
    if fields and context.language(target) in ("java", "csharp"):
        hazards.append(f"fields {', '.join(fields)} are visible outside; an interface can't offer them")
    return tuple(hazards)
