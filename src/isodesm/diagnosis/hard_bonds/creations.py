"""Why a creation may be no fault: rules in order, the first that speaks decides."""

from __future__ import annotations

import re
from collections.abc import Callable

from isodesm.diagnosis.hard_bonds.cases import Case
from isodesm.diagnosis.hard_bonds.devices import OUTSIDE
from isodesm.diagnosis.hard_bonds.sharing import is_made_with_shared, uses_shared
from isodesm.inference.effect_kinds import GRAVE, SEVERE, UNSURE
from isodesm.inference.evidence import BASE, DATA, SERVICE_LIKE, SHAPE, UNKNOWN
from isodesm.inference.local_evidence import READS_REQUEST
from isodesm.inference.roles import MOST_ALTERNATIVES
from isodesm.inference.use_graph import INSTANCE
from isodesm.inference.weighing import is_agent
from isodesm.linking.bonds import ANONYMOUS, RUNTIME
from isodesm.linking.symbols import simple_name

Rule = Callable[[Case], str]
"""Returns a key of `EXCUSES`, or '' where the rule has nothing to say."""

NEAR_CHAIN = 4
"""Names in a chain to an effect (who creates, what is created, one class more, the API) up to which it is plainly felt."""
KINDS_OF_A_THING, KINDS_OF_A_SERVICE = 3, 6
"""Implementations of one abstraction from which a class that makes them all has chosen none, but builds things of all kinds;
of a few services it has chosen."""
MADE_OFTEN = 3
"""Places that make a class, and"""
KEPT_TOGETHER = 2
"""arrays or collections of it, from which it is a value that is handed around."""
MADE_ALL_OVER = 8
"""Places that make a class which works with nothing, from which it is no strategy but a value."""
STAMPS = frozenset(("clock", "random"))
"""Effects that data may have when it is made: it is stamped with a time or an id."""
MAINS = frozenset(("main", "Main"))
VISIBLE = frozenset(("gui", "console", "environment"))
"""What a view is there for."""


def is_error(case: Case) -> str:
    """An error, made where it is thrown or handed on."""
    named = case.target_name.endswith(("Exception", "Error", "Throwable")) if case.external else False
    return "exception" if named or case.target_role == "exception" else ""


def is_standard_value(case: Case) -> str:
    """Judged by name, so that it holds for a tree that declares such a class itself, too."""
    return (
        "standard-value"
        if not case.direct_effect and case.symbols.catalogues.is_value(case.target_name, case.facts.language)
        else ""
    )


def is_library_class(case: Case) -> str:
    """A class outside the tree is a decision only when it has an effect."""
    return "unknown-library" if case.external and not case.direct_effect else ""


def opens_own_device(case: Case) -> str:
    """A wrapper around a device or store opens it itself; a view prints, shows and waits by itself."""
    if case.sort == "drawing" or (case.source_role == "presentation" and _is_part_of_view(case)):
        return "view-part"
    own = case.usage.devices
    stamps = case.direct_effect == "clock" or (case.direct_effect == "random" and case.kind != "creation")
    if stamps and case.source_role in DATA and case.context in ("constructor", "field-initializer"):
        return "data"
    if case.direct_effect:
        return "own-device" if _is_part_of_device(case) else ""
    helps = case.grave_effects and case.shared_type < 0 and case.is_static
    return "own-device" if helps and all(own.is_own(case.source, effect) for effect in case.grave_effects) else ""


def _is_part_of_view(case: Case) -> bool:
    """Whether what a view does is seen on the screen, or only lets it wait."""
    if case.sort == "timer":
        return True
    reaches = case.external or (case.shared_type < 0 and "environment" not in case.effects)
    return bool(case.effects) and reaches and VISIBLE.issuperset(case.effects)


def _is_part_of_device(case: Case) -> bool:
    """Whether an effect belongs to the device that a class is around: its own, or a time or number that goes straight there."""
    own, effect = case.usage.devices, case.direct_effect
    stamped = effect in UNSURE and case.enclosing is not None and case.enclosing.kind == "call"
    reached = OUTSIDE.intersection(case.known.of_node((case.source, case.source_member))) if stamped else ()
    if any(own.is_own(case.source, each) for each in reached):
        return True
    if effect not in OUTSIDE and case.is_passed_on and case.symbols.is_module(case.source):
        return True  # a function that only hands out what the clock says
    return (effect in OUTSIDE or case.is_passed_on) and own.is_own(case.source, effect)


