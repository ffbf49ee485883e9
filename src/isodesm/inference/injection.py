"""What a class asks to be handed: constructor parameters, and the members that a container fills in."""

from __future__ import annotations

import re
from collections.abc import Iterable
from functools import cached_property
from typing import NamedTuple

from isodesm.catalogue.containers import ContainerRules
from isodesm.facts import typetext
from isodesm.facts.records import Annotation, Member, Modifiers
from isodesm.inference.evidence import SERVICE_LIKE
from isodesm.inference.qualifiers import qualifier_of
from isodesm.inference.roles import Roles
from isodesm.linking.bonds import UNKNOWN
from isodesm.linking.hierarchy import Hierarchy
from isodesm.linking.remembering import remembered
from isodesm.linking.symbols import simple_name

COLLECTIONS = frozenset(
    "List Set Collection Iterable Map Stream IEnumerable ICollection IList IReadOnlyList IReadOnlyCollection Array "
    "ReadonlyArray "
    "iterable array list set tuple Sequence Iterator".split()
)
"""Types that ask for everything that serves what is inside their brackets."""
DEFERRED = frozenset("Provider Supplier Lazy Func Callable ObjectProvider Instance Factory Function Type ObjectFactory".split())
"""Types that ask for a way to get an object, so that it need not live as long as who asks."""
OPEN_TYPES = frozenset(("", "any", "unknown", "object", "Object", "mixed", "dynamic", "Any"))
"""Types that say nothing of what is wanted."""


_KEY = re.compile(r"\s*(?:\w+\s*=\s*)?(?:[\"']([^\"']+)[\"']|(?:forwardRef\(\s*\(\)\s*=>\s*)?([A-Za-z_$][\w.$]*))")
_TAKEN_APART = re.compile(r"[{,]\s*(\w+)(?=\s*[,:}=])")
_NOT_REQUIRED = re.compile(r"\b(?:required\s*=\s*false|optional\s*[:=]\s*true)", re.IGNORECASE)
_ASKED = re.compile(r"(\w+)\s*(?:<[^()]*>)?\(\s*([A-Za-z_$][\w.$]*)")
"""A call with a class as its first argument."""


class Injection(NamedTuple):
    """One thing that a class is handed.

    `member` is the index of the constructor, setter or field, `parameter` that of its parameter (-1: a field).
    `target` is a type number, an external one below 0, or UNKNOWN.
    """

    owner: int
    member: int
    parameter: int
    name: str
    text: str
    target: int
    collection: bool = False
    deferred: bool = False
    default: bool = False
    key: str = ""
    """The name under which it is asked for, where a mark gives one."""
    early: bool = False
    """Whether a member asks for it at construction, as a parameter of the constructor would."""

    @property
    def is_untyped(self) -> bool:
        """Whether its type says nothing of what is wanted."""
        return typetext.head(self.text) in OPEN_TYPES and self.text.strip() in OPEN_TYPES


