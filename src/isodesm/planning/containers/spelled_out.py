"""How containers are told in code where no other registration can be followed word for word: in the words of their family.

A class that takes nothing is registered by its name; one whose argument stands where it was created, with that creation.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import TYPE_CHECKING, Any, NamedTuple

from isodesm.inference.resolution import Service
from isodesm.linking.remembering import remembered
from isodesm.planning.analysis.names_in_code import need_of_type
from isodesm.planning.containers.creatable import can_be_made
from isodesm.planning.containers.statements import statement_of
from isodesm.planning.model.abstraction import CONCRETE, Abstraction
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.code import Need
from isodesm.planning.text.insertions import FIELDS

if TYPE_CHECKING:
    from isodesm.planning.analysis.sources import Sources
    from isodesm.planning.model.dependency import DefaultExpression
    from isodesm.planning.model.proposal import Proposal
    from isodesm.planning.state.context import PlanContext

_STRING = re.compile(r"\"[^\"\\\n]*+\"|'[^'\\\n]*+'")
_WORD = re.compile(r"[A-Za-z_$]\w*+")
_PLAIN_WORDS = frozenset("new true false null".split())


class Spelled(NamedTuple):
    """What comes into the file of a registration, and what that names."""

    file: int
    amendment: Amendment
    needs: tuple[Need, ...]


class _Place(NamedTuple):
    """A statement that registers something: what it is called on, how deep it lies, where it ends, and how a line behind it
    begins and ends."""

    service: Service
    file: int
    receiver: str
    depth: int
    end: int
    lead: str
    closing: str


def spelled_out(context: PlanContext, proposal: Proposal, lifetime: str) -> Spelled | None:
    """The statement that registers what a proposal hands in, behind the one of the class that takes it or else the last of the
    container's; None where the family has no words for it, or several files register."""
    abstraction, target = proposal.abstraction, proposal.decision.target
    place = _place_for(context, proposal.decision.source)
    if place is None or abstraction is None:
        return None
    rules = context.codebase.wiring.rules_of(place.service)
    forms = _forms(context, abstraction, target, proposal.wanted.default)
    word = rules.telling_words.get(lifetime, "")
    template = next((rules.telling[each] for each in forms if each in rules.telling), "")
    if not word or not template:
        return None
    given = {
        "receiver": place.receiver,
        "word": word,
        "service": abstraction.name,
        "class": context.symbols.types[target].path,
        "made": proposal.wanted.default.text,
    }
    text = re.sub(r"\{(receiver|word|service|class|made)\}", lambda found: given[found[1]], template)
    text = f"{place.lead}{text.removesuffix(';')}{place.closing}"
    how = f" as `{abstraction.name}`" if abstraction.number != CONCRETE else ", made as its class made it"
    amendment = Amendment(place.end, place.end, FIELDS, text, f"registers `{context.name(target)}`{how}")
    needs = (*abstraction.typed.needs, need_of_type(context.codebase, target), *proposal.wanted.default.needs)
    return Spelled(place.file, amendment, tuple(dict.fromkeys(needs)))


def _forms(context: PlanContext, abstraction: Abstraction, target: int, default: DefaultExpression) -> Iterator[str]:
    """Which forms of a family say what serves: `serves` and `itself` by the name of a class, `made` with code that creates it,
    `forwards` by what is registered as itself."""
    own = abstraction.number == CONCRETE
    if not own and context.codebase.wiring.by_abstraction.get(target):
        yield "forwards"
    if context.codebase.wiring.by_implementation.get(target) or context.state.dependencies_of(target):
        return
    if can_be_made(context, target):
        yield "itself" if own else "serves"
    if is_plain_creation(context, target, default):
        yield "made"


def is_plain_creation(context: PlanContext, target: int, default: DefaultExpression) -> bool:
    """Whether what stands for a dependency creates its class from literals alone, so that any file can write it."""
    if default.creates != target or default.depends or "\n" in default.text:
        return False
    known = _PLAIN_WORDS.union(context.symbols.types[target].path.split("."))
    return known.issuperset(_WORD.findall(_STRING.sub("", default.text)))


def _place_for(context: PlanContext, source: int) -> _Place | None:
    """The statement behind which a class's container is told of more."""
    wiring, language = context.codebase.wiring, context.sources.language(source).name
    families = {each.registration.family for each in wiring.by_implementation.get(source, ())}
    if not families and source in wiring.autowired:
        families = {wiring.autowired[source]}
    places = [
        each for each in _places(context.sources, language) if not families or each.service.registration.family in families
    ]
    own = [each for each in places if each.service.implementation == source]
    if len({each.file for each in places}) != 1 or len(own) > 1:
        return None
    return own[0] if own else min(places, key=lambda each: (each.depth, -each.end))


@remembered
def _places(sources: Sources, language: str) -> list[_Place]:
    """The statements of all registrations by calls in a language whose families know how to be told of more."""
    wiring = sources.codebase.wiring
    told = (each for each in wiring.services if each.registration.how == "call" and not wiring.is_of_test(each))
    return [place for each in told if (place := _place_of(sources, each, language)) is not None]


def _place_of(sources: Sources, service: Service, language: str) -> _Place | None:
    """The statement of a registration, if it is a call that its family knows, on something that can be named again."""
    file = sources.codebase.wiring.file_of(service)
    if file < 0 or sources.symbols.files[file].language != language:
        return None
    rules = sources.codebase.wiring.rules_of(service)
    found = statement_of(sources, service) if rules.telling else None
    if found is None or found[2].type != "expression_statement":
        return None
    _, syntax, node = found
    text, words = syntax.of(node), "|".join(map(re.escape, sorted(rules.calls)))
    called = re.match(rf"([$\w]++(?:(?:\.|->)[$\w]++(?!\s*+[<(]))*+)(?:\.|->)(?:{words})\s*+[<(]", text)
    if called is None:
        return None
    lead = f"{syntax.line_end}{syntax.indent_at(node.start_byte)}"
    return _Place(service, file, called[1], _depth(node), node.end_byte, lead, ";" if text.endswith(";") else "")


def _depth(node: Any) -> int:
    """How deep a node lies: what stands under a condition lies deeper than what always holds."""
    return 0 if node.parent is None else 1 + _depth(node.parent)
