"""Bonds of sites: creations, calls, static members, shared instances, casts, annotations."""

from __future__ import annotations

import re
from collections.abc import Callable

from isodesm.facts import typetext
from isodesm.facts.records import DeclaredType, Site
from isodesm.linking.bonds import ASKED, OWN_CALL, STATE, UNKNOWN
from isodesm.linking.declaration_links import Use
from isodesm.linking.member_values import Value
from isodesm.linking.naming.module_names import ModuleNames
from isodesm.linking.site_rows import SiteRows
from isodesm.linking.symbols import simple_name

_WRAPPED = re.compile(r"(?:classmethod|staticmethod)\s*\(")
"""The value of a field that holds a function made static."""
_CLOCK = re.compile(r"(?<![\w\"'])\w*[cC]lock\b(?!\s*\()")
"""A variable that by its name is a clock."""
CREATED_TEXT = 60
"""Characters shown of an expression that stands in the place of a class."""


class FileLinker(SiteRows):
    """Adds the bonds of one file to a table."""

    def link(self) -> None:
        """Find all bonds of the file and append them in order of place and kind."""
        for index, declared in enumerate(self.facts.types):
            self._link_declaration(index, declared)
        for index, site in enumerate(self.content.sites):
            if linker := _LINKERS.get(site.kind):
                linker(self, index, site)
        for local in self.content.locals:
            if local.line and local.type:
                self._link_local(local)
        self.rows.sort(key=_place_order)
        self.table.add_all(self.rows)

    def _link_creation(self, index: int, site: Site) -> None:
        name = typetext.head(site.text)
        target = self._created_member_type(site, name)
        if target == UNKNOWN:
            target = self._created(site, name)
        self._add_at("creation", target, name or site.text, site, index)
        for inner in typetext.names(site.text)[1:]:
            self.add(
                "generic",
                self.values.names.resolve(inner, site.type, site.member),
                inner,
                self._place(site.place),
                (site.type, site.member),
            )

    def _created(self, site: Site, name: str) -> int:
        """The class that a creation names; what names none, like a type parameter or a variable, stands for itself."""
        names = self.values.names
        if not site.text:
            return self._expected(site)
        if names.dialect.style == "modules" and name:
            if name in names.dialect.primitives:
                return self.values.chain(name, site).base if name == "this" else UNKNOWN
            local = self.values.variable(name.partition(".")[0], site.place.start)
            chain = self.values.chain(name, site)
            if local is None and chain.base != UNKNOWN and not chain.field:
                return chain.base
            alias = self.values.class_in(local) if local is not None and "." not in name else UNKNOWN
            return alias if alias != UNKNOWN else self.hierarchy.external(name)
        target = names.resolve_type(site.text, site.type, site.member) if name and not name.startswith("$") else UNKNOWN
        if target >= 0 and self.symbols.types[target].kind == "trait":
            target = UNKNOWN  # `new self()` in a trait makes an object of whoever uses it
        return target if target != UNKNOWN else self.hierarchy.external(name or typetext.squeeze(site.text)[:CREATED_TEXT])

    def _expected(self, site: Site) -> int:
        """The type that is created where only the place says which: that of what is assigned, or of the member."""
        enclosing = self.content.sites[site.inside] if site.inside >= 0 else None
        found = UNKNOWN
        if enclosing is not None and enclosing.kind == "assignment" and enclosing.text:
            found = self.values.chain(enclosing.text, enclosing).value.target
        elif enclosing is None and site.member >= 0:
            member = self.facts.types[site.type].members[site.member]
            found = self.values.of_text(member.type, self.values.scope(site)).target if member.type else UNKNOWN
        return found if found != UNKNOWN else self.hierarchy.external("new()")

    def _created_member_type(self, site: Site, name: str) -> int:
        """For `outer.new Inner()`, the member type of what stands before the dot."""
        if site.receiver < 0 and not site.name.startswith("."):
            return UNKNOWN
        outer = self.values.chain(site.name[1:], site).value if site.receiver < 0 else self.values.of_site(site.receiver)
        return self.hierarchy.member_type(outer.target, name) if outer.target >= 0 else UNKNOWN

    def _link_call(self, index: int, site: Site) -> None:
        values = self.values
        for name in typetext.names(site.generics) if site.generics else ():
            self.add(
                "generic",
                values.names.resolve(name, site.type, site.member),
                name,
                self._place(site.place),
                (site.type, site.member),
                Use(context=site.context, site=index),
            )
        if values.names.dialect.calls_create and (made := values.created_by_call(site)) != UNKNOWN:
            local = values.variable(site.name, site.place.start) if not site.text else None
            if local is not None and local.kind == "class":
                return  # `cls()` names no class
            self._add_at("creation", made, self._written(site), site, index)
            return
        if site.text:
            chain = values.chain(site.text, site)
            if chain.base != UNKNOWN and not chain.field:
                if chain.base >= 0 and self.symbols.is_module(chain.base):
                    self._link_instance(chain.base, site.name, site, index, site.name)
                if self._is_invoked_field(chain.base, site):
                    self._add_static("static-field", chain.base, site, index, callee=site.name)
                elif chain.own:
                    self._add_call(chain.base, site, index)
                elif self._is_static_call(chain.base, site):
                    owner = self._known_owner(
                        chain.base, site.text, lambda: values.method(Value(chain.base), site.name, -1)[2] >= 0
                    )
                    self._add_static("static-call", owner, site, index, callee=site.name)
                else:
                    self._add_call(chain.base, site, index)
                return
            target = chain.value.target
        elif site.receiver >= 0:
            target = values.of_site(site.receiver).target
        else:
            target = self._unqualified_target(site)
        if target == UNKNOWN and (known := values.handed_out(site.text) or values.names.catalogue.unmistakable.get(site.name)):
            target = self.hierarchy.external(known)
        if target != UNKNOWN:
            self._add_call(target, site, index)

    def _is_invoked_field(self, base: int, site: Site) -> bool:
        """Whether a call runs what a static field or event holds."""
        dialect = self.values.names.dialect
        if base < 0 or not (dialect.partial_types or dialect.calls_create) or self.symbols.is_module(base):
            return False
        if self.values.method(Value(base), site.name, -1)[2] >= 0:
            return False
        member = self.values.field(Value(base), site.name)[2]
        return member is not None and (member.is_static or dialect.partial_types) and not _WRAPPED.match(member.value)

    def _known_owner(self, base: int, word: str, known: Callable[[], bool]) -> int:
        """The type that a static member is used of; in a trait, what the trait does not declare is of whoever uses it."""
        in_trait = base >= 0 and self.symbols.types[base].kind == "trait"
        return self.hierarchy.external(word) if in_trait and not known() else base

    def _written(self, site: Site) -> str:
        """What is called, as written."""
        return f"{site.text}.{site.name}" if site.text else site.name

    def _add_call(self, target: int, site: Site, index: int) -> None:
        own = target >= 0 and self._is_own(target, site)
        self._add_at(OWN_CALL if own else "call", target, self._short_name(target), site, index, callee=site.name)

    def _is_static_call(self, base: int, site: Site) -> bool:
        """Whether a call on a type is one of a static member: functions of modules, and the parent's methods, are not."""
        dialect = self.values.names.dialect
        if base < 0:
            own = dialect.parent_type and site.text.lower() == dialect.parent_type
            return not own and (dialect.style != "modules" or self._short_name(base)[:1].isupper())
        if self.symbols.is_module(base):
            return False
        if dialect.style == "packages":
            return True
        _, owner, method = self.values.method(Value(base), site.name, -1)
        if method < 0 and dialect.style == "modules":
            _, _, member = self.values.field(Value(base), site.name)
            return member is not None and member.is_static and (not dialect.calls_create or bool(_WRAPPED.match(member.value)))
        if method >= 0 and not self.symbols.types[owner].members[method].is_static:
            return dialect.style == "namespaces" and not (
                base == self.values.names.type_number(site.type) or self._inherits(site.type, base)
            )
        return method >= 0 or dialect.style == "namespaces" and site.text.lower() != dialect.parent_type

    def _inherits(self, local: int, base: int) -> bool:
        own = self.values.names.type_number(local)
        return base != own and base in self.hierarchy.ancestors(own)

    def _unqualified_target(self, site: Site) -> int:
        """The type of another file's method that a static import or a base class brings in; UNKNOWN for an own one."""
        _, owner, method = self.values.call(site)
        if method >= 0:
            return owner
        names = self.values.names
        if names.dialect.implicit_self or self.values.variable(site.name, site.place.start) is not None:
            return UNKNOWN
        if names.dialect.style == "modules":
            prefix = names.type_prefix([site.name], site.type, site.member, site.place.start)
            if prefix.target != UNKNOWN:
                return self._module_of(prefix.target) if prefix.target < 0 else UNKNOWN
        return self.hierarchy.external(names.catalogue.implicit.package) if self._is_built_in(site.name) else UNKNOWN

    def _module_of(self, target: int) -> int:
        """The module, outside the tree, that a function was imported from by name."""
        owner = self.hierarchy.externals.strings[-1 - target]
        owner = owner[: len(owner) - len(simple_name(owner))].rstrip(".#")
        return self.hierarchy.external(owner) if owner else UNKNOWN

    def _is_built_in(self, name: str) -> bool:
        """Whether a function that needs no import is one that the catalogue knows."""
        name = name.lower() if self.values.names.dialect.ignores_case else name
        return name in self.symbols.catalogues.built_in_functions(self.facts.language)

    def _link_access(self, index: int, site: Site) -> None:
        if not site.text:
            return
        self._link_asked(index, site)
        chain = self.values.chain(site.text, site)
        first, _, rest = site.text.partition(".")
        if chain.base == UNKNOWN and rest and first in self.values.names.dialect.global_objects:
            self._add_at(STATE, self.hierarchy.external("globalThis"), site.text, site, index, callee=rest.partition(".")[0])
        if chain.base == UNKNOWN or chain.own:
            return
        if not chain.field:
            self._link_outside_access(chain.base, site, index)
        elif chain.base >= 0 and self.symbols.is_module(chain.base):
            self._link_instance(chain.base, chain.field, site, index, chain.field)
        elif self._is_field(chain.base, chain.field):
            word = site.text.partition(".")[0]
            owner = self._known_owner(
                chain.base, word, lambda: self.values.field(Value(chain.base), chain.field)[2] is not None
            )
            self._add_static("static-field", owner, site, index, callee=chain.field)

    def _link_asked(self, index: int, site: Site) -> None:
        """The properties of the tree that a chain of names reads: what their bodies do is done here."""
        for owner, name in self.values.asked(site):
            kind = OWN_CALL if self._is_own(owner, site) else ASKED
            self._add_at(kind, owner, self._short_name(owner), site, index, callee=name)

    def _link_outside_access(self, base: int, site: Site, index: int) -> None:
        """`module.name` of a module outside the tree: all of it was taken for the name of something in that module."""
        if base >= 0 or self.values.names.dialect.style != "modules":
            return
        name = self.hierarchy.externals.strings[-1 - base]
        callee = simple_name(name)
        owner = name[: len(name) - len(callee) - 1]
        if owner and "." in site.text:
            self._add_static("static-field", self.hierarchy.external(owner), site, index, callee=callee)

    def _link_name(self, index: int, site: Site) -> None:
        """A bare name that an import brought in: of interest where it is an object that another module made."""
        names = self.values.names
        if not isinstance(names, ModuleNames) or self.values.variable(site.text, site.place.start) is not None:
            return
        binding = names.bind_at(site.text, site.place.start)
        if binding is not None and binding.kind == "member":
            self._link_instance(binding.number, binding.name, site, index, site.text)

    def _is_field(self, base: int, name: str) -> bool:
        """Whether a type has the field; of one outside the tree nothing better can be said than yes.

        Naming a constant of an enum that only lists values is no use of a shared instance, so it is no bond of this kind.
        """
        if base < 0:
            return True
        _, _, member = self.values.field(Value(base), name)
        if member is None:
            methods = [m for each in self.hierarchy.ancestors(base) for _, m in self.symbols.members(each).get(name, ())]
            if methods:
                return any(each.is_static and "held" in each.modifiers.words for each in methods)
            dialect = self.values.names.dialect  # where a static field is marked by its sign, it need not be known
            return dialect.ignores_case or (self.hierarchy.has_external_base(base) and dialect.style == "packages")
        if not member.is_static and self.values.names.dialect.has_module:
            return False
        return member.kind != "constant" or is_enum_singleton(self.symbols.types[base])

    def _link_reference(self, index: int, site: Site) -> None:
        if not site.text:
            return
        chain = self.values.chain(site.text, site)
        target = chain.base if chain.base != UNKNOWN and not chain.field else chain.value.target
        if target != UNKNOWN and not (target >= 0 and self._is_own(target, site)):
            self._add_at("call", target, self._short_name(target), site, index, callee=site.name)

    def _link_named(self, index: int, site: Site) -> None:
        """Casts, type tests, class literals and annotations name their type."""
        kind = "annotation" if site.kind == "annotation" else "cast"
        for position, name in enumerate(typetext.names(site.text)):
            target = self.values.names.resolve(name, site.type, site.member)
            self.add(
                "generic" if position else kind,
                target,
                name,
                self._place(site.place),
                (site.type, site.member),
                Use(context=site.context, site=index),
            )


def _place_order(row: tuple[int, ...]) -> tuple[int, int, int]:
    return row[5], row[6], row[3]  # line, column, kind


_LINKERS: dict[str, Callable[[FileLinker, int, Site], None]] = {
    "creation": FileLinker._link_creation,
    "call": FileLinker._link_call,
    "access": FileLinker._link_access,
    "name": FileLinker._link_name,
    "assignment": FileLinker._link_assignment,
    "global": FileLinker._link_global,
    "reference": FileLinker._link_reference,
    "cast": FileLinker._link_named,
    "test": FileLinker._link_named,
    "literal": FileLinker._link_named,
    "annotation": FileLinker._link_named,
}


def is_enum_singleton(declared: DeclaredType) -> bool:
    """Whether an enum serves as a single shared instance: one constant, and behaviour of its own."""
    kinds = [member.kind for member in declared.members]
    return kinds.count("constant") == 1 and "method" in kinds
