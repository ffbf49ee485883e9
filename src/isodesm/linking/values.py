"""The types of expressions: receivers of calls, chains of names, values that initialise inferred locals."""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Iterator
from operator import attrgetter
from typing import NamedTuple

from isodesm.facts import typetext
from isodesm.facts.records import FileSites, Local, Site
from isodesm.linking.bonds import UNKNOWN
from isodesm.linking.hierarchy import Hierarchy
from isodesm.linking.member_values import NOTHING, MemberValues, Scope, Value
from isodesm.linking.naming.module_names import ModuleNames

_ARRAY = re.compile(r"\[[\s,\d]*\]\s*$")
_MARKS = re.compile(r"[?!$]|\(\)")
"""What stands in a chain of names beside them."""
_CLASS = re.compile(r"([\w.\\]++)(?:\.class|::class)|typeof\s*+\(\s*+([\w.]++)\s*+\)|([A-Z]\w*+)")
"""An argument that stands for a class."""
DEPTH_LIMIT = 12
"""Steps that an inference follows from one expression to the next; longer ones are given up as unknown."""


class Chain(NamedTuple):
    """What a dotted chain of names means.

    `base` is the type that its first names spell when they spell one (else UNKNOWN), `field` the name behind it
    ('' when the chain ends there) and `value` the type of the whole chain as an expression.
    """

    base: int
    field: str
    value: Value
    own: bool = False
    """Whether it begins with the class that the method is called on, so that nothing is named."""


FEW = 8
"""Variables of one name up to which looking at each costs less than seeking."""
_start_of = attrgetter("start")


