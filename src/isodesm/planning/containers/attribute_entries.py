"""How containers are told that are classes: an attribute that names what is made and how long it lives, and an argument of the
attribute that makes the class which takes it."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, Any, NamedTuple

from isodesm.inference.resolution import Service
from isodesm.planning.analysis.names_in_code import need_of_type
from isodesm.planning.containers.spelled_out import is_plain_creation
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.code import Need
from isodesm.planning.state.injection import dependency_of
from isodesm.planning.text.insertions import FIELDS

if TYPE_CHECKING:
    from isodesm.planning.model.proposal import Proposal
    from isodesm.planning.state.context import PlanContext
    from isodesm.planning.text.syntax import Syntax

_MADE_BY = re.compile(r"(?P<own>\w++)(?:\s*+:[^=]++)?\s*+=\s*+(?P<from>(?:\w++\.)*+)(?P<word>\w++)\(")


class _Attribute(NamedTuple):
    """The attribute by which a container makes a class: its registration, where it stands, and the call in it."""

    service: Service
    file: int
    syntax: Syntax
    node: Any
    call: Any
    prefix: str
    """What the words of the family are asked of, with a dot behind it."""


class AttributeEdit(NamedTuple):
    """What comes into the file of a container, and what that names."""

    file: int
    amendment: Amendment
    needs: tuple[Need, ...] = ()


def _attribute_of(context: PlanContext, number: int) -> _Attribute | None:
    """The one attribute that makes a class and says itself all that it hands in; None for any other class."""
    wiring = context.codebase.wiring
    own = [each for each in wiring.by_implementation.get(number, ()) if each.registration.hands is not None]
    if len(own) != 1 or len(wiring.by_implementation[number]) != 1 or not own[0].registration.id:
        return None
    given, file = own[0].registration, wiring.file_of(own[0])
    syntax = context.sources.syntax(file)
    node = syntax.around(given.line, given.column, ("expression_statement",))
    found = _MADE_BY.match(syntax.of(node)) if node is not None else None
    call = node.named_children[0].child_by_field_name("right") if found is not None else None
    if found is None or not found["from"] or found["own"] != given.id or call is None or call.type != "call":
        return None
    return _Attribute(own[0], file, syntax, node, call, found["from"])


def is_made_by_attribute(context: PlanContext, number: int) -> bool:
    """Whether an attribute of a container makes a class, with what it says and nothing else."""
    return _attribute_of(context, number) is not None


def attribute_files(context: PlanContext, number: int) -> set[int]:
    """The file that such an attribute stands in."""
    own = _attribute_of(context, number)
    return {own.file} if own is not None else set()


def attribute_for(context: PlanContext, proposal: Proposal, lifetime: str) -> tuple[str, AttributeEdit] | None:
    """The attribute that makes what a proposal hands in, and its name; before the one of the class that takes it."""
    target, default = proposal.decision.target, proposal.wanted.default
    own = _attribute_of(context, proposal.decision.source)
    if own is None or context.state.dependencies_of(target) or not is_plain_creation(context, target, default):
        return None
    rules = context.codebase.wiring.rules_of(own.service)
    word = next((each for each, lives in rules.attributes.items() if lives == lifetime), "")
    taken = set(re.findall(r"(?m)^\s+(\w+)\s*(?::[^=\n]+)?=", own.syntax.text.decode("utf-8", "replace")))
    base = dependency_of(context.sources, context.state, proposal.decision, proposal.wanted).name
    name = next(each for each in (base, *(f"{base}_{count}" for count in range(2, len(taken) + 3))) if each not in taken)
    passed = default.text.partition("(")[2].rpartition(")")[0].strip()
    made = f"{context.symbols.types[target].path}{', ' if passed else ''}{passed}"
    text = f"{name} = {own.prefix}{word}({made}){own.syntax.line_end}{own.syntax.indent_at(own.node.start_byte)}"
    at = own.node.start_byte
    said = f"`{name}` makes `{context.name(target)}`, as its class made it"
    edit = AttributeEdit(own.file, Amendment(at, at, FIELDS, text, said), (need_of_type(context.codebase, target),))
    return (name, edit) if word else None


def handed_over(context: PlanContext, number: int, parameter: str, id: str) -> AttributeEdit | None:
    """A further argument of the attribute that makes a class."""
    own = _attribute_of(context, number)
    if own is None:
        return None
    given = own.call.child_by_field_name("arguments").named_children
    if not given:
        return None
    lead = own.syntax.separator(given[-1], own.call)
    said = f"`{own.service.registration.id}` hands in `{id}`"
    at = given[-1].end_byte
    return AttributeEdit(own.file, Amendment(at, at, FIELDS, f"{lead}{parameter}={id}", said))
