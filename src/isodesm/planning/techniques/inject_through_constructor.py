"""inject-through-constructor, and bridge-constructor where callers can't all change in the same step.

Both give a class a constructor parameter in the place of something that it created itself. With a bridging constructor
the old signature stays, and supplies what was created so far.
"""

from __future__ import annotations

from isodesm.planning.pairs import Pair
from isodesm.planning.projection import Projection
from isodesm.planning.signatures import body_lines, constructor_code, member_source, visibility_of
from isodesm.planning.steps import Balance, Code, Edit, Step, step_id
from isodesm.planning.workshop import Abstraction, Injected, Workshop

INJECT, BRIDGE = "inject-through-constructor", "bridge-constructor"


def plan_injection(shop: Workshop, state: Projection, pair: Pair, abstraction: Abstraction) -> tuple[Step, Projection]:
    """The step for one pair, and the state after it. Notes in the workshop what the class takes from then on."""
    technique = BRIDGE if shop.must_bridge(pair.source) else INJECT
    source, target = shop.name(pair.source), shop.name(pair.target)
    dependency = shop.new_dependency(pair, abstraction)
    before_code = current_constructors(shop, pair.source)
    shop.injected[pair.source].append(dependency)
    if technique == BRIDGE:
        shop.bridged.add(pair.source)
    after_code = current_constructors(shop, pair.source)
    after = state.cutting((pair.source, pair.target), bridge=technique == BRIDGE)
    before_measures, after_measures = state.measures(pair.source), after.measures(pair.source)
    gone = tuple(effect for effect in before_measures.locked_effects if effect not in after_measures.locked_effects)
    step = Step(
        number=0, id=step_id(technique, shop.symbols.names[pair.source], shop.symbols.names[pair.target]),
        technique=technique, title=f"Hand {source} its {abstraction.name}" + (", old constructor kept" if technique == BRIDGE else ""),
        classes=(shop.symbols.names[pair.source], shop.symbols.names[pair.target]), layer=shop.codebase.layers.name(pair.source),
        why_now=_why(shop, pair, gone, technique),
        edits=(*_edits_in_class(shop, pair, dependency, abstraction), *_edits_at_callers(shop, pair, dependency, technique)),
        code=(Code(shop.file(pair.source), before_code, after_code),),
        frees=(f"a test of `{source}` can pass its own `{abstraction.name}`", *(f"{effect} is out of `{source}`" for effect in gone)),
        hazards=_hazards(shop, pair), check=_check(shop, pair),
        balance=Balance((f"{source} ⇒ {target}",), (f"{source} → {abstraction.name}",)),
        before=before_measures, after=after_measures,
    )  # fmt: skip
    return step, after


def current_constructors(shop: Workshop, number: int) -> str:
    """The constructors of a class as the plan has them so far, as code; a comment where none is written out."""
    constructor, given = shop.primary_constructor(number), shop.injected[number]
    name = shop.name(number)
    if not given:
        if constructor is None:
            return f"    // {name} has no constructor of its own"
        return member_source(shop.codebase, number, constructor)
    body = body_lines(shop.codebase, number, constructor) if constructor else []
    throws = constructor.throws if constructor else ()
    fields = {member.name for member in shop.symbols.types[number].members if member.kind == "field"}
    for each in reversed(given):
        body = _take_parameter(body, each)
    parts = []
    new_fields = [each for each in given if each.parameter not in fields]
    if new_fields:
        parts.append("\n".join(f"    private final {each.type_name} {each.parameter};" for each in new_fields))
    visibility = visibility_of(constructor)
    if number in shop.bridged:
        old = [(each.type, each.name) for each in constructor.parameters] if constructor else []
        handed = ", ".join([*(each for _, each in old), *(each.creation for each in given)])
        bridge = constructor_code(name, visibility, old, [f"this({handed});"], throws)
        parts.append("    /** Keeps callers compiling until they hand in the dependencies themselves. */\n" + bridge)
    parts.append(constructor_code(name, visibility, shop.parameters(number), body, throws))
    return "\n\n".join(parts)


