"""register: the composition root puts the objects together by hand and hands each what it asks for."""

from __future__ import annotations

from isodesm.planning.naming import variable_name
from isodesm.planning.projection import Projection
from isodesm.planning.signatures import INDENT, creation_text, source_line
from isodesm.planning.steps import Balance, Code, Edit, Step, step_id
from isodesm.planning.workshop import Creator, Workshop

TECHNIQUE = "register"
ROOT_NAME = "CompositionRoot"


def plan_registration(shop: Workshop, state: Projection, number: int) -> Step | None:
    """The step that wires a changed class where the composition root creates it, or in a new root if there is none.

    None where its creator is another class, which will be handed it and wired itself.
    """
    roots = [each for each in shop.creators.get(number, ()) if each.root]
    if roots:
        return _wire_in(shop, state, number, roots)
    if any(not each.test for each in shop.creators.get(number, ())) or _has_root(shop):
        return None
    return _wire_in_new_root(shop, state, number)


def _has_root(shop: Workshop) -> bool:
    return any(shop.codebase.roles.name(number) == "composition-root" for number in range(len(shop.symbols)))


def wiring(shop: Workshop, number: int, keep: str = "") -> tuple[list[str], str]:
    """Statements that build what a class is handed, dependencies first, and the expression that creates it from them.

    `keep` is the argument list that today's creation passes.
    """
    lines: list[str] = []
    taken: set[str] = set()
    built: dict[int, str] = {}

    def creation(each: int, arguments: str, busy: tuple[int, ...]) -> str:
        parts = [arguments] if arguments else []
        for dependency in shop.injected.get(each, ()):
            if dependency.target in busy:  # a ring; it is reported as such, here it only must not loop
                parts.append("null")
                continue
            if dependency.target not in built:
                name = variable_name(dependency.type_name, taken)
                taken.add(name)
                passed = dependency.creation[dependency.creation.find("(") + 1 : dependency.creation.rfind(")")].strip()
                expression = creation(dependency.target, passed, (*busy, each))
                lines.append(f"{dependency.type_name} {name} = {expression};")
                built[dependency.target] = name
            parts.append(built[dependency.target])
        return f"new {shop.name(each)}({', '.join(parts)})"

    return lines, creation(number, keep, (number,))


def _imports(shop: Workshop, number: int, root: int) -> list[str]:
    """Types that the root must import for the wiring, by qualified name, sorted."""
    found, waiting, seen = set(), [number], set()
    while waiting:
        each = waiting.pop()
        if each in seen:
            continue
        seen.add(each)
        for dependency in shop.injected.get(each, ()):
            abstraction = shop.abstraction(dependency.target, each)
            found.add((abstraction.package, abstraction.name))
            found.add((shop.package(dependency.target), shop.name(dependency.target)))
            waiting.append(dependency.target)
    return sorted(f"{package}.{name}" for package, name in found if package and package != shop.package(root))


def _wire_in(shop: Workshop, state: Projection, number: int, roots: list[Creator]) -> Step:
    first = roots[0]
    name, root = shop.name(number), shop.name(first.source)
    site = shop.codebase.content(first.file).sites[first.site]
    creation = creation_text(shop.codebase, first.file, site.place.start, site.place.end)
    before = source_line(shop.codebase, first.file, site.place.start)
    lines, expression = wiring(shop, number, site.arguments)
    margin = before[: len(before) - len(before.lstrip())]
    after = "\n".join([*(margin + line for line in lines), before.replace(creation, expression)])
    imports = _imports(shop, number, first.source)
    measures = state.measures(number)
    path = shop.symbols.files[first.file].path
    return Step(
        number=0, id=step_id(TECHNIQUE, shop.symbols.names[number]), technique=TECHNIQUE,
        title=f"Wire {name} in {root}", classes=(shop.symbols.names[number], shop.symbols.names[first.source]),
        layer=shop.codebase.layers.name(first.source),
        why_now=f"`{root}` is where objects are put together: one place shows what `{name}` runs with, "
        "and the bridging constructors beneath lose their last production caller.",
        edits=(
            *(Edit(shop.symbols.files[each.file].path, each.line, f"builds `{name}` from its dependencies") for each in roots),
            *([Edit(path, 1, f"imports {', '.join(f'`{each}`' for each in imports)}")] if imports else []),
        ),
        code=(Code(path, before, after),), frees=(), hazards=(),
        check="The program starts and does what it did.",
        balance=Balance((), tuple(f"{root} → {shop.name(each.target)}" for each in shop.injected.get(number, ()))),
        before=measures, after=measures,
    )  # fmt: skip


def _wire_in_new_root(shop: Workshop, state: Projection, number: int) -> Step:
    name, package = shop.name(number), shop.package(number)
    folder = shop.file(number).rpartition("/")[0]
    path = f"{folder}/{ROOT_NAME}.java".lstrip("/")
    lines, expression = wiring(shop, number)
    body = "\n".join(f"{INDENT * 2}{line}" for line in [*lines, f"return {expression};"])
    head = f"package {package};\n\n" if package else ""
    code = (
        f"{head}/** Puts the objects of this program together. */\npublic final class {ROOT_NAME} {{\n\n"
        f"{INDENT}public static {name} create{name}() {{\n{body}\n{INDENT}}}\n}}\n"
    )
    measures = state.measures(number)
    return Step(
        number=0, id=step_id(TECHNIQUE, shop.symbols.names[number]), technique=TECHNIQUE,
        title=f"Wire {name} in a composition root", classes=(shop.symbols.names[number],),
        layer=shop.codebase.layers.name(number),
        why_now=f"Nothing in this tree puts objects together yet; `{name}` has no creator here, so its host can ask this root.",
        edits=(Edit(path, 1, f"new or extended file: class `{ROOT_NAME}` builds `{name}`"),),
        code=(Code(path, "", code),), frees=(), hazards=("the host must be told to ask the root",),
        check="The program starts and does what it did.", balance=Balance((), ()), before=measures, after=measures,
    )  # fmt: skip