class Injections:
    """Answers for all types of a tree, worked out when asked for."""

    def __init__(self, hierarchy: Hierarchy, roles: Roles) -> None:
        self.hierarchy, self.symbols, self.roles = hierarchy, hierarchy.symbols, roles
        self._of_constructor: dict[int, tuple[Injection, ...]] = {}

    @cached_property
    def created(self) -> frozenset[int]:
        """Types that some code of the tree creates."""
        bonds = self.roles.bonds
        return frozenset(bonds.target[row] for row in bonds.rows_of_kind("creation"))

    def markers(self, number: int) -> frozenset[str]:
        """Annotations by which a container knows what to fill in, in the language of a type."""
        return self._markers_in(self.symbols.files[self.symbols.file_of[number]].language)

    @remembered
    def _markers_in(self, language: str) -> frozenset[str]:
        return frozenset(self.symbols.catalogues.of(language).injection.annotations)

    def is_marked(self, number: int, modifiers: Modifiers) -> bool:
        """Whether an annotation asks a container to fill something in."""
        if not modifiers.annotations:
            return False
        markers = self.markers(number)
        return any(simple_name(each.name) in markers for each in modifiers.annotations)

    def of_constructor(self, number: int) -> tuple[Injection, ...]:
        """What the constructor takes that a container would call: the marked one, else the one that takes most."""
        found = self._of_constructor.get(number)
        if found is None:
            self._of_constructor[number] = ()
            found = self._of_constructor[number] = self._find(number)
        return found

    def _find(self, number: int) -> tuple[Injection, ...]:
        number = self._constructed_like(number)
        declared = self.symbols.types[number]
        candidates = [(i, m) for i, m in enumerate(declared.members) if m.kind == "constructor" and m.parameters]
        if not candidates:
            return ()
        marked = [each for each in candidates if self.is_marked(number, each[1].modifiers)]
        index, member = max(marked or candidates, key=lambda each: (len(each[1].parameters), -each[0]))
        return tuple(self._parameters(number, index, member))

    def _constructed_like(self, number: int) -> int:
        """The class whose constructors count: the nearest base that has some, for one that has none itself."""
        seen = {number}
        while not any(member.kind == "constructor" for member in self.symbols.types[number].members):
            bases = (each for each, _ in self.hierarchy.bases(number) if each >= 0)
            base = next((each for each in bases if self.symbols.types[each].kind != "interface"), -1)
            if base < 0 or base in seen:
                break
            number = base
            seen.add(number)
        return number

    def of_members(self, number: int) -> tuple[Injection, ...]:
        """The fields, properties and setters that a container fills in."""
        found: list[Injection] = []
        members = self.symbols.types[number].members
        heads = [member.whole for member in members if member.kind == "constructor"]
        for index, member in enumerate(members):
            if member.kind == "field" and not member.is_static and (asked := self._asked_for(number, member)):
                found.append(self._injection(number, index, -1, member.name, asked, False)._replace(early=True))
                continue
            if member.kind == "constructor" or member.is_static or not self.is_marked(number, member.modifiers):
                continue
            if any(start <= member.whole[0] < end for start, end in heads):
                continue  # declared by a parameter of the constructor
            if member.kind in ("field", "property"):
                marks = member.modifiers.annotations
                found.append(self._injection(number, index, -1, member.name, member.type, bool(member.value), marks))
            elif member.kind == "method" and member.parameters:
                found += self._parameters(number, index, member)
        return tuple(found)

    def _asked_for(self, number: int, member: Member) -> str:
        """The class that the value of a field asks its container for at construction; '' for any other value."""
        if "(" not in member.value:
            return ""
        needs = self.words(number).needs
        found = _ASKED.match(member.value)
        return found.group(2) if found and found.group(1) in needs else ""

    def of_field(self, number: int, index: int) -> Injection:
        """A field or property as something that the class is handed."""
        member = self.symbols.types[number].members[index]
        return self._injection(number, index, -1, member.name, member.type, False)

    def of_method(self, number: int, index: int) -> Iterable[Injection]:
        """What a method takes, each parameter as something that the class is handed."""
        return self._parameters(number, index, self.symbols.types[number].members[index])

    def _parameters(self, number: int, index: int, member: Member) -> Iterable[Injection]:
        for position, each in enumerate(member.parameters):
            if apart := _TAKEN_APART.findall(each.name) if each.name.startswith("{") else ():
                for name in apart:  # an object that is taken apart: each of its names is asked for
                    yield self._injection(number, index, position, name, "", False)
                continue
            default = bool(each.default) or each.variadic
            found = self._injection(number, index, position, each.name, each.type, default, each.modifiers.annotations)
            yield found._replace(collection=True) if each.variadic else found

    def _injection(
        self,
        number: int,
        index: int,
        parameter: int,
        name: str,
        text: str,
        default: bool,
        marks: tuple[Annotation, ...] = (),
    ) -> Injection:
        part, local_member = self.symbols.origin(number, index)
        file = self.symbols.file_of[part]
        names = typetext.names(text)
        head = simple_name(typetext.head(text))
        collection, deferred = head in COLLECTIONS or text.rstrip().endswith("[]"), head in DEFERRED
        wanted = names[-1] if (collection or deferred) and len(names) > 1 else typetext.head(text)
        target = self.hierarchy.file(file).resolve(wanted, part - self.symbols.first[file], local_member) if wanted else UNKNOWN
        key = self._key(number, marks)
        default = default or self._may_be_missing(number, marks)
        if key and (target == UNKNOWN or simple_name(typetext.head(text)) in OPEN_TYPES) and re.fullmatch(r"[\w.$]+", key):
            named = self.hierarchy.file(file).resolve(key, part - self.symbols.first[file], local_member)
            target = named if named >= 0 and not self.symbols.is_module(named) else target
        return Injection(number, index, parameter, name, text, target, collection, deferred, default, key)

    def _key(self, number: int, marks: tuple[Annotation, ...]) -> str:
        """The first text or name in the arguments of a mark that says which one is meant."""
        found = {simple_name(each.name): each.arguments for each in marks if each.arguments}
        for each in self.words(number).qualifiers if found else ():
            if each in found and (key := _KEY.match(found[each])):
                return key.group(1) or key.group(2)
        return qualifier_of(self.symbols, marks)

    def _may_be_missing(self, number: int, marks: tuple[Annotation, ...]) -> bool:
        """Whether a mark says that nothing need be handed in, or that it is done by hand."""
        if not marks:
            return False
        optional = self.words(number).optional
        return any(simple_name(each.name) in optional or _NOT_REQUIRED.search(each.arguments) for each in marks)

    def words(self, number: int) -> ContainerRules:
        """The words of all containers in the language of a type."""
        return self.symbols.catalogues.registering(self.symbols.dialect(number).name)

    def is_service(self, target: int) -> bool:
        """Whether a type of the tree does work for others: a service or the like, or an abstraction that some of them
        implement."""
        if target < 0:
            return False
        role = self.roles.name(target)
        if role != "abstraction":
            return role in SERVICE_LIKE
        below = self.roles.implementers.get(target, ())
        return any(self.roles.name(each) in SERVICE_LIKE for each in below) or not below
