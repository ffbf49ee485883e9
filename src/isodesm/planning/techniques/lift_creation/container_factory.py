"""A maker for a container, a kind of lift-creation: what no definition file can hold goes into a class that the file names.

A function, or an object that something else hands out, can't be written into a definition. So a small class beside the made
one makes it with all that; the definition calls that class, and the arguments that it has stay.
"""

from __future__ import annotations

import re
from typing import Any

from isodesm.planning.analysis.names_in_code import needs_of_text
from isodesm.planning.containers.definition_files import as_it_stands, definitions_of
from isodesm.planning.containers.registration_edits import makes
from isodesm.planning.model.code import FactoryClass, Need
from isodesm.planning.model.step import Balance, Edit, Step, step_id
from isodesm.planning.planner.projection import Projection
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.recorder import Recorder
from isodesm.planning.techniques.extract_interface.interface import imports_of
from isodesm.planning.techniques.retire_bridge.retire import why_kept
from isodesm.planning.text.definition_edits import with_maker

NAME = "lift-creation"
MAKE = "make-for-container"
"""What ids of such steps begin with."""
FUNCTION = "make"
_WORDS = re.compile(r"^(?:(?:public|protected|private|readonly|final)\s+)+")


def maker_id(context: PlanContext, number: int) -> str:
    """The id of the step that writes the maker of a class."""
    return step_id(MAKE, context.symbols.names[number])


def plan_maker(context: PlanContext, recorder: Recorder, state: Projection, number: int) -> Step | None:
    """The step that writes the maker, names it in all definitions of the class, and retires what its constructor makes for
    itself; None where a definition can't be changed so, or something else needs the old constructor."""
    draft, name = context.draft, context.name(number)
    unfed = [each for each in draft.handed[number] if (number, each.name) not in context.fed]
    definitions = definitions_of(context, number)
    if draft.writer(number).maker is None or not unfed or not definitions or not makes(context, number):
        return None
    if why_kept(context, number, told=True) or any(each.supply.depends for each in unfed):
        return None
    path, maker = _path(context, number), f"{name}Maker"
    if (context.codebase.root / path).exists() or path in draft.new_files:
        return None
    edits, code = recorder.change(draft.files_of(number), lambda: _write(context, number, path, maker))
    edits = tuple(Edit(e.file, e.line, f"new file: `{maker}`", text=e.text, new=True) if e.file == path else e for e in edits)
    measures = state.measures(number)
    held = ", ".join(f"`{each.name}`" for each in unfed)
    return Step(
        number=0,
        id=maker_id(context, number),
        technique=NAME,
        title=f"Let {maker} make {name} for the container",
        classes=(context.symbols.names[number],),
        layer=context.codebase.layers.name(number),
        why_now=f"A definition file can't hold what `{name}` takes: {held}. `{maker}` makes it with that; the definition names "
        f"`{maker}`, and its arguments stay. So `{name}` itself need not know any more where they come from.",
        edits=edits,
        code=code,
        frees=(f"`{name}` names none of the classes it works with any more",),
        hazards=("code outside this tree may make this class by the constructor as it was",),
        check=f"The container makes `{name}` as before.",
        balance=Balance((), (f"{maker} → {name}",)),
        before=measures,
        after=measures,
    )


def _path(context: PlanContext, number: int) -> str:
    folder, slash, _ = context.path(number).rpartition("/")
    return f"{folder}{slash}{context.draft.writer(number).file_name(f'{context.name(number)}Maker')}"


def _write(context: PlanContext, number: int, path: str, maker: str) -> None:
    draft, symbols = context.draft, context.symbols
    file, writer = symbols.file_of[number], draft.writer(number)
    draft.retired.add(number)
    home = symbols.files[file].package
    qualified = f"{home}{symbols.dialect(number).separator}{maker}" if home else maker
    for each in definitions_of(context, number):
        now = as_it_stands(context, each)
        insertion = with_maker(draft.projects.content(now.path), now, qualified, FUNCTION)
        if insertion is None:
            raise ValueError(f"`{each.id}` can't be given a maker as it is written")
        draft.projects.change(now.path, insertion, f"`{each.id}` is made by `{maker}`")
    parameters, arguments, needs = _taken(context, number)
    index, added = draft.arguments_for(
        number,
        arguments,
        [
            writer.argument(each.name) if (number, each.name) in context.fed else draft.expression(each, at_root=True)
            for each in draft.handed[number]
        ],
    )
    call = f"new {context.name(number)}({', '.join([*arguments[:index], *added, *arguments[index:]])})"
    needs |= set(needs_of_text(context.codebase, file, number - symbols.first[file], ", ".join(added)))
    needs |= {need for each in draft.handed[number] for need in each.supply.needs}
    imports = imports_of(context, number, home, path, needs)
    assert writer.maker is not None
    model = context.codebase.text(file).decode("utf-8", "replace")
    draft.new_file(path, writer.maker(FactoryClass(maker, context.name(number), home, parameters, call, imports, model)), file)
    context.fed.update((number, each.name) for each in draft.handed[number])
    context.made_for_container.add(number)


def _taken(context: PlanContext, number: int) -> tuple[tuple[str, ...], list[str], set[Need]]:
    """What the maker takes, which is what definitions hand in: parameters, how a call passes them, and what they name."""
    draft, symbols = context.draft, context.symbols
    file, writer, constructor = symbols.file_of[number], draft.writer(number), draft.constructor(number)
    own: list[Any] = draft.parameters(number, constructor)[1] if constructor is not None else []
    texts = [_WORDS.sub("", draft.syntax(file).of(each)) for each in own]
    needs = set(needs_of_text(context.codebase, file, number - symbols.first[file], ", ".join(texts)))
    arguments = [writer.argument(each.name.lstrip("$")) for each in constructor.parameters] if constructor is not None else []
    for each in draft.handed[number]:
        if (number, each.name) in context.fed:
            texts.append(writer.parameter(each.typed.text, each.name))
            needs |= set(each.typed.needs)
    return tuple(texts), arguments, needs