def is_anonymous(case: Case) -> str:
    """A class body written on the spot is the owner's own code."""
    return "framework-required" if case.flags & ANONYMOUS else ""


def is_data(case: Case) -> str:
    """Data carries nothing with it; what asks the time or opens a file by itself is more than that.

    An event or the like, known by its base or annotation, may be stamped with the time.
    """
    if case.target_role not in DATA:
        return ""
    own = {use.effect for use in case.known.used.get(case.target, ())}
    by_default = case.roles[case.target].evidence[0].strength < SHAPE and case.symbols.dialect(case.target).assigned_fields
    if by_default and len(case.chain) <= NEAR_CHAIN:  # fields without types: what it works with is not known
        own.update(SEVERE.intersection(case.effects))  # nothing spoke for data; only nothing spoke against it
    if case.roles[case.target].evidence[0].strength >= BASE:
        own -= UNSURE
    own -= STAMPS
    if own.intersection(case.grave_effects):
        return ""
    return "unknown" if case.roles[case.target].evidence[0].strength == UNKNOWN else "data"


def is_own_accessor(case: Case) -> str:
    """A type that makes itself, or a subclass of itself, in a static member: its accessor or named constructor."""
    if case.target == case.source or _is_own_instance(case):
        return "factory"
    static = case.member is not None and case.member.is_static
    return "factory" if case.targets_own_kind and (static or case.is_returned) else ""


def _is_own_instance(case: Case) -> bool:
    """A module that makes a variable of a class of its own: who reads it from elsewhere is reported instead."""
    if case.external or not case.symbols.is_module(case.source):
        return False
    at_top = case.member is None or case.member.kind == "field"
    return at_top and case.symbols.file_of[case.target] == case.file


def is_factory_result(case: Case) -> str:
    """What a factory, or a making method, hands out as its own or a base type."""
    if not case.is_returned and not case.returns_base_of_target():
        return ""
    making = case.member is not None and case.member.name.startswith(("create", "make", "new", "build", "open"))
    chosen = case.is_returned and _is_one_of_several(case)
    return "factory" if case.source_role == "factory" or chosen or (making and case.returns_base_of_target()) else ""


def _is_one_of_several(case: Case) -> bool:
    """Whether a member that branches gives back one of several classes of one base: choosing is what it is there for."""
    if case.external or case.member is None or not case.member.branches or case.member.kind != "method":
        return False
    table, roles = case.codebase.bonds, case.roles
    index, bases = table.source_member[case.row], set(roles.ancestors(case.target)[1:])
    return any(
        bases.intersection(roles.ancestors(other)[1:])
        for row in table.rows_of_source(case.source)
        if table.kind[row] == table.kind[case.row] and table.source_member[row] == index
        if (other := table.target[row]) >= 0 and other != case.target
    )


def is_callback(case: Case) -> str:
    """An object of an own class that implements a host's interface, made on the spot where it is registered or run."""
    if case.external or case.enclosing is None or case.enclosing.kind not in ("call", "creation"):
        return ""
    callbacks = case.catalogue.callbacks.types.split()
    bases = [base for each in case.roles.ancestors(case.target) for base in case.roles.external_bases.get(each, ())]
    hosted = any(base in callbacks or base.endswith("Listener") for base in bases)
    return "framework-required" if hosted and not case.effects else ""


def is_observer(case: Case) -> str:
    """An object of an own class that is told of events, wherever it is kept: who tells it is handed it anyhow."""
    line = case.roles.ancestors(case.target) if not case.external else ()
    named = [case.symbols.types[each].name for each in line]
    named += [simple_name(base) for each in line for base in case.roles.external_bases.get(each, ())]
    return "framework-required" if any(name.endswith(("Listener", "Observer")) for name in named) and not case.effects else ""


