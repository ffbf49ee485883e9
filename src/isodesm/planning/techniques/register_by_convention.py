"""register-by-convention: many registrations of one pattern give way to a loop or a folder that finds what follows it.

A rule is only written where the container then shows the very same registrations: the tree is read again with it, in memory.
"""

from __future__ import annotations

import posixpath
import re
from collections import defaultdict
from collections.abc import Iterator
from typing import NamedTuple

from isodesm.codebase.edited import edited
from isodesm.facts.definitions import SUFFIXES, Definition, read_definitions
from isodesm.inference.resolution import Service
from isodesm.linking.symbols import simple_name
from isodesm.planning.analysis.homes import unit_of
from isodesm.planning.containers.statements import statement_at
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.refusal import Reason, Refusal
from isodesm.planning.model.step import Edit, PlannedStep, TechniqueName, step_id
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.recorder import Changes, record
from isodesm.planning.text.amendments import amended
from isodesm.planning.text.definition_edits import Insertion, with_folder
from isodesm.planning.text.insertions import FIELDS
from isodesm.planning.wording import steps as wording
from isodesm.planning.wording.reasons import sentence

NAME = TechniqueName.REGISTER_BY_CONVENTION
LEAST = 6
"""Registrations of one pattern from which a rule is shorter than the list."""
_LAST_WORD = re.compile(r"[A-Z][a-z0-9]+$")


class Convention(NamedTuple):
    """Registrations of one file and lifetime that follow one naming pattern."""

    file: str
    lifetime: str
    pattern: str
    services: list[Service]


def conventions(context: PlanContext) -> list[Convention]:
    """Those with enough registrations for a rule."""
    grouped: dict[tuple[str, str, str], list[Service]] = defaultdict(list)
    for service in context.codebase.wiring.services:
        given = service.registration
        pattern = _pattern(context, service) if given.how == "call" else _folder(context, service)
        if pattern:
            grouped[given.file, given.lifetime, pattern].append(service)
    return [Convention(*key, group) for key, group in sorted(grouped.items()) if len(group) >= LEAST]


def convention_id(context: PlanContext, given: Convention) -> str:
    """The id of the step that writes a rule."""
    return step_id(NAME, given.file, given.lifetime, given.pattern)


def _pattern(context: PlanContext, service: Service) -> str:
    """The rule that gives the implementation's name from the abstraction's; '' where none does."""
    if service.abstraction < 0 or service.implementation < 0 or service.registration.arguments:
        return ""
    abstraction, implementation = (context.name(each) for each in (service.abstraction, service.implementation))
    if abstraction == f"I{implementation}":
        return "I + name"
    if implementation == f"{abstraction}Impl":
        return "name + Impl"
    return "prefix + name" if implementation.endswith(abstraction) and implementation != abstraction else ""


def _folder(context: PlanContext, service: Service) -> str:
    """The folder of a class that a definition file makes with nothing said but its name; '' for any other."""
    given = context.codebase.wiring.by_id.get(service.registration.id) if service.registration.how == "definition" else None
    if given is None or service.implementation < 0 or not given.path.endswith(SUFFIXES):
        return ""
    plain = given == Definition(
        given.id, given.path, given.line, given.column, type=given.type, autowired=given.autowired, public=given.public
    )
    plain = plain and given.type.lstrip("\\") == given.id.lstrip("\\") == context.symbols.names[service.implementation]
    return f"classes of {posixpath.dirname(context.sources.path(service.implementation))}" if plain else ""


def plan_convention(context: PlanContext, given: Convention) -> PlannedStep:
    """The step that writes a rule, or says why a person has to."""
    group = given.services
    names = [simple_name(each.registration.abstraction) for each in group[:4]]
    rule = _written(context, group)
    missing = sentence(rule) if isinstance(rule, Refusal) else ""
    return PlannedStep(
        technique=NAME,
        id=convention_id(context, given),
        about=group[0].implementation,
        classes=tuple(each.implementation for each in group),
        text=wording.registered_by_rule(names, len(group), given.pattern, given.lifetime, missing),
        edits=tuple(_by_hand(group) if isinstance(rule, Refusal) else rule.edits or _by_hand(group)),
        code=() if isinstance(rule, Refusal) else tuple(rule.code),
    )


def _by_hand(group: list[Service]) -> Iterator[Edit]:
    for each in group:
        said = f"`{simple_name(each.registration.abstraction)}` is found by the rule"
        yield Edit(each.registration.file, each.registration.line, said, by_hand=True)


