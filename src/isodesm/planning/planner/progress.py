"""Steps of an earlier plan that the code shows to be done: abstractions that stand, and constructors that take them."""

from __future__ import annotations

import re
from collections.abc import Iterator

import msgspec

from isodesm.facts import typetext
from isodesm.facts.records import Parameter
from isodesm.linking.symbols import simple_name
from isodesm.planning.model.step import HAND_IN, Done, TechniqueName, step_id
from isodesm.planning.state.context import PlanContext
from isodesm.planning.wording.injection import done_before, extracted_before, factory_of, lookup_of

_FUNCTION = re.compile(r"\bClosure\b|\bCallable\b|=>|^typeof |\bFunc<|\bAction\b|Runnable|Consumer<|Supplier<|Function<")
"""Types of functions that a class is handed."""
_NAME = re.compile(r"[A-Za-z_]\w*")


def planned_ids(plan: bytes) -> frozenset[str]:
    """The ids of the steps of a plan that was saved as JSON; ValueError where it is none."""
    try:
        saved = msgspec.json.decode(plan, type=_Saved)
    except (msgspec.DecodeError, msgspec.ValidationError) as error:
        raise ValueError(str(error)) from error
    return frozenset(each.id for each in saved.result.steps)


class _Id(msgspec.Struct):
    id: str


class _Steps(msgspec.Struct):
    steps: list[_Id]


class _Saved(msgspec.Struct):
    result: _Steps


def find_done(context: PlanContext, earlier: frozenset[str]) -> tuple[Done, ...]:
    """What an `earlier` plan asked for, by the ids of its steps, and the code has by now; in order of file.

    What stood before anybody planned it is no step that was taken.

    A class counts as handed its abstraction when its constructor takes a type of the tree that is abstract and that
    service-like classes
    of production implement (just one, as an extraction leaves it behind, stands for that as well); or a function that makes
    one, or is called like a static one; or what the catalogue names as the stand-in for an API with an effect.
    """
    if not earlier:
        return ()
    found: dict[str, Done] = {}
    symbols, roles = context.symbols, context.codebase.roles
    plain = {each.name.lower(): each.name for each in symbols.types if each.kind in ("class", "interface")}
    statics = {
        member.name for declared in symbols.types for member in declared.members if member.is_static and member.kind == "method"
    }
    for number in range(len(symbols)):
        if symbols.is_shown(number) and roles.name(number) != "test" and not symbols.is_module(number):
            for done in _of_class(context, number, statics, plain):
                if done.id in earlier:
                    found.setdefault(done.id, done)
    return tuple(sorted(found.values(), key=lambda each: (each.file, each.line, each.id)))


def _of_class(context: PlanContext, number: int, statics: set[str], plain: dict[str, str]) -> Iterator[Done]:
    """What one class is handed, and what abstraction it is of one class."""
    own = _behind(context, number)
    if own >= 0 and context.name(own) in context.name(number):
        yield from _extracted(context, own, number)
    constructor = context.sources.constructor(number)
    members = context.symbols.types[number].members
    taken = constructor.parameters if constructor is not None else ()
    if context.sources.is_made_of_fields(number):
        taken = tuple(Parameter(each.name, each.type) for each in members if each.kind == "field" and not each.is_static)
    for each in taken:
        if name := plain.get(each.name.replace("_", "").lower(), "") if _FUNCTION.search(each.type) else "":
            yield _injected(context, number, TechniqueName.REPLACE_LOOKUP, lookup_of(name))
        head = typetext.head(each.type)
        abstraction = _resolved(context, number, head)
        made = _NAME.findall(each.type)[-1:] if abstraction < 0 else []
        if abstraction < 0 and made and not each.type.endswith("]]"):
            inner = _resolved(context, number, made[0])
            if inner >= 0 and (target := _behind(context, inner)) >= 0:
                yield from _extracted(context, target, inner)
                yield _injected(context, number, TechniqueName.INTRODUCE_FACTORY, factory_of(context.symbols.types[inner].path))
        if _implementers(context, abstraction):
            if (target := _behind(context, abstraction)) >= 0:
                yield from _extracted(context, target, abstraction)
            yield _injected(context, number, TechniqueName.INJECT_THROUGH_CONSTRUCTOR, context.symbols.types[abstraction].path)
        elif abstraction < 0 and (name := _substitute(context, number, each) or _function(statics, each)):
            yield _injected(context, number, TechniqueName.WRAP_STATIC, name)


def _resolved(context: PlanContext, number: int, name: str) -> int:
    file = context.symbols.file_of[number]
    return context.codebase.hierarchy.file(file).resolve(name, number - context.symbols.first[file], -1) if name else -1


def _behind(context: PlanContext, abstraction: int) -> int:
    """The only class of production that implements an abstraction; -1 where there are none or several."""
    below = _implementers(context, abstraction)
    return below[0] if len(below) == 1 else -1


def _implementers(context: PlanContext, abstraction: int) -> list[int]:
    if abstraction < 0 or not context.symbols.types[abstraction].is_abstract:
        return []
    roles, types = context.codebase.roles, context.symbols.types
    return [
        each for each in context.sources.subclasses(abstraction) if roles.name(each) != "test" and types[each].kind == "class"
    ]


def _extracted(context: PlanContext, target: int, abstraction: int) -> Iterator[Done]:
    declared = context.symbols.types[abstraction]
    title = extracted_before(declared.path, context.name(target))
    found = step_id(TechniqueName.EXTRACT_INTERFACE, context.symbols.names[target])
    yield Done(found, TechniqueName.EXTRACT_INTERFACE, title, context.sources.path(abstraction), declared.place.line)


def _injected(context: PlanContext, number: int, technique: str, what: str) -> Done:
    found = step_id(HAND_IN, context.symbols.names[number], what)
    return Done(
        found,
        technique,
        done_before(context.name(number), what),
        context.sources.path(number),
        context.symbols.types[number].place.line,
    )


def _substitute(context: PlanContext, number: int, taken: Parameter) -> str:
    """The name of the stand-in that a parameter is; '' for any other."""
    known = context.symbols.catalogues.of(context.sources.language(number).name).stand_ins.values()
    plain = taken.type.lstrip("?").removesuffix("| None").strip()
    return next(
        (
            each.name
            for each in known
            if each.name == taken.name
            and (not taken.type or simple_name(typetext.head(each.type)) == simple_name(typetext.head(plain)))
        ),
        "",
    )


def _function(statics: set[str], taken: Parameter) -> str:
    """The name of the static function that a parameter stands for; '' for any other."""
    return taken.name if taken.name in statics and _FUNCTION.search(taken.type) else ""