def is_part(case: Case) -> str:
    """A private, nested or package-private helper that only its owner makes, and that knows nobody but its owner."""
    if case.external or case.effects:
        return ""
    home, owner = _outermost(case, case.target), _outermost(case, case.source)
    creators = {_outermost(case, each) for each in case.usage.creators.get(case.target, ())}
    words = case.target_type.modifiers.words
    nested = (home == owner and home != case.target) or _is_hidden_in_module(case)
    if not set(case.collaborators) <= _names_around(case) and not (nested and case.site.arguments and creators <= {owner}):
        return ""  # it works with others, and is not handed them by its owner
    if nested:
        return "part" if "private" in words or creators <= {owner} else ""
    dialect = case.symbols.dialect(case.target)
    near = case.symbols.files[case.symbols.file_of[case.target]].package == case.facts.package
    near = near and (dialect.implicit_self or case.target_type.name.startswith("_"))
    return "part" if near and "public" not in words and creators <= {owner} else ""


def _is_hidden_in_module(case: Case) -> bool:
    """Whether the target stands beside the source in a module that does not offer it to others."""
    file = case.symbols.file_of[case.target]
    if file != case.file or not case.symbols.dialect(case.target).has_module or case.symbols.outer(case.target) >= 0:
        return False
    start = case.target_type.place.start
    before = case.codebase.text(file)[max(start - 40, 0) : start].rpartition(b"\n")[2]
    unexported = case.symbols.dialect(case.target).exports_by_word and b"export" not in before
    return unexported or case.target_type.name.startswith("_")


def _names_around(case: Case) -> set[str]:
    """Simple names of the source and the types around it."""
    names, number = set(), case.source
    while number >= 0:
        names.add(case.symbols.types[number].name)
        number = case.symbols.outer(number)
    return names


def _outermost(case: Case, number: int) -> int:
    while (outer := case.symbols.outer(number)) >= 0:
        number = outer
    return number


def is_part_of_view(case: Case) -> str:
    """A view that puts together visual parts, of its own code base."""
    if case.source_role != "presentation":
        return ""
    if case.symbols.catalogues.is_view_part(case.target_name, case.facts.language):
        return "view-part"
    answers = case.target_role == "presentation" and case.roles[case.target].evidence[0].reason == READS_REQUEST
    return "view-part" if case.target_role == "presentation" and not answers else ""


def is_one_of_kinds(case: Case) -> str:
    """A class that makes things of many kinds, like the nodes that a parser builds, has chosen none of them."""
    if case.external or case.crossing or _reaches_out(case) or (case.is_static and not case.is_named_constructor):
        return ""
    made = ((base, case.usage.kinds_made.get((case.source, base), 0)) for base in case.roles.ancestors(case.target)[1:])
    return "factory" if any(count >= _least_kinds(case, base) for base, count in made) else ""


def _least_kinds(case: Case, base: int) -> int:
    """Implementations from which whoever makes them all has chosen none: of services more, unless they are as many as nodes."""
    few = len(case.roles.implementers.get(base, ())) <= MOST_ALTERNATIVES and not case.is_returned
    return KINDS_OF_A_SERVICE if few and case.target_role in SERVICE_LIKE else KINDS_OF_A_THING


def _reaches_out(case: Case) -> bool:
    """Whether the target itself has a grave effect, and not just something that it gets to."""
    return any(use.effect in SEVERE and not use.sort for use in case.known.used.get(case.target, ()))


def is_handed_around(case: Case) -> str:
    """A class whose objects are kept in collections and made in many places is a value, whatever it can do."""
    if case.external or case.crossing or case.target_role not in ("service", "factory", "utility"):
        return ""
    often = case.usage.places[case.target] >= MADE_OFTEN and not _reaches_out(case)
    shaped = any(each.role in DATA and each.strength >= SHAPE for each in case.roles[case.target].evidence)
    everywhere = shaped and case.usage.places[case.target] >= MADE_ALL_OVER
    return "data" if often and (everywhere or case.usage.collected.get(case.target, 0) >= KEPT_TOGETHER) else ""


def is_bound_to_owner(case: Case) -> str:
    """A helper that is handed the owner itself: a handler for each connection, a step, a page."""
    if case.external or case.target_role == "presentation" or not _passes_itself(case):
        return ""
    in_method = case.member is not None and case.member.kind == "method"
    if not case.grave_effects and in_method:
        return "part"
    return "part" if case.flags & RUNTIME and _is_made_by_owner_alone(case) else ""


def is_helper_of_owner(case: Case) -> bool:
    """Whether what is made is handed its owner, and nobody else makes one: no caller could hand it to the owner beforehand."""
    return not case.external and _passes_itself(case) and _is_made_by_owner_alone(case)