def _written(context: PlanContext, group: list[Service]) -> Changes | Refusal:
    """What a rule changes; else why there is none."""
    if group[0].registration.how == "definition":
        return _as_folder(context, group)
    file = context.codebase.wiring.file_numbers[group[0].registration.file]
    found = _loop(context, file, group)
    if found is None:
        return Refusal(Reason.NO_RULE_KNOWN)
    path, text = context.symbols.files[file].path, context.codebase.text(file)
    if not _shows_the_same(context, path, amended(text, found)):
        return Refusal(Reason.RULE_FINDS_OTHERS)
    return record(context, [file], lambda: context.edit(file, *found))


def _shows_the_same(context: PlanContext, path: str, content: bytes) -> bool:
    """Whether the tree with another content of one file registers what it does now."""
    after = edited(context.codebase, {path: content})
    found = [
        sorted(
            {
                (each.registration.abstraction, each.registration.implementation, each.registration.lifetime)
                for each in codebase.wiring.services
            }
        )
        for codebase in (context.codebase, after)
    ]
    return found[0] == found[1]


# --- a loop in code ------------------------------------------------------------------------


def _loop(context: PlanContext, file: int, group: list[Service]) -> list[Amendment] | None:
    """The loop in the place of the first statement, and the others gone; None where the container has no idiom for it."""
    rules = context.symbols.catalogues.of(context.symbols.files[file].language).containers.get(group[0].registration.family)
    suffixes = {found[0] for each in group if (found := _LAST_WORD.search(context.name(each.implementation)))}
    parts = {unit_of(context.sources, number) for each in group for number in (each.implementation, each.abstraction)}
    if rules is None or not rules.convention or len(suffixes) != 1 or len(parts) != 1:
        return None
    syntax = context.sources.syntax(file)
    statements = [statement_at(syntax, each.registration.line, each.registration.column) for each in group]
    texts = [syntax.of(each) if each is not None else "" for each in statements]
    heads = {(found[1], found[2]) for text in texts if (found := re.match(r"([\w.]+)\.(\w+)\s*<[^()]*>\s*\(\s*\)\s*;$", text))}
    if len(heads) != 1 or len({each.start_byte for each in statements if each is not None}) != len(group):
        return None
    receiver, call = heads.pop()
    words = {"anchor": context.name(group[0].implementation), "receiver": receiver, "call": call, "suffix": suffixes.pop()}
    text = re.sub(r"\{(anchor|receiver|call|suffix)\}", lambda found: words[found[1]], rules.convention.strip())
    margin = syntax.indent_at(statements[0].start_byte)
    text = f"{syntax.line_end}".join(f"{margin}{line}" if line else "" for line in text.split("\n")).lstrip()
    said = f"a loop over all classes that end in `{words['suffix']}`"
    edits = [Amendment(statements[0].start_byte, statements[0].end_byte, FIELDS, text, said)]
    for each, service in zip(statements[1:], group[1:], strict=True):
        start = syntax.text.rfind(b"\n", 0, each.start_byte) + 1
        end = syntax.text.find(b"\n", each.end_byte) + 1 or len(syntax.text)
        whole = not syntax.text[start : each.start_byte].strip() and not syntax.text[each.end_byte : end].strip()
        said = f"`{simple_name(service.registration.abstraction)}` is found by the rule"
        span = (start, end) if whole else (each.start_byte, each.end_byte)
        edits.append(Amendment(span[0], span[1], FIELDS, "", said))
    return edits


# --- a folder in a definition file ---------------------------------------------------------


def _as_folder(context: PlanContext, group: list[Service]) -> Changes | Refusal:
    by_id, path = context.codebase.wiring.by_id, group[0].registration.file
    definitions = [by_id[each.registration.id] for each in group]
    folder = posixpath.dirname(context.sources.path(group[0].implementation))
    space = definitions[0].id.rpartition("\\")[0]
    known = {each.implementation for each in group}
    beside = [number for number in range(len(context.symbols)) if context.sources.path(number).startswith(f"{folder}/")]
    made = (
        each for each in beside if context.symbols.types[each].kind == "class" and not context.symbols.types[each].is_abstract
    )
    others = sorted(posixpath.relpath(context.sources.path(each), folder) for each in made if each not in known)
    resource = posixpath.relpath(folder, posixpath.dirname(path) or ".") + "/"
    before = context.codebase.read_file(path)
    alone = with_folder(before, definitions, f"{space}\\", resource, others)
    if not alone or not _shows_the_same(context, path, _changed(before, alone)):
        return Refusal(Reason.RULE_FINDS_OTHERS)
    content = context.content(path)
    now = [each for each in read_definitions(path, content)[0] if each.id in {one.id for one in definitions}]
    changes = with_folder(content, now, f"{space}\\", resource, others)

    def apply() -> None:
        for each in changes:
            context.change_content(path, each, f"the classes of `{folder}` are found by the rule")

    return record(context, [], apply)


def _changed(content: bytes, changes: list[Insertion]) -> bytes:
    for each in changes:
        content = content[: each.at] + each.text.encode() + content[each.at + each.length :]
    return content