class FileValues(MemberValues):
    """Types of the expressions of one file."""

    def __init__(self, hierarchy: Hierarchy, number: int, content: FileSites) -> None:
        super().__init__(hierarchy, number)
        self.sites = content.sites
        self.locals: dict[str, list[Local]] = {}
        for local in content.locals:
            self.locals.setdefault(local.name, []).append(local)
        self._imports_within: dict[str, list[tuple[int, int]]] = {}
        for each in self.names.facts.imports:
            if each.within != (0, 0) and self.names.dialect.style == "modules":
                self._imports_within.setdefault(each.alias, []).append(each.within)
        self._site_values: dict[int, Value] = {}
        self._fields: dict[tuple[int, str], tuple[Value, bool]] = {}
        self._looking_up = frozenset(name for names in self.names.catalogue.lookups.values() for name in names)

    # --- names ----------------------------------------------------------------------------

    def variable(self, name: str, at: int) -> Local | None:
        """The local or parameter that `name` means at byte `at`: the innermost one in sight."""
        if self._imports_within and any(start <= at < end for start, end in self._imports_within.get(name, ())):
            return None  # what looks like a variable is the name that an import in a function gave
        known = self.locals.get(name, ())
        before = bisect_right(known, at, key=_start_of) if len(known) > FEW else len(known)
        for index in range(before - 1, -1, -1):  # they stand in order of their starts
            local = known[index]
            if local.start <= at < local.end:
                return local
        return None

    def of_local(self, local: Local, scope: Scope, depth: int = 0) -> Value:
        """The type of a local, inferred from what initialises it where none is written."""
        if local.kind in ("self", "class"):
            return Value(self.names.type_number(local.owner))
        if local.type:
            return self.of_text(local.type, scope)
        if local.site < 0 or depth > DEPTH_LIMIT:
            return NOTHING
        value = self.of_site(local.site, depth + 1)
        if local.kind != "element":
            return value
        if _ARRAY.search(value.text):
            return Value(value.target, value.text.rpartition("[")[0], value.scope)
        return self.argument(value, 0)

    def scope(self, site: Site) -> Scope:
        """The scope of a site."""
        return Scope(self.number, site.type, site.member)

    def chain(self, text: str, site: Site, depth: int = 0) -> Chain:
        """What a dotted chain means at a site: variables shadow types, types shadow packages."""
        parts = text.replace(" ", "").split(".")
        at = site.place.start
        scope = self.scope(site)
        local = self.variable(parts[0], at)
        if local is not None and local.kind == "class":
            return self._below_type(Value(self.names.type_number(local.owner)), parts[1:])._replace(own=True)
        value, used = self._first(parts[0], local, scope, depth)
        follow = parts[1] if len(parts) > 1 else site.name if site.kind == "call" else ""
        if used and not self._is_named_as_its_type(value, parts[0], follow):
            return Chain(UNKNOWN, "", self._walk(value, parts[1:]))
        prefix = self.names.type_prefix(parts, scope.local, scope.member, at)
        if prefix.target == UNKNOWN:
            return Chain(UNKNOWN, "", NOTHING)
        return self._below_type(Value(prefix.target, "", scope), list(prefix.rest))

    def asked(self, site: Site) -> Iterator[tuple[int, str]]:
        """The properties with a body, and those that an interface promises, which a chain of names reads, with the types that
        declare them."""
        parts = site.text.replace(" ", "").split(".")
        if len(parts) < 2 or self.symbols.properties.isdisjoint(parts):
            return
        value, used = self._first(parts[0], self.variable(parts[0], site.place.start), self.scope(site), 0)
        for name in parts[1:] if used else ():
            value, owner, member = self.field(value, name)
            if member is None:
                return
            promised = member.kind in ("property", "field") and owner >= 0 and self.symbols.types[owner].kind == "interface"
            if (member.kind == "property" and member.body != (0, 0)) or (promised and name in self.symbols.properties):
                yield owner, name

    def _below_type(self, base: Value, rest: list[str]) -> Chain:
        if not rest:
            return Chain(base.target, "", base)
        if rest[0] in (self.names.dialect.self_word, self.names.dialect.parent_word):  # Outer.this, Contract.super
            return Chain(UNKNOWN, "", self._walk(Value(base.target), rest[1:]))
        return Chain(base.target, rest[0], self._walk(Value(base.target), rest))

    def _is_named_as_its_type(self, value: Value, name: str, follow: str) -> bool:
        """Whether a variable has its type's own name, and what follows is a static member of that type."""
        if self.names.dialect.style != "namespaces" or value.target < 0 or not follow:
            return False
        if self.symbols.types[value.target].name != name:
            return False
        if self.hierarchy.member_type(value.target, follow) != UNKNOWN:
            return True
        return any(
            member.is_static or member.kind == "constant"
            for each in self.inherited(Value(value.target))
            for _, member in self.symbols.members(each.target).get(follow, ())
        )

    def _first(self, name: str, local: Local | None, scope: Scope, depth: int) -> tuple[Value, bool]:
        """The value that a chain begins with, if it begins with one."""
        dialect = self.names.dialect
        if local is not None:
            return self.of_local(local, scope, depth), True
        if name == dialect.self_word and not dialect.self_parameter:
            return Value(self.names.type_number(max(scope.local, 0))), True
        if name == dialect.parent_word and not dialect.self_parameter:
            bases = self.hierarchy.bases(self.names.type_number(scope.local))
            return (Value(*bases[0], scope) if bases else NOTHING), True
        key = (scope.local, name)
        found = self._fields.get(key)
        if found is None:
            found = self._fields[key] = self._enclosing_field(name, scope.local)
        return found

    def _enclosing_field(self, name: str, index: int) -> tuple[Value, bool]:
        """The field that a bare name means inside a type of the file: its own, inherited, of a type around, imported."""
        if not self.names.dialect.implicit_self:
            return self._module_variable(name)
        while index >= 0:
            value, _, member = self.field(Value(self.names.type_number(index)), name)
            if member is not None:
                return value, True
            index = self.names.facts.types[index].outer
        return self._statically_imported(name)

    def _module_variable(self, name: str) -> tuple[Value, bool]:
        """A variable of this module, or of another one that it is imported from."""
        if not isinstance(self.names, ModuleNames):
            return NOTHING, False
        binding = self.names.bind(name)
        if binding is None or binding.kind != "member":
            return NOTHING, False
        value, _, member = self.field(Value(binding.number), binding.name)
        return value, member is not None

    def _statically_imported(self, name: str) -> tuple[Value, bool]:
        """A field that a static import brings in."""
        owners = [each.name.rpartition(".")[0] for each in self.names.static.get(name, ())]
        owners += [each.name for each in self.names.wildcards if each.static]
        for owner in owners:
            target = self.names.qualified(owner)
            if target >= 0:
                value, _, member = self.field(Value(target), name)
                if member is not None:
                    return value, True
        return NOTHING, False

    # --- sites ----------------------------------------------------------------------------

    def of_site(self, index: int, depth: int = 0) -> Value:
        """The type of the expression that a site is."""
        found = self._site_values.get(index)
        if found is None:
            self._site_values[index] = NOTHING
            found = self._infer(self.sites[index], depth) if depth <= DEPTH_LIMIT else NOTHING
            self._site_values[index] = found
        return found

    def _infer(self, site: Site, depth: int) -> Value:
        scope = self.scope(site)
        if site.kind == "creation":
            if site.anonymous >= 0:
                return Value(self.names.type_number(site.anonymous))
            return self.of_text(site.text, scope)
        if site.kind == "cast":
            return self.of_text(site.text, scope)
        if site.kind in ("name", "value"):
            return self.chain(site.text, site, depth).value
        if site.kind == "access":
            if site.text:
                return self.chain(site.text, site, depth).value
            return self.field(self.of_site(site.receiver, depth + 1), site.name)[0] if site.receiver >= 0 else NOTHING
        if site.kind == "call":
            value, owner, method = self.call(site, depth)
            if method >= 0:
                return self._of_variable(value, owner, method, site)
            return value if value.target != UNKNOWN else self._looked_up(site, depth)
        return NOTHING

    def handed_out(self, text: str) -> str:
        """The type of what a host or a library hands out under the last words of a chain; '' where that is not known."""
        known = self.names.catalogue.handed_out
        if not known or not text:
            return ""
        words = _MARKS.sub("", text).replace("->", ".").split(".")
        return next((known[tail] for at in (-2, -1) if (tail := ".".join(words[at:])) in known), "")

    def _looked_up(self, site: Site, depth: int) -> Value:
        """What a container or locator of the catalogue gives: an object of the class that it is asked for by name."""
        if site.name not in self._looking_up:
            return NOTHING
        lookups, owner = self.names.catalogue.lookups, "functions"
        if site.text or site.receiver >= 0:
            target = self.receiver(site, depth).target
            owner = self.hierarchy.externals.strings[-1 - target] if target < 0 and target != UNKNOWN else ""
            owner = owner if owner in lookups else self.handed_out(site.text)
        if site.name not in lookups.get(owner, ()):
            return NOTHING
        given = typetext.arguments(site.generics) if site.generics else ()
        first = next(iter(typetext.split_top(site.arguments)), "") if site.arguments else ""
        named = _CLASS.fullmatch(first.strip())
        wanted = given[0] if len(given) == 1 else next((each for each in named.groups() if each), "") if named else ""
        return self.of_text(wanted, self.scope(site)) if wanted else NOTHING

    def _of_variable(self, value: Value, owner: int, method: int, site: Site) -> Value:
        """The value of a call; where the method gives back a type variable of its own, what the call says it stands for.

        That is a type argument (`Get<IBook>()`), or a class literal handed in for it (`find(Book.class)`).
        """
        member = self.symbols.types[owner].members[method]
        if not member.generics or value.target >= 0:
            return value
        variables = [name for name, _ in typetext.type_parameters(member.generics)]
        result = typetext.head(member.type)
        if result not in variables:
            return value
        given = typetext.arguments(site.generics) if site.generics else ()
        position = variables.index(result)
        if position < len(given):
            return self.of_text(given[position], self.scope(site))
        for parameter, argument in zip(member.parameters, typetext.split_top(site.arguments), strict=False):
            literal = argument.removesuffix(".class")
            if literal != argument and result in typetext.names(parameter.type):
                return self.of_text(literal, self.scope(site))
        return value

    def receiver(self, site: Site, depth: int = 0) -> Value:
        """The type of what a call is made on."""
        if site.text:
            return self.chain(site.text, site, depth).value
        return self.of_site(site.receiver, depth + 1) if site.receiver >= 0 else NOTHING

    def call(self, site: Site, depth: int = 0) -> tuple[Value, int, int]:
        """What a call gives, the type that declares the method, and the method's index there."""
        arity = len(typetext.split_top(site.arguments)) if site.arguments else 0
        dialect = self.names.dialect
        if dialect.calls_create and (made := self.created_by_call(site)) != UNKNOWN:
            return Value(made), made, -1
        if site.text or site.receiver >= 0:
            return self.method(self.receiver(site, depth), site.name, arity)
        if not dialect.implicit_self:
            return self._function(site, arity)
        index = site.type
        while index >= 0:
            found = self.method(Value(self.names.type_number(index)), site.name, arity)
            if found[2] >= 0:
                return found
            index = self.names.facts.types[index].outer
        for owner in self.static_import_owners(site.name):
            found = self.method(Value(owner), site.name, arity)
            if found[2] >= 0:
                return found
        return NOTHING, UNKNOWN, -1

    def class_in(self, local: Local) -> int:
        """The class that a local is only another name of; UNKNOWN for a local that holds anything else."""
        if local.site < 0 or local.kind or any(each is not local and each.end == local.end for each in self.locals[local.name]):
            return UNKNOWN  # bound more than once: it may hold this or that
        site = self.sites[local.site]
        if site.kind not in ("value", "access", "name") or not site.text or site.text == local.name:
            return UNKNOWN
        chain = self.chain(site.text, site)
        return UNKNOWN if chain.field or (chain.base >= 0 and self.symbols.is_module(chain.base)) else chain.base

    def created_by_call(self, site: Site) -> int:
        """The class that a call creates, where creations are written as calls; UNKNOWN for any other call."""
        if site.receiver >= 0:
            return UNKNOWN
        local = self.variable(site.name, site.place.start) if not site.text else None
        if local is not None and local.kind != "class":
            target = self.class_in(local)
            return target if target >= 0 else UNKNOWN
        chain = self.chain(f"{site.text}.{site.name}" if site.text else site.name, site)
        if chain.base == UNKNOWN or chain.field:
            return UNKNOWN
        if chain.base >= 0:
            return UNKNOWN if self.symbols.is_module(chain.base) else chain.base
        named_as_class = site.name[:1].isupper() and not site.name.isupper()
        known = self.hierarchy.externals.strings[-1 - chain.base] in self.symbols.catalogues.known_types(
            self.names.facts.language
        )
        return chain.base if named_as_class or (known and site.name[:1].isupper()) else UNKNOWN

    def _function(self, site: Site, arity: int) -> tuple[Value, int, int]:
        """A call of a function of this or another module, or of the parent's constructor."""
        if site.name == self.names.dialect.parent_word:
            bases = self.hierarchy.bases(self.names.type_number(site.type))
            return (Value(*bases[0], self.scope(site)) if bases else NOTHING), UNKNOWN, -1
        if self.variable(site.name, site.place.start) is not None or not isinstance(self.names, ModuleNames):
            return NOTHING, UNKNOWN, -1
        binding = self.names.bind_at(site.name, site.place.start)
        if binding is None or binding.kind != "member":
            return NOTHING, UNKNOWN, -1
        return self.method(Value(binding.number), binding.name, arity)

    def static_import_owners(self, name: str) -> list[int]:
        """Types in the tree whose static members this file imports under `name`."""
        owners = [each.name.rpartition(".")[0] for each in self.names.static.get(name, ())]
        owners += [each.name for each in self.names.wildcards if each.static]
        return [target for owner in owners if (target := self.names.qualified(owner)) >= 0]
