"""What is shared by the whole program: objects that static members hand out, and what other static members come to."""

from __future__ import annotations

from isodesm.diagnosis.hard_bonds.behind import Behind, Chain
from isodesm.diagnosis.hard_bonds.cases import Case
from isodesm.diagnosis.hard_bonds.usage import Usage
from isodesm.facts import typetext
from isodesm.facts.records import Member
from isodesm.inference.effect_kinds import SEVERE
from isodesm.inference.evidence import SERVICE_LIKE, is_field, is_method
from isodesm.inference.use_graph import OWN_TYPES
from isodesm.linking.symbols import simple_name

MOST_BELOW = 12
"""Classes below an abstract one that are asked whether the one object would be worth handing in."""


def behind_of(usage: Usage) -> Behind:
    """What the static members of a codebase come to, worked out once."""
    if usage.behind is None:
        codebase = usage.codebase
        usage.behind = Behind(codebase, usage.states, lambda row: _hands_out_shared(Case(codebase, usage, row)))
    return usage.behind


def uses_shared(case: Case) -> bool:
    """Whether a class of the tree, made here to be used here, uses something that the whole program shares."""
    return case.target in behind_of(case.usage).users and not case.is_returned


def is_made_with_shared(case: Case) -> bool:
    """Whether making an object of the class uses something that the whole program shares."""
    return case.target in behind_of(case.usage).made_with and not case.is_returned


def _hands_out_shared(case: Case) -> bool:
    return is_shared_instance(case) and not (case.shared_type >= 0 and case.usage.states.is_cross_cutting(case.shared_type))


def shared_behind(case: Case) -> Chain:
    """How a static member of the tree comes to something shared that another class keeps; () where it does not."""
    if not case.is_static or case.external or case.known.is_cross_cutting(case.target):
        return ()
    return behind_of(case.usage).of(case.nodes)


def is_shared_instance(case: Case) -> bool:
    """Whether a static member hands out one shared object of a service-like class of the tree, judged by shape."""
    if case.external or _is_empty(case):
        return False
    if case.known is not case.codebase.effects:  # as they would be
        return _is_one_of_its_kind(case)
    key, known = (case.kind, case.target, case.callee), case.usage.shared_instances
    if key not in known:
        known[key] = _is_one_of_its_kind(case)
    return known[key]


def _is_one_of_its_kind(case: Case) -> bool:
    """The same, whoever asks for it."""
    known = ((each, case.symbols.members(each).get(case.callee)) for each in case.roles.ancestors(case.target))
    each, found = next(((each, found) for each, found in known if found), (-1, ()))
    if not found:  # a variable of a module that holds an object of the class
        holds = case.shared_type >= 0 and case.target_role in SERVICE_LIKE
        return case.kind == "static-field" and (holds or _is_one_that_changes(case))
    wanted = "method" if case.kind == "static-call" else "field"  # which may share a name
    member = next((member for _, member in found if member.kind == wanted), found[0][1])
    if case.kind == "static-field" and not is_method(member):
        return _is_state_of_its_kind(case, each, member)
    return _hands_out_one(case, each, member)


def _is_state_of_its_kind(case: Case, keeper: int, member: Member) -> bool:
    """Whether a static field holds one object for all: no list of them, and not one of many."""
    if "[" in member.type or case.usage.is_constant(member, case.shared_type):
        return False
    own = typetext.head(member.type) == case.symbols.types[keeper].name
    kept = member.kind == "constant" or _is_service(case, member.type) or (own and _keeps_itself(case, keeper))
    return kept or _is_one_that_changes(case)


def _hands_out_one(case: Case, keeper: int, member: Member) -> bool:
    """Whether a static function gives the same object, whoever asks."""
    names = (case.symbols.types[keeper].name, *OWN_TYPES)
    itself = typetext.head(member.type) in names or _is_base(case, member.type)
    if case.codebase.shared.is_accessor(case.target, case.callee):
        return is_worth_handing_in(case, keeper)
    if not member.is_static:
        return False
    if not member.parameters and not itself and _hands_out_kept(case):
        return _is_service(case, member.type)
    if not (itself and member.parameters) and _answers_from_itself(case, keeper):
        return is_worth_handing_in(case, keeper)
    return not member.parameters and itself and _keeps_itself(case, keeper)