def _is_made_by_owner_alone(case: Case) -> bool:
    family = {*case.roles.ancestors(case.source), *case.roles.implementers.get(case.source, ()), case.source}
    return case.usage.creators.get(case.target, set()) <= family


def _passes_itself(case: Case) -> bool:
    word = re.escape(case.symbols.dialect(case.source).self_word or "this")
    return re.search(rf"(?:^|,)\s*{word}\s*(?:,|$)", case.site.arguments) is not None


def is_pure(case: Case) -> str:
    """No effect, no collaborator, and nothing in the tree that could stand in for it: nothing a test would replace."""
    if case.external or case.effects or case.collaborators or case.crossing:
        return ""
    strength = case.roles[case.target].evidence[0].strength
    if (case.target_role in SERVICE_LIKE and strength > UNKNOWN) or is_strategy(case) or uses_shared(case):
        return ""
    return "pure" if strength > UNKNOWN else "unknown"


def is_strategy(case: Case) -> bool:
    """Whether the tree holds other implementations of the same service: then one of them was chosen here."""
    if case.target_role not in SERVICE_LIKE or not case.other_implementations or _is_in_parallel(case):
        return False
    light = not case.collaborators and not case.grave_effects
    if light and case.usage.places[case.target] >= MADE_ALL_OVER:
        return False
    family = (case.target, *case.other_implementations)
    return any(case.roles.collaborators(each) or GRAVE.intersection(case.known.of_type(each)) for each in family)


def _is_in_parallel(case: Case) -> bool:
    """Whether each of the other implementations is made by a class beside the source, as this one is by the source: who chose
    the source has chosen this, too."""
    beside = set(case.roles.other_implementations(case.source))
    makers = [case.usage.creators.get(each, set()) for each in case.other_implementations]
    return bool(beside) and all(each and each <= beside for each in makers)


def is_document(case: Case) -> str:
    """Data that is told from which file it is to be read, or into which it is to be written: who makes it decides on that file,
    and on no store."""
    in_method = case.member is not None and case.member.kind == "method"
    if case.external or case.target_role != "repository" or not in_method or case.crossing:
        return ""
    if case.roles[case.target].evidence[0].strength >= SHAPE or SEVERE.intersection(
        case.known.of_node((case.target, INSTANCE))
    ):
        return ""
    members, table = case.target_type.members, case.codebase.bonds
    touching = {table.source_member[use.row] for use in case.known.used.get(case.target, ()) if use.effect in SEVERE}
    told = all(index >= 0 and members[index].parameters and not members[index].is_static for index in touching)
    if not touching or not told or not SEVERE.intersection(case.grave_effects) <= {"file"} or is_agent(case.target_type.name):
        return ""
    asked = {
        table.text_of("callee", row)
        for row in table.rows_of_source(case.source)
        if table.source_member[row] == case.source_member and table.target[row] == case.target and row != case.row
    }
    return "data" if asked - {"", *(members[index].name for index in touching)} else ""


def is_one_shot(case: Case) -> str:
    """Made in a method from values known only there, without grave effects: a function, or a piece of data, in disguise."""
    in_method = case.member is not None and case.member.kind == "method"
    if not (case.flags & RUNTIME and in_method) or case.crossing:
        return ""
    if (case.grave_effects and _is_felt(case)) or (case.target_role not in DATA and is_made_with_shared(case)):
        return ""
    return "unknown" if case.target_role in SERVICE_LIKE else "pure"


def _is_felt(case: Case) -> bool:
    """Whether a grave effect is the target's own, or that of its construction, and not of a helper of a helper."""
    own = {use.effect for use in case.known.used.get(case.target, ()) if not use.sort}
    return bool(own & case.grave_effects) or bool(case.grave_effects.intersection(case.known.of_node((case.target, INSTANCE))))


CREATION_RULES: tuple[Rule, ...] = (
    is_error,
    is_standard_value,
    is_part_of_view,
    is_library_class,
    opens_own_device,
    is_anonymous,
    is_own_accessor,
    is_data,
    is_factory_result,
    is_callback,
    is_observer,
    is_part,
    is_bound_to_owner,
    is_one_of_kinds,
    is_handed_around,
    is_document,
    is_pure,
    is_one_shot,
)
