"""What a plan leaves, in words: bonds with the reason, old constructors, questions; and the words that go with a decision."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from typing import NamedTuple

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.shared.findings import LEVELS, Finding
from isodesm.planning.analysis.decisions import key_in_table
from isodesm.planning.model.decision import Decision
from isodesm.planning.model.refusal import Reason, Refusal
from isodesm.planning.model.step import HAND_IN, PASS_ON, Kept, LeftOver, Step, Waiting, step_id
from isodesm.planning.state.context import PlanContext
from isodesm.planning.techniques.lift_creation.forward import callers_above
from isodesm.planning.techniques.move_effect_out.data import KIND as BOUNDARY
from isodesm.planning.techniques.retire_bridge.retire import why_kept
from isodesm.planning.techniques.settle_lifetime import NAME as SETTLE
from isodesm.planning.techniques.settle_lifetime import captives, question
from isodesm.planning.wording.reasons import sentence


def words_of(codebase: Codebase, decision: Decision) -> list[str]:
    """The words that go with a decision: its target, what was called, and for look-ups and repeated places all they say."""
    words = [decision.name, decision.kind]
    said: set[str] = set()
    for place in decision.places:
        for row in (place.row, *(each.row for each in place.nested)):
            words += [codebase.bonds.text_of("callee", row), codebase.target_name(codebase.bonds.target[row])]
        text = codebase.text(place.file)[place.span[0] : place.span[1]].decode("utf-8", "replace")
        words.append(key_in_table(codebase, place))
        if decision.kind in ("service-lookup", BOUNDARY) or text in said:  # a table goes into a new file as it stands
            words.append(text)
        said.add(text)
    return words


def left_over(decision: Decision, refusal: Refusal, wrapped: Collection[str]) -> LeftOver:
    """What is left of a decision that a plan does not take on; of the static classes of some names callers have an adapter."""
    first = decision.places[0].finding
    if refusal.reason is Reason.STATIC_CODE and first.source in wrapped:
        refusal = Refusal(Reason.BEHIND_ADAPTER)
    return LeftOver(
        source=first.source,
        target=first.target,
        kind=first.kind,
        count=len(decision.findings),
        file=first.file,
        line=first.line,
        reason=sentence(refusal),
        level=min((each.level for each in decision.findings), key=LEVELS.index),
    )


class Keeping(NamedTuple):
    """The names of classes that keep their old constructors, and of those that something above them makes by one."""

    kept: frozenset[str]
    behind: frozenset[str]


def keeping_of(context: PlanContext) -> Keeping:
    """Who keeps an old constructor after a plan."""
    names = context.symbols.names
    kept = context.state.legacy - context.state.retired
    behind = frozenset(names[each] for each in context.state.legacy if callers_above(context, each) & kept)
    return Keeping(frozenset(names[each] for each in kept), behind)


def waiting_of(keeping: Keeping, steps: Sequence[Step]) -> Waiting:
    """What steps gain for classes that keep their old constructors."""
    own = [each for each in steps if each.id.startswith(HAND_IN) and each.classes[0] in keeping.behind]
    taking = {step.classes[0] for step in steps if step.id.startswith((HAND_IN, PASS_ON))}
    return Waiting(
        strain=round(sum((each.before.strain - each.after.strain for each in own), 0.0), 9),
        hard_bonds=sum(each.before.hard_bonds - each.after.hard_bonds for each in own),
        classes=len(taking & keeping.kept),
    )


def kept_of(context: PlanContext) -> tuple[Kept, ...]:
    """The old constructors that nothing of a plan takes away."""
    symbols = context.symbols
    return tuple(
        Kept(
            symbols.names[number],
            symbols.path(number),
            symbols.types[number].place.line,
            sentence(why_kept(context, number) or Refusal(Reason.UNPROVEN)),
        )
        for number in sorted(context.state.legacy - context.state.retired, key=symbols.names.__getitem__)
    )


def choices_of(context: PlanContext, findings: Iterable[Finding], steps: Iterable[Step]) -> tuple[str, ...]:
    """Questions about lifetimes that a person must settle first, since no step of the plan does."""
    settled = {each.id for each in steps}
    left = (each for each in captives(findings, frozenset()) if step_id(SETTLE, each.source, each.target) not in settled)
    return tuple(question(context, each) for each in left)
