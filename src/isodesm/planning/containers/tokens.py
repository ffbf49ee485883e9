"""Names for what a container of decorated constructors is not told of, so that it can leave that out.

Such containers go by the classes that a constructor names. What is no class, or unknown to them, needs a name of its own and
a mark that it may be missing; then its default serves, and tests and registrations can hand in another by that name.
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from isodesm.catalogue.containers import ContainerRules
from isodesm.linking.symbols import simple_name
from isodesm.planning.model.code import Need
from isodesm.planning.model.dependency import Token

if TYPE_CHECKING:
    from isodesm.planning.state.context import PlanContext


def token_for(context: PlanContext, number: int, name: str, type: str) -> Token | None:
    """What a class's container needs in front of a parameter to do without it; None where nothing is known of that. What has
    one name and type has one token, whichever class takes it."""
    found = rules_of(context, number)
    if found is None:
        return None
    rules, home = found
    known = {each.registration.id for each in context.codebase.wiring.services}
    known |= {each.name for each in context.state.tokens.values() if each.type != type}
    token = next(each for each in (name, *(f"{name}{count}" for count in range(2, len(known) + 3))) if each not in known)
    annotations = rules.left_out.format(token)
    needs = tuple(Need(each, home) for each in re.findall(r"@(\w+)", annotations))
    return Token(token, type, f"{annotations} ", rules.hands_null, needs)


def token_of_class(context: PlanContext, number: int, type: str) -> Token | None:
    """What a class's container needs in front of a parameter to hand in a class that it has been told of; None where the type
    of the parameter is enough, as one that has no mark shows."""
    found, constructor = rules_of(context, number), context.sources.constructor(number)
    by_type = constructor is not None and any(not each.modifiers.annotations for each in constructor.parameters)
    if found is None or not found[0].asked_by or by_type:
        return None
    annotations = found[0].asked_by.format(type)
    needs = tuple(Need(each, found[1]) for each in re.findall(r"@(\w+)", annotations))
    return Token(type, type, f"{annotations} ", null=False, needs=needs, stays=True)


def has_tokens(context: PlanContext, number: int) -> bool:
    """Whether the container of a class can be given names for what it is not told of."""
    return token_for(context, number, "it", "") is not None


def rules_of(context: PlanContext, number: int) -> tuple[ContainerRules, str] | None:
    """The words of the family of containers that makes a class, and the module that it has its mark from, which has the others,
    too: as it is registered, else as its file imports, from the family itself or what hands that on."""
    wiring, file = context.codebase.wiring, context.symbols.file_of[number]
    known = context.symbols.catalogues.of(context.sources.language(number).name).containers
    own = {simple_name(each.name) for each in context.symbols.types[number].modifiers.annotations}
    annotations = {each.alias: each.name for each in context.symbols.files[file].imports if each.alias in own}
    told = [each.registration.family for each in wiring.by_implementation.get(number, ())]
    handed_on = (
        name
        for name, rules in known.items()
        if any(word.strip("@/") in home for home in annotations.values() for word in rules.imports)
    )
    for name in dict.fromkeys((*told, *handed_on)):
        rules = wiring.families.rules(context.sources.language(number).name, name)
        words = {*rules.allowed_by, *rules.annotations, *rules.metadata}
        home = next((annotations[each] for each in sorted(annotations) if each in words), "")
        if rules.left_out and home:
            return rules, home
    return None
