"""One would-be finding with everything that may decide about it, looked up once."""

from __future__ import annotations

import re
from typing import Any, Protocol

from isodesm.catalogue import Catalogue
from isodesm.codebase.model import Codebase
from isodesm.diagnosis.hard_bonds.usage import Usage, lazy
from isodesm.facts import typetext
from isodesm.facts.records import DeclaredType, FileFacts, Member, Site
from isodesm.inference.effect_kinds import EFFECTS, GRAVE
from isodesm.linking.bonds import CONTEXTS, KINDS
from isodesm.linking.symbols import simple_name

_FALLBACK = re.compile(
    r"(?<![\w$])(\$?\w++)(?:(?:\.|\?\.|->|\[)[\w.'\"\]]++)*+\s*+"
    r"(?:\?\?|\|\||\bor\b|\?:|(?:!==?|===?|is(?: not)?)\s*+(?:null|None|undefined)\s*+\?[^?;:]*+:)\s*+\(?\s*+$"
)
"""What stands before a value that is taken where a name has none."""


class KnownEffects(Protocol):
    """What judging asks of effects: of those of the codebase, or as they would be after steps."""

    @property
    def used(self) -> Any:
        """Type to its uses of APIs, by `get`."""

    def through(self, source: int, target: int) -> tuple[str, ...]:
        """Effects that come with a target in the hands of a source."""

    def near(self, node: tuple[int, int]) -> tuple[str, ...]:
        """Effects that a call of a member brings at once."""

    def of_node(self, node: tuple[int, int]) -> tuple[str, ...]:
        """Effects of a member."""

    def of_type(self, number: int) -> tuple[str, ...]:
        """Effects of a class."""

    def is_cross_cutting(self, number: int) -> bool:
        """Whether a type is a logger or the like."""

    def chain(self, node: tuple[int, int], effect: str) -> tuple[str, ...]:
        """The way to an effect, over which classes."""

    def chain_through(self, source: int, target: int, effect: str) -> tuple[str, ...]:
        """The same for one that comes with a target."""


