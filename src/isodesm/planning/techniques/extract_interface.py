"""extract-interface: an abstraction for a class that others create for themselves."""

from __future__ import annotations

from isodesm.planning.naming import Habit
from isodesm.planning.projection import Projection
from isodesm.planning.signatures import interface_code
from isodesm.planning.steps import Balance, Code, Edit, Step, step_id
from isodesm.planning.workshop import Abstraction, Workshop

TECHNIQUE = "extract-interface"


def plan_interface(shop: Workshop, state: Projection, target: int, consumer: int, abstraction: Abstraction) -> Step:
    """The step that writes the interface and lets the class implement it. Nothing else changes yet."""
    name, file = shop.name(target), shop.file(target)
    folder = shop.file(consumer if abstraction.package == shop.package(consumer) else target).rpartition("/")[0]
    path = f"{folder}/{abstraction.name}.java".lstrip("/")
    declared = shop.symbols.types[target]
    members = ", ".join(f"`{member.name}`" for member in abstraction.members) or "no method so far"
    measures = state.measures(target)
    imported = f", and imports `{abstraction.package}.{abstraction.name}`" if abstraction.package != shop.package(target) else ""
    return Step(
        number=0, id=step_id(TECHNIQUE, shop.symbols.names[target]), technique=TECHNIQUE,
        title=f"Extract interface {abstraction.name} from {name}", classes=(shop.symbols.names[target],),
        layer=shop.codebase.layers.name(target),
        why_now=f"Constructors can ask for `{abstraction.name}` once it is there; it has what "
        f"{'its one user calls' if abstraction.users <= 1 else f'its {abstraction.users} users call'}: {members}. {_placement(shop, target, consumer, abstraction)} "
        f"{_naming(shop.habit, abstraction)}",
        edits=(
            Edit(path, 1, f"new file: interface `{abstraction.name}`"),
            Edit(file, declared.place.line, f"`{name}` implements `{abstraction.name}`{imported}"),
            *(Edit(file, member.place.line, f"`{member.name}` is public and carries @Override") for member in abstraction.members),
        ),
        code=(Code(path, "", interface_code(shop.codebase, target, abstraction.name, abstraction.package, list(abstraction.members))),),
        frees=(), hazards=_hazards(shop, target), check="The code compiles; nothing behaves differently.",
        balance=Balance((), (f"{name} → {abstraction.name}",)), before=measures, after=measures,
    )  # fmt: skip


def _placement(shop: Workshop, target: int, consumer: int, abstraction: Abstraction) -> str:
    if abstraction.package == shop.package(target):
        return f"It lives beside `{shop.name(target)}`, in the same layer as its users."
    layer = shop.codebase.layers.name(consumer)
    return f"It lives in the {layer} layer with its users, so that the dependency turns round."


def _naming(habit: Habit, abstraction: Abstraction) -> str:
    """How the name came about, so that a reader can disagree."""
    if habit.kind == "prefix":
        return f"Named as {habit.seen} of {habit.interfaces} interfaces here are."
    return "The name is a suggestion: take a better one where the domain has it."


def _hazards(shop: Workshop, target: int) -> tuple[str, ...]:
    declared = shop.symbols.types[target]
    hazards = []
    if declared.generics:
        hazards.append(f"`{declared.name}` is generic: check that the interface needs all its type parameters")
    fields = [m.name for m in declared.members if m.kind == "field" and not m.is_private and not m.is_static]
    if fields:
        hazards.append(f"fields {', '.join(fields)} are visible outside; an interface can't offer them")
    return tuple(hazards)
