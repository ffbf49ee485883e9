"""register-by-convention: many registrations of one pattern give way to a scan or loop over what follows it."""

from __future__ import annotations

from collections import defaultdict

from isodesm.inference.wiring import Service
from isodesm.linking.symbols import simple_name
from isodesm.planning.projection import Projection
from isodesm.planning.steps import Balance, Edit, Step, step_id
from isodesm.planning.workshop import Workshop

NAME = "register-by-convention"
LEAST = 6
"""Registrations of one pattern from which a rule is shorter than the list."""


def plan_conventions(shop: Workshop, state: Projection) -> list[Step]:
    """A step for each file and lifetime in which so many registrations follow one naming pattern."""
    grouped: dict[tuple[str, str, str], list[Service]] = defaultdict(list)
    for service in shop.codebase.wiring.services:
        pattern = _pattern(shop, service)
        if pattern and service.registration.how == "call":
            grouped[service.registration.file, service.registration.lifetime, pattern].append(service)
    return [_step(shop, state, key, group) for key, group in sorted(grouped.items()) if len(group) >= LEAST]


def _pattern(shop: Workshop, service: Service) -> str:
    """The rule that gives the implementation's name from the abstraction's; '' where none does."""
    if service.abstraction < 0 or service.implementation < 0 or service.registration.arguments:
        return ""
    abstraction, implementation = (shop.name(each) for each in (service.abstraction, service.implementation))
    if abstraction == f"I{implementation}":
        return "I + name"
    if implementation == f"{abstraction}Impl":
        return "name + Impl"
    return "prefix + name" if implementation.endswith(abstraction) and implementation != abstraction else ""


def _step(shop: Workshop, state: Projection, key: tuple[str, str, str], group: list[Service]) -> Step:
    file, lifetime, pattern = key
    measures = state.measures(group[0].implementation)
    names = ", ".join(simple_name(each.registration.abstraction) for each in group[:4])
    return Step(
        number=0,
        id=step_id(NAME, file, lifetime, pattern),
        technique=NAME,
        title=f"Register {len(group)} services of one pattern by a rule",
        classes=tuple(shop.symbols.names[each.implementation] for each in group),
        layer=shop.codebase.layers.name(group[0].implementation),
        why_now=f"{len(group)} registrations ({names} …) follow `{pattern}` with lifetime {lifetime or 'unsaid'}: a "
        f"scan or loop can't forget one.",
        edits=tuple(
            Edit(
                each.registration.file,
                each.registration.line,
                f"`{simple_name(each.registration.abstraction)}` is found by the rule",
                by_hand=True,
            )
            for each in group
        ),
        code=(),
        frees=(),
        hazards=("how this container is told a rule is not in the catalogue: this step has no code",),
        check="`isodesm wiring` shows the same registrations.",
        balance=Balance((), ()),
        before=measures,
        after=measures,
    )