class Case:
    """A bond that has the shape of a hard one. Attributes are looked up when first asked for."""

    def __init__(self, codebase: Codebase, usage: Usage, row: int, known: KnownEffects | None = None) -> None:
        """`known` answers what effects there are: those of the codebase, or as they would be."""
        self.codebase, self.usage, self.row = codebase, usage, row
        self.known: KnownEffects = known or codebase.effects
        self.symbols, self.roles, table = codebase.symbols, codebase.roles, codebase.bonds
        self.kind = KINDS[table.kind[row]]
        self.source, self.target = table.source[row], table.target[row]
        self.file, self.line, self.column = table.file[row], table.line[row], table.column[row]
        self.source_member, self.flags = table.source_member[row], table.flags[row]
        self.callee = table.text_of("callee", row)
        self.text = table.text_of("text", row)

    @property
    def external(self) -> bool:
        return self.target < 0

    @property
    def facts(self) -> FileFacts:
        return self.symbols.files[self.file]

    @property
    def catalogue(self) -> Catalogue:
        return self.symbols.catalogues.of(self.facts.language)

    @property
    def source_type(self) -> DeclaredType:
        return self.symbols.types[self.source]

    @property
    def target_type(self) -> DeclaredType:
        return self.symbols.types[self.target]

    @property
    def member(self) -> Member | None:
        """The member of the source that the bond is in; None for its head."""
        return self.source_type.members[self.source_member] if self.source_member >= 0 else None

    @property
    def source_role(self) -> str:
        return self.roles.name(self.source)

    @lazy
    def target_role(self) -> str:
        return "" if self.external else self.roles.name(self.target)

    @lazy
    def target_name(self) -> str:
        return self.codebase.target_name(self.target)

    @lazy
    def site(self) -> Site:
        return self.codebase.content(self.file).sites[self.codebase.bonds.site[self.row]]

    @lazy
    def enclosing(self) -> Site | None:
        """The call, creation, delegation or assignment that the site stands inside of."""
        return self.codebase.content(self.file).sites[self.site.inside] if self.site.inside >= 0 else None

    @property
    def is_static(self) -> bool:
        """Whether a member is used without an object: a static one, or a function of a module."""
        return self.kind in ("static-call", "static-field") or (
            self.kind == "call" and not self.external and self.symbols.is_module(self.target)
        )

    @property
    def context(self) -> str:
        """Where the bond is, as `CONTEXTS` has it."""
        return CONTEXTS[self.codebase.bonds.context[self.row]]

    @property
    def is_built_in(self) -> bool:
        """Whether the target is no type, but the place of functions that need no import."""
        return self.external and self.target_name == self.catalogue.implicit.package

    @lazy
    def direct_effect(self) -> str:
        """The effect of the API that the bond itself uses, '' for none."""
        uses = self.known.used.get(self.source, ())
        return next((use.effect for use in uses if use.row == self.row), "")

    @lazy
    def sort(self) -> str:
        """`probe`, `timer` or `drawing` where the API that the bond uses is felt only on the spot."""
        return next((use.sort for use in self.known.used.get(self.source, ()) if use.row == self.row), "")

    @lazy
    def nodes(self) -> tuple[tuple[int, int], ...]:
        """The members that a static use means."""
        return () if self.external else self.usage.meant(self.target, self.callee)

    @lazy
    def is_named_constructor(self) -> bool:
        """Whether a static member makes an object of its own class: a creation by another name."""
        makes = self.kind == "static-call" and not self.external
        return makes and self.usage.is_named_constructor(self.target, self.callee)

    @lazy
    def effects(self) -> tuple[str, ...]:
        """Locked effects that come with the target."""
        if self.direct_effect:
            return (self.direct_effect,)
        if self.external:
            return ()
        if self.is_static:
            own = {*self._effects_of_callee(), *self._effects_of_shared(), *self._effects_of_chosen()}
            return tuple(effect for effect in EFFECTS if effect in own)
        return self.known.through(self.source, self.target)

    def _effects_of_callee(self) -> tuple[str, ...]:
        return tuple(effect for node in self.nodes for effect in self.known.near(node))

    def _effects_of_shared(self) -> tuple[str, ...]:
        """Effects of the methods that the source calls on what a static accessor or field hands out."""
        return self.known.through(self.source, self.shared_type) if self.shared_type >= 0 else ()

    def _effects_of_chosen(self) -> tuple[str, ...]:
        """The same of what a static member makes, one of several classes by its own choice, and hands out as their base."""
        return tuple(effect for made in self.chosen for effect in self.known.through(self.source, made))

    @lazy
    def chosen(self) -> tuple[int, ...]:
        """The classes of which a static member makes one by its own choice, to hand it out as their base."""
        return () if self.external or not self.is_static else self.codebase.effects.chosen(self.target, self.callee)

    @lazy
    def shared_type(self) -> int:
        """The type of the object that a static member hands out, where it is declared in the tree; else -1."""
        return self.usage.shared_type(self.target, self.callee, self.facts.language, self.kind == "static-field")

    def is_module_instance(self) -> bool:
        """Whether what is read is no member of the target, but a variable of a module that holds an object of it."""
        return self.kind == "static-field" and self.usage.is_module_instance(self.target, self.callee)

    @property
    def grave_effects(self) -> frozenset[str]:
        """Effects that keep a test from running or make its result uncertain."""
        return GRAVE.intersection(self.effects)

    @lazy
    def chain(self) -> tuple[str, ...]:
        """The shortest chain from the source to the first of the effects."""
        if not self.effects:
            return ()
        own, effect = self.source_type.name, self.effects[0]
        if self.direct_effect:
            name = simple_name(self.target_name)
            called = self.callee if self.is_built_in else f"{name}.{self.callee}"
            return (own, name if self.kind == "creation" else called)
        effects = self.known
        if self.is_static:
            for each in self.roles.ancestors(self.target):
                for index, _ in self.symbols.members(each).get(self.callee, ()):
                    if chain := effects.chain((each, index), effect):
                        return (own, *chain)
            through = next((each for each in self.chosen if effect in effects.through(self.source, each)), self.shared_type)
            return (own, *effects.chain_through(self.source, through, effect))
        return (own, *effects.chain_through(self.source, self.target, effect))

    @lazy
    def crossing(self) -> str:
        """`inner→outer` where the bond points to an outer layer."""
        return "" if self.external else self.codebase.layers.crossing(self.source, self.target)

    @property
    def other_implementations(self) -> tuple[int, ...]:
        """Production types that implement an abstraction which the target implements too."""
        return () if self.external else self.roles.other_implementations(self.target)

    @lazy
    def collaborators(self) -> tuple[str, ...]:
        """Simple names of the service-like types that the target works with."""
        return self.roles.collaborators(self.target)

    @lazy
    def is_returned(self) -> bool:
        """Whether the site is what a `return` hands out."""
        before = self.codebase.text(self.file)[max(self.site.place.start - 60, 0) : self.site.place.start]
        return re.search(rb"(?:\breturn|->)\s*\(?\s*$", before) is not None

    @lazy
    def is_fallback(self) -> bool:
        """Whether the site only stands in for a parameter that was left out: `given ?? new X()`, `given or X()`."""
        if self.member is None or not self.member.parameters:
            return False
        before = self.codebase.text(self.file)[max(self.site.place.start - 160, 0) : self.site.place.start]
        found = _FALLBACK.search(before.decode("utf-8", "replace"))
        return found is not None and found.group(1).lstrip("$") in {each.name.lstrip("$") for each in self.member.parameters}

    @lazy
    def is_passed_on(self) -> bool:
        """Whether the member does nothing but hand out what the site gives, as that of a clock of one's own does."""
        member = self.member
        if member is not None and member.kind == "method" and member.statements <= 1 and not member.branches:
            text, place = self.codebase.text(self.file), self.site.place
            if not (text[member.body[0] : place.start] + text[place.end : member.body[1]]).strip(b"{}; \t\r\n"):
                return True
        behind = self.codebase.text(self.file)[self.site.place.end : self.site.place.end + 60].lstrip()
        return self.is_returned and (not behind or behind[:1] in (b";", b"}", b"."))

    @lazy
    def targets_own_kind(self) -> bool:
        """Whether the target is the source itself, a type around it, or one that it extends or is extended by."""
        if self.external:
            return False
        around = [self.source]
        while (outer := self.symbols.outer(around[-1])) >= 0:
            around.append(outer)
        return any(self.target in self.roles.ancestors(each) for each in around) or self.source in self.roles.ancestors(
            self.target
        )

    def returns_base_of_target(self) -> bool:
        """Whether the member's return type is the target's type or one of its bases."""
        if self.member is None or not self.member.type:
            return False
        bases = [self.symbols.types[each].name for each in self.roles.ancestors(self.target)] if not self.external else []
        bases += [simple_name(base) for base in self.roles.external_bases.get(self.target, ())]
        return simple_name(typetext.head(self.member.type)) in (*bases, simple_name(self.target_name))
