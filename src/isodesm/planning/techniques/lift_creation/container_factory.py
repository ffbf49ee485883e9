"""A maker for a container, a kind of lift-creation: what no definition file can hold goes into a class that the file names.

A function, or an object that something else hands out, can't be written into a definition. So a small class beside the made
one makes it with all that; the definition calls that class, and the arguments that it has stay.
"""

from __future__ import annotations

import re
from typing import Any

from isodesm.planning.analysis.file_names import path_beside
from isodesm.planning.analysis.names_in_code import needs_of_text
from isodesm.planning.containers.definition_files import as_it_stands, definitions_of
from isodesm.planning.containers.registration_edits import makes
from isodesm.planning.model.code import FactoryClass, Need
from isodesm.planning.model.step import PlannedStep, TechniqueName, step_id
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.recorder import record
from isodesm.planning.techniques.extract_interface.interface import imports_of
from isodesm.planning.techniques.new_files import said_by_names
from isodesm.planning.techniques.retire_bridge.retire import why_kept
from isodesm.planning.text.definition_edits import with_factory_class
from isodesm.planning.wording import steps as wording

NAME = TechniqueName.LIFT_CREATION
MAKE = "make-for-container"
"""What ids of such steps begin with."""
FUNCTION = "make"
_WORDS = re.compile(r"^(?:(?:public|protected|private|readonly|final)\s+)+")


def container_factory_id(context: PlanContext, number: int) -> str:
    """The id of the step that writes the maker of a class."""
    return step_id(MAKE, context.symbols.names[number])


def plan_container_factory(context: PlanContext, number: int) -> PlannedStep | None:
    """The step that writes the factory, names it in all definitions of the class, and retires what its constructor makes for
    itself; None where a definition can't be changed so, or something else needs the legacy constructor."""
    given, language = context.state.dependencies_of(number), context.sources.language(number)
    lacking = [each for each in given if (number, each.name) not in context.state.injected]
    if language.factory_class is None or not lacking or not definitions_of(context, number) or not makes(context, number):
        return None
    if why_kept(context, number, told=True) or any(each.default.depends for each in lacking):
        return None
    path, factory = _path(context, number), f"{context.name(number)}Maker"
    if context.codebase.has_file(path) or path in context.state.new_files:
        return None
    changes = record(context, context.draft.files_of(number), lambda: _write(context, number, path, factory))
    return PlannedStep(
        technique=NAME,
        id=container_factory_id(context, number),
        about=number,
        follows=number,
        classes=(number,),
        text=wording.container_factory_written(factory, context.name(number), [each.name for each in lacking]),
        edits=tuple(said_by_names(changes.edits, {path: factory})),
        code=tuple(changes.code),
        added=(f"{factory} → {context.name(number)}",),
    )


def _path(context: PlanContext, number: int) -> str:
    return path_beside(context.sources, number, f"{context.name(number)}Maker")


def _write(context: PlanContext, number: int, path: str, maker: str) -> None:
    symbols = context.symbols
    file, language = symbols.file_of[number], context.sources.language(number)
    context.state = context.state.with_retired(number)
    home = symbols.files[file].package
    qualified = f"{home}{symbols.dialect(number).separator}{maker}" if home else maker
    for each in definitions_of(context, number):
        now = as_it_stands(context, each)
        insertion = with_factory_class(context.content(now.path), now, qualified, FUNCTION)
        if insertion is None:
            raise ValueError(f"`{each.id}` can't be given a maker as it is written")
        context.change_content(now.path, insertion, f"`{each.id}` is made by `{maker}`")
    parameters, arguments, needs = _taken(context, number)
    index, added = context.draft.arguments.arguments_for(
        number,
        arguments,
        [
            language.argument(each.name)
            if (number, each.name) in context.state.injected
            else context.draft.arguments.expression(each, at_root=True)
            for each in context.state.dependencies_of(number)
        ],
    )
    call = f"new {context.name(number)}({', '.join([*arguments[:index], *added, *arguments[index:]])})"
    needs |= set(needs_of_text(context.codebase, file, number - symbols.first[file], ", ".join(added)))
    needs |= {need for each in context.state.dependencies_of(number) for need in each.default.needs}
    imports = imports_of(context, number, home, path, needs)
    assert language.factory_class is not None
    model = context.codebase.text(file).decode("utf-8", "replace")
    context.add_file(
        path, language.factory_class(FactoryClass(maker, context.name(number), home, parameters, call, imports, model)), file
    )
    names = (each.name for each in context.state.dependencies_of(number))
    context.state = context.state.with_injected(number, *names).with_container_factory(number)


def _taken(context: PlanContext, number: int) -> tuple[tuple[str, ...], list[str], set[Need]]:
    """What the maker takes, which is what definitions hand in: parameters, how a call passes them, and what they name."""
    symbols = context.symbols
    file, language, constructor = symbols.file_of[number], context.sources.language(number), context.sources.constructor(number)
    own: list[Any] = context.sources.parameters(number, constructor)[1] if constructor is not None else []
    texts = [_WORDS.sub("", context.sources.syntax(file).of(each)) for each in own]
    needs = set(needs_of_text(context.codebase, file, number - symbols.first[file], ", ".join(texts)))
    arguments = [language.argument(each.name.lstrip("$")) for each in constructor.parameters] if constructor is not None else []
    for each in context.state.dependencies_of(number):
        if (number, each.name) in context.state.injected:
            texts.append(language.parameter(each.typed.text, each.name))
            needs |= set(each.typed.needs)
    return tuple(texts), arguments, needs