def _take_parameter(body: list[str], dependency: Injected) -> list[str]:
    """The constructor body with the creation replaced by the parameter, or else an assignment in front.

    In front, behind a call of the parent's constructor: what follows may already use the field.
    """
    flat = [" ".join(line.split()) for line in body]
    for index, line in enumerate(flat):
        if dependency.creation in line:
            return [*body[:index], line.replace(dependency.creation, dependency.parameter), *body[index + 1 :]]
    behind = 1 if flat and flat[0].startswith("super(") else 0
    return [*body[:behind], f"this.{dependency.parameter} = {dependency.parameter};", *body[behind:]]


def _edits_in_class(shop: Workshop, pair: Pair, dependency: Injected, abstraction: Abstraction) -> list[Edit]:
    file, edits = shop.file(pair.source), []
    fields = {member.name for member in shop.symbols.types[pair.source].members if member.kind == "field"}
    if dependency.parameter not in fields:
        line = shop.symbols.types[pair.source].place.line
        edits.append(Edit(file, line, f"new field `private final {abstraction.name} {dependency.parameter}`"))
    for place in pair.places:
        line = place.finding.line
        if place.member.kind == "field":
            edits.append(Edit(file, line, f"field `{place.member.name}` becomes a `{abstraction.name}` without initialiser"))
        elif place.member.kind == "constructor":
            edits.append(Edit(file, line, f"`{dependency.creation}` becomes the parameter `{dependency.parameter}`"))
        else:
            edits.append(Edit(file, line, f"`{dependency.creation}` becomes the field `{dependency.parameter}`"))
    constructor = shop.primary_constructor(pair.source)
    line = constructor.place.line if constructor else shop.symbols.types[pair.source].place.line
    edits.append(Edit(file, line, f"the constructor takes `{abstraction.name} {dependency.parameter}`"))
    if abstraction.package and abstraction.package != shop.package(pair.source):
        edits.append(Edit(file, 1, f"imports `{abstraction.package}.{abstraction.name}`"))
    return edits


def _edits_at_callers(shop: Workshop, pair: Pair, dependency: Injected, technique: str) -> list[Edit]:
    if technique == BRIDGE:
        return []
    return [
        Edit(shop.symbols.files[each.file].path, each.line, f"passes `{dependency.creation}` to `{shop.name(pair.source)}`")
        for each in shop.creators[pair.source]
    ]


def _why(shop: Workshop, pair: Pair, gone: tuple[str, ...], technique: str) -> str:
    source, target = shop.name(pair.source), shop.name(pair.target)
    parts = [f"`{source}` no longer decides on `{target}`."]
    if gone:
        parts.append(f"Its tests are rid of {', '.join(gone)}.")
    creators = shop.creators.get(pair.source, ())
    others = sorted({shop.name(each.source) for each in creators if not each.root})
    if technique == BRIDGE and others:
        parts.append(f"The old constructor stays for {', '.join(others[:4])}{' and others' if len(others) > 4 else ''}.")
    elif technique == BRIDGE:
        parts.append("The old constructor stays, for nobody in this tree creates it: a host may, without arguments.")
    else:
        parts.append("Only the composition root creates it, so its callers change in the same step.")
    return " ".join(parts)


def _hazards(shop: Workshop, pair: Pair) -> tuple[str, ...]:
    hazards = []
    below = [shop.name(each) for each in shop.subclasses(pair.source)]
    if below:
        hazards.append(f"subclasses {', '.join(below[:4])} keep calling the old constructor")
    if any(place.member.kind == "method" for place in pair.places):
        hazards.append(f"one `{shop.name(pair.target)}` now serves all calls; before, each call made its own")
    roots = {each.source for each in shop.creators.get(pair.source, ()) if each.root}
    hidden = "public" not in shop.symbols.types[pair.target].modifiers.words
    away = sorted(shop.name(each) for each in roots if shop.package(each) != shop.package(pair.target))
    if hidden and away:
        hazards.append(f"`{shop.name(pair.target)}` must become public before {', '.join(away)} can create it")
    if any(annotation.name.endswith(("Entity", "XmlRootElement")) for annotation in shop.symbols.types[pair.source].modifiers.annotations):
        hazards.append("a host creates this class by reflection")
    return tuple(hazards)


def _check(shop: Workshop, pair: Pair) -> str:
    tests = sorted({shop.file(each.source) for each in shop.creators.get(pair.source, ()) if each.test})
    named = f" Run {', '.join(tests[:3])}." if tests else " No test creates this class yet: now one can."
    return "The code compiles and behaves as before." + named
