"""Rows for the bonds of sites, with what is known of the site; and writes of what is shared."""

from __future__ import annotations

import re

from isodesm.facts import typetext
from isodesm.facts.records import Place, Site
from isodesm.linking.bonds import (
    ANONYMOUS,
    ARGUMENTS,
    AT_SEAM,
    BY_NAME,
    DEFAULTS,
    DEFERRED,
    IN_LOOP,
    INTO_GIVEN,
    RUNTIME,
    SEVERAL,
    STATE,
    WITH_CLOCK,
    WRITE,
)
from isodesm.linking.declaration_links import DeclarationLinks, Use
from isodesm.linking.symbols import simple_name

_WRAPPED = re.compile(r"(?:classmethod|staticmethod)\s*\(")
"""The value of a field that holds a function made static."""
_CLOCK = re.compile(r"(?<![\w\"'])\w*[cC]lock\b(?!\s*\()")
"""A variable that by its name is a clock."""
CREATED_TEXT = 60
"""Characters shown of an expression that stands in the place of a class."""


_GIVEN = re.compile(r"\bfile\s*=\s*(?!sys\.|None\b)\w")
"""An argument that says where to print, other than on the console."""
_RELATIVE = re.compile(r"""\s*['"](?:now|today|tomorrow|yesterday|midnight|noon|[-+]\s*\d|next |last )""")
"""A first argument that means a time only together with the present one, so that it does not fix what is given."""


class SiteRows(DeclarationLinks):
    """What the linker of a file needs to note a bond of a site."""

    def _place(self, place: Place) -> tuple[int, int]:
        return place.line, place.column

    def _add_at(
        self, kind: str | int, target: int, text: str, site: Site, index: int, *, callee: str = "", flags: int = 0
    ) -> None:
        """Note the bond that a site makes, with all that is known of the site."""
        self.add(
            kind,
            target,
            text,
            self._place(site.place),
            (site.type, site.member),
            Use(callee, site.context, flags | self._flags(site) | self._number(callee, site), index),
        )

    def _number(self, callee: str, site: Site) -> int:
        """Whether there are several arguments, where it matters: of APIs that ask the clock unless they are given a time."""
        if "," not in site.arguments or callee not in self.symbols.catalogues.counted(self.facts.language):
            return 0
        return SEVERAL if len(typetext.split_top(site.arguments)) > 1 else 0

    def _flags(self, site: Site) -> int:
        return (
            (IN_LOOP if site.in_loop else 0)
            | (RUNTIME if site.runtime_arguments else 0)
            | (ARGUMENTS if site.arguments and not _RELATIVE.match(site.arguments) else 0)
            | (ANONYMOUS if site.anonymous >= 0 else 0)
            | (AT_SEAM if self._is_default(site) else 0)
            | (DEFERRED if site.context == "deferred-default" else 0)
            | (WITH_CLOCK if _CLOCK.search(site.arguments) else 0)
            | (INTO_GIVEN if _GIVEN.search(site.arguments) else 0)
        )

    def _is_default(self, site: Site) -> bool:
        """Whether a site gives the default of a parameter, be it in the head or the body, or stands among what a constructor is
        handed by another, or by static code of its class: who calls it from outside may hand in something else."""
        if site.context in DEFAULTS:
            return True
        while site.inside >= 0:
            site = self.content.sites[site.inside]
            if site.context in DEFAULTS:
                return True
            if site.kind == "delegation":
                return site.text == self.values.names.dialect.self_word
            if (site.kind == "creation" and self._makes_own(site)) or (site.kind == "call" and self._hands_over(site)):
                return True
        return False

    def _hands_over(self, site: Site) -> bool:
        """Whether a static function does nothing but call one of its own name that takes more: who calls that may hand in
        something else."""
        if site.type < 0 or site.member < 0:
            return False
        own = self.facts.types[site.type]
        member = own.members[site.member]
        others = [each for each in own.members if each.name == member.name and each.kind == "method"]
        plain = member.is_static and member.statements <= 1 and not member.branches and site.text in ("", own.name)
        return plain and site.name == member.name and any(len(each.parameters) > len(member.parameters) for each in others)

    def _makes_own(self, site: Site) -> bool:
        """Whether static code of a class makes an object of it, which others can make as well."""
        if site.type < 0 or site.member < 0:
            return False
        own = self.facts.types[site.type]
        open_to_all = any(member.kind == "constructor" and not member.is_private for member in own.members)
        return own.members[site.member].is_static and site.text == own.name and open_to_all

    def _is_own(self, target: int, site: Site) -> bool:
        """Calls that stay inside a class are no bonds."""
        return self.symbols.named(target) == self.owner(site.type, site.member)[0]

    def _short_name(self, target: int) -> str:
        return simple_name(self.symbols.names[target] if target >= 0 else self.hierarchy.externals.strings[-1 - target])

    def _add_static(self, kind: str, base: int, site: Site, index: int, callee: str) -> None:
        by_name = base < 0 and "." not in self.hierarchy.externals.strings[-1 - base]
        self._add_at(kind, base, self._short_name(base), site, index, callee=callee, flags=BY_NAME if by_name else 0)

    def _link_instance(self, module: int, name: str, site: Site, index: int, text: str) -> None:
        """A variable of another module that holds an object made there: a shared instance of that object's class."""
        if self.symbols.file_of[module] == self.number:
            return
        for position, member in self.symbols.members(module).get(name, ()):
            if member.kind != "field":
                continue
            if (made := self.values.made_class(module, member, position)) >= 0:
                break
            self._add_at(STATE, module, text, site, index, callee=name)
            return
        else:
            return
        self._add_at("static-field", made, text, site, index, callee=name)

    def _link_assignment(self, index: int, site: Site) -> None:
        """Writing what is shared: a static field, a variable of a module, or of the host's global object."""
        first, _, rest = site.text.partition(".")
        names = self.values.names
        if first in names.dialect.global_objects and rest and self.values.variable(first, site.place.start) is None:
            self._add_at(WRITE, self.hierarchy.external("globalThis"), site.text, site, index, callee=rest.partition(".")[0])
        elif rest:
            chain = self.values.chain(site.text, site)
            if chain.base >= 0 and chain.field and rest.rpartition(".")[2] == chain.field:
                self._add_at(WRITE, chain.base, site.text, site, index, callee=chain.field)
        elif first:
            self._link_bare_assignment(first, index, site)

    def _link_bare_assignment(self, name: str, index: int, site: Site) -> None:
        """Writing by a bare name: a static field of an enclosing type, or a variable of this module."""
        names, local = self.values.names, site.type
        declared_global = names.dialect.self_parameter and site.context == "method"  # the statement `global name`
        if not declared_global and self.values.variable(name, site.place.start) is not None:
            return
        while names.dialect.implicit_self and local >= 0:
            own = names.type_number(local)
            found = self.symbols.members(own).get(name, ())
            if found and any(member.kind in ("field", "property") for _, member in found):
                if any(member.is_static for _, member in found):
                    self._add_at(WRITE, own, name, site, index, callee=name)
                return
            local = self.facts.types[local].outer
        if names.dialect.style == "modules" and any(
            m.kind == "field" for _, m in self.symbols.members(self.symbols.first[self.number]).get(name, ())
        ):
            self._add_at(WRITE, self.symbols.first[self.number], name, site, index, callee=name)

    def _link_global(self, index: int, site: Site) -> None:
        """Superglobals and variables of the global scope."""
        self._add_at(
            WRITE if site.name else STATE, self.hierarchy.external(site.text), site.text, site, index, callee=site.text
        )
