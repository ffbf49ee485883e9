"""retire-bridge for old constructors that steps of an earlier plan left behind, which bear the remark that they are such.

A plan that is made anew finds two constructors, and nothing to hand in any more. Where those who make the class are roots and
tests, they pass what the old constructor passed on, and it goes.
"""

from __future__ import annotations

from collections.abc import Iterator

import msgspec

from isodesm.facts.records import Member
from isodesm.planning.analysis.creators import Creator
from isodesm.planning.analysis.expressions import free_names
from isodesm.planning.analysis.names_in_code import needs_of_text
from isodesm.planning.analysis.visibility import hides
from isodesm.planning.containers.registration_edits import makes
from isodesm.planning.language import language_named
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.step import PlannedStep, TechniqueName, step_id
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.recorder import record
from isodesm.planning.techniques.retire_bridge.retire import retirement
from isodesm.planning.text.insertions import CONSTRUCTORS, inserted
from isodesm.planning.wording.code import OLD_CONSTRUCTOR


class EarlierConstructor(msgspec.Struct, frozen=True):
    """An old constructor: where it stands with its remark, how many arguments it takes, and what it passes on beyond them, from
    which place on."""

    number: int
    span: tuple[int, int]
    takes: int
    passes: tuple[str, ...]
    at: int


def earlier_constructors(context: PlanContext) -> Iterator[EarlierConstructor]:
    """The old constructors of the tree that nobody but roots and tests calls, in order of class."""
    marked = OLD_CONSTRUCTOR.encode()
    for file, facts in enumerate(context.symbols.files):
        if not language_named(facts.language).overloads or marked not in context.codebase.text(file):
            continue
        first = context.symbols.first[file]
        for number in range(first, first + len(facts.types)):
            if number not in context.state.dependencies and (found := _existing(context, file, number)) is not None:
                if all(_may_pass(context, found, each) for each in context.sources.creators.get(number, ())):
                    yield found


def _existing(context: PlanContext, file: int, number: int) -> EarlierConstructor | None:
    """The old constructor of a class, if it has one beside its only other, and nobody else calls it."""
    own = [member for member in context.symbols.types[number].members if member.kind == "constructor"]
    text = context.codebase.text(file)
    old = [each for each in own if OLD_CONSTRUCTOR.encode() in _remark(text, each)]
    if (
        len(own) != 2
        or len(old) != 1
        or not context.sources.creators.get(number)
        or context.sources.subclasses(number)
        or makes(context, number)
    ):
        return None
    member, new = old[0], next(each for each in own if each is not old[0])
    passed = _passed(context, file, number, member)
    names = [each.name for each in member.parameters]
    more = [at for at, each in enumerate(passed) if each not in names]
    if len(passed) != len(new.parameters) or not more or more != list(range(more[0], more[0] + len(more))):
        return None
    hidden = {*names, *(each.name for each in context.symbols.types[number].members)}
    if any(free_names(passed[at]) & hidden for at in more):
        return None
    start = member.whole[0] - len(_remark(text, member))
    span = (len(text[:start].rstrip()), member.whole[1])
    return EarlierConstructor(number, span, len(names), tuple(passed[at] for at in more), more[0])


def _remark(text: bytes, member: Member) -> bytes:
    """The remark in front of a member, up to it."""
    before = text[: member.whole[0]]
    start = max(before.rstrip().rfind(b"\n", 0, len(before.rstrip())), 0)
    return before[start:] if before.rstrip().endswith((b"*/", b"</summary>")) else b""


def _passed(context: PlanContext, file: int, number: int, member: Member) -> list[str]:
    """What a constructor passes to the other one of its class; [] where it does anything else."""
    syntax, local = context.sources.syntax(file), number - context.symbols.first[file]
    index = next(at for at, each in enumerate(context.symbols.types[number].members) if each is member)
    own = [each for each in context.codebase.content(file).sites if (each.type, each.member) == (local, index)]
    found = [each for each in own if each.kind == "delegation" and each.text == context.symbols.dialect(number).self_word]
    if len(found) != 1 or member.statements > 1:
        return []
    brackets = syntax.arguments(syntax.at(found[0].place.start, found[0].place.end))
    return [syntax.of(each) for each in brackets[1]] if brackets is not None else []


def _may_pass(context: PlanContext, existing: EarlierConstructor, creator: Creator) -> bool:
    """Whether a place that makes the class passes everything, or can."""
    own = context.sources.arguments_at(creator.file, creator.site)
    if own is None or len(own) not in (existing.takes, existing.takes + len(existing.passes)):
        return False
    old = len(own) == existing.takes
    return not old or (
        (creator.root or creator.test) and not any(hides(context.sources, creator.source, each) for each in existing.passes)
    )


def earlier_id(context: PlanContext, earlier: EarlierConstructor) -> str:
    """The id of the step by which such a constructor goes."""
    return step_id(TechniqueName.RETIRE_BRIDGE, context.symbols.names[earlier.number])


def plan_earlier(context: PlanContext, earlier: EarlierConstructor) -> PlannedStep | None:
    """The step by which a legacy constructor goes, and those who called it pass what it passed on."""
    number = earlier.number
    home = context.symbols.file_of[number]
    arguments = context.sources.arguments_at
    callers = [each for each in context.sources.creators[number] if len(arguments(each.file, each.site) or ()) == earlier.takes]

    def apply() -> None:
        context.edit(home, Amendment(*earlier.span, CONSTRUCTORS, "", "the old constructor goes"))
        local = number - context.symbols.first[home]
        for each in callers:
            syntax, place = context.sources.syntax(each.file), context.codebase.content(each.file).sites[each.site].place
            brackets = syntax.arguments(syntax.at(place.start, place.end))
            assert brackets is not None
            said = f"passes to `{context.name(number)}` what its old constructor did"
            needs = needs_of_text(context.codebase, home, local, " ".join(earlier.passes))
            context.edit(each.file, inserted(brackets, list(earlier.passes), earlier.at, said, syntax), needs=needs)

    changes = record(context, {home, *(each.file for each in callers)}, apply)
    return retirement(context, number, changes) if changes.edits else None