def _is_one_that_changes(case: Case) -> bool:
    """Whether what is shared is the only object of its class, and changes while the program runs: what one user does to it
    all others see."""
    held = case.shared_type
    if held < 0 or not case.codebase.own_changes.of(held):
        return False
    if case.usage.is_always_kept(held):
        return case.codebase.own_changes.of_itself(held)
    return not (held in case.usage.made_elsewhere or case.usage.kinds_of_places(held) > 1)


def _answers_from_itself(case: Case, number: int) -> bool:
    """Whether a static member asks the one object that its class keeps: for a part of it or an answer, or to do something."""
    kept = case.codebase.shared.own_instances(number)
    touches = map(case.codebase.shared.touch, case.nodes)
    return any(kept & touch.reads and (touch.gives_value or not kept & touch.changes) for touch in touches)


def _hands_out_kept(case: Case) -> bool:
    """Whether a static member gives back an object that its class keeps."""
    return any(case.codebase.shared.touch(node).hands_out for node in case.nodes)


def _is_empty(case: Case) -> bool:
    """Whether the class that is shared has no object state, no effect and no collaborator: any object of it is as good."""
    held = case.shared_type
    if held < 0 or case.effects:
        return False
    below = case.roles.implementers.get(held, ()) if case.symbols.types[held].is_abstract else ()
    return all(case.usage.is_bare(each) for each in (held, *below[:MOST_BELOW]))


def _is_base(case: Case, text: str) -> bool:
    name = simple_name(typetext.head(text))
    return any(case.symbols.types[base].name == name for base in case.roles.ancestors(case.target)[1:])


def _is_service(case: Case, text: str) -> bool:
    """Whether a type text, as seen from the target, names something service-like or an abstraction of it."""
    name = typetext.head(text)
    if name == case.target_type.name:
        return case.target_role in SERVICE_LIKE
    number = case.shared_type
    if number < 0 or case.symbols.types[number].name != simple_name(name):
        file = case.symbols.file_of[case.target]
        package = case.symbols.files[file].package
        number, _ = case.symbols.find(f"{package}.{name}" if package else name, file)
    if number < 0:
        return False
    implementers = case.roles.implementers.get(number, ())
    return case.roles.name(number) in SERVICE_LIKE or (
        case.roles.name(number) == "abstraction" and any(case.roles.name(each) in SERVICE_LIKE for each in implementers)
    )


def _keeps_itself(case: Case, number: int) -> bool:
    """Whether a class, or a holder nested in it, has a static field of its own or a base type, and is more than data."""
    names = {*OWN_TYPES, *(case.symbols.types[each].name for each in case.roles.ancestors(number))}
    holders = [number, *(below for (outer, _), below in _nested_of(case, number))]
    kept = any(
        member.is_static and is_field(member) and names.intersection(typetext.names(member.type))
        for each in holders
        for member in case.symbols.types[each].members
    )
    return kept and is_worth_handing_in(case, number)


def is_worth_handing_in(case: Case, number: int) -> bool:
    """Whether the one object of a class is more than a constant: it serves, has effects, or changes."""
    if case.roles.name(number) in SERVICE_LIKE:
        return True
    if number in case.usage.made_elsewhere or case.usage.kinds_of_places(number) > 1:
        return False  # of a data type that is made all over, a shared object is a constant, not the one and only
    if SEVERE.intersection(case.known.of_type(number)) or _is_mutable(case, number) or case.codebase.own_changes.of(number):
        return True
    below = case.roles.implementers.get(number, ()) if case.symbols.types[number].is_abstract else ()
    return any(is_worth_handing_in(case, each) for each in below[:MOST_BELOW])


def _nested_of(case: Case, number: int) -> list[tuple[tuple[int, str], int]]:
    file = case.symbols.file_of[number]
    first = case.symbols.first[file]
    return [
        ((number, declared.name), first + index)
        for index, declared in enumerate(case.symbols.files[file].types)
        if declared.name and declared.outer >= 0 and first + declared.outer == number
    ]


def _is_mutable(case: Case, number: int) -> bool:
    """Whether an object of the class has a field that can change: not final, or a collection."""
    return any(
        member.kind == "field"
        and not member.is_static
        and ("final" not in member.modifiers.words or "<" in member.type or "[" in member.type)
        for member in case.symbols.types[number].members
    )
