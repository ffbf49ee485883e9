"""The catalogued effects of one language, turned for looking up by the kind of use."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Callable

from isodesm.catalogue import Catalogues, shared_catalogue
from isodesm.facts.languages import dialect_of
from isodesm.linking.bonds import KIND_NUMBER

_PROBE = re.compile(shared_catalogue().probes.pattern)
CREATION, CALL, STATIC_FIELD = KIND_NUMBER["creation"], KIND_NUMBER["call"], KIND_NUMBER["static-field"]


class Apis:
    """What the catalogue of a language says of using an external type, or one of the tree that has its name."""

    def __init__(self, catalogues: Catalogues, language: str) -> None:
        self.is_value, catalogue = catalogues.is_value, catalogues.of(language)
        self.by_type: dict[str, dict[str, str]] = defaultdict(dict)
        for effect, types in catalogue.effects.items():
            for name, members in types.items():
                self.by_type[name].update({member: effect for member in members})
        self.cross_cutting = frozenset(catalogue.cross_cutting.members.split())
        self.language = language
        self.timers = frozenset(catalogue.light.timers.split())
        self.drawing = frozenset(catalogue.light.drawing.split())
        self.built_in = catalogue.implicit.package
        self.modular = dialect_of(language).has_module
        """Whether functions stand in modules, so that calling one is what calling a static method is elsewhere."""
        self.given: dict[str, list[tuple[re.Pattern[str], str]]] = defaultdict(list)
        for rule in catalogue.given:
            pattern = re.compile(rule.arguments)
            for member in rule.members.split():
                self.given[member].append((pattern, rule.effect))
        self.calls = {call: effect for effect, calls in catalogue.effect_calls.items() for call in calls}

    def sort(self, target: str, callee: str) -> str:
        """`probe`, `timer` or `drawing` for a use whose effect is felt only on the spot; '' for any other."""
        name = f"{target}.{callee}"
        if name in self.drawing:
            return "drawing"
        return "timer" if name in self.timers else "probe" if _PROBE.search(callee) else ""

    def is_opaque(self, target: str, callee: str) -> bool:
        """Whether effects are not followed into a use, since nobody would stand something else in for it."""
        return self.is_value(target, self.language) or f"{target}.{callee}" in self.cross_cutting

    def by_arguments(self, target: str, callee: str, arguments: Callable[[], str]) -> str | None:
        """The effect that the arguments decide of using an API, '' for none; None where they decide nothing."""
        rules = self.given.get(f"{target}.{callee or 'new'}")
        if not rules:
            return None
        text = arguments()
        return next((effect for pattern, effect in rules if pattern.search(text)), None)

    def effect(self, kind: int, target: str, callee: str, arguments: int) -> str:
        """The effect of using an external type so, with no, one or (2) more arguments; '' for none.

        A member listed as `name/0` has it only without arguments, one listed as `name/1` with one at most.
        """
        members = self.by_type.get(target)
        if kind == CALL and (found := self.calls.get(f"{target}.{callee}", "")):
            return found
        if not members or (kind == CALL and not self.modular):
            return ""
        name = "new" if kind == CREATION else callee
        fewest = (f"{name}/{most}" for most in range(arguments, 2))
        found = members.get(name) or next((members[each] for each in fewest if each in members), "")
        constant = kind == STATIC_FIELD and callee.isupper()  # naming a constant of such an API does nothing
        return found or ("" if constant else members.get("*", ""))
