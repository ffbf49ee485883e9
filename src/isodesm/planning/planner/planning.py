"""A plan in the making: attempts at steps, each taken back as a whole where what it would write does not hold."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Iterable
from typing import NamedTuple

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.shared.findings import Diagnosis, Finding
from isodesm.errors import IsodesmError
from isodesm.planning.analysis.known_types import known_types
from isodesm.planning.model.decision import Decision
from isodesm.planning.model.refusal import Reason, Refusal
from isodesm.planning.model.step import PlannedStep, Step
from isodesm.planning.planner.build_step import build_step, needs_for
from isodesm.planning.planner.leftovers import words_of
from isodesm.planning.planner.options import Options
from isodesm.planning.planner.projection import Projection
from isodesm.planning.state.context import PlanContext
from isodesm.planning.verification.linked import Linked, linked
from isodesm.planning.verification.proof import Objection, objections


class Left(NamedTuple):
    """A decision that the plan does not take on, and why."""

    decision: Decision
    refusal: Refusal


class SoFar(msgspec.Struct, frozen=True):
    """What has been planned, as a value: to take something back is to keep the one before."""

    projection: Projection
    """What the steps lead to."""
    steps: tuple[Step, ...] = ()
    left: tuple[Left, ...] = ()
    projections: tuple[tuple[int, Projection], ...] = ()
    """So many steps to what they lead to, for those after which it changes."""


class Planning:
    """Mutable in `so_far`, in the state of its context, and in what it counts of failures."""

    def __init__(
        self,
        context: PlanContext,
        decisions: list[Decision],
        diagnosis: Diagnosis,
        options: Options,
        start: Projection,
        only: frozenset[str] | None,
    ) -> None:
        self.context, self.decisions, self.start = context, decisions, start
        self.diagnosis, self.options, self.only = diagnosis, options, only
        self.so_far = SoFar(start, projections=((0, start),))
        self.by_hand: list[tuple[Finding, Refusal | None]] = []
        """Findings that only a person can answer, each with why no step does."""
        self.failed: list[Exception] = []
        """Errors at which the planning itself failed."""
        self.unproven: Counter[str] = Counter()
        """Decisions whose steps did not hold, by the check that they failed."""
        self._known_types: dict[str, frozenset[str]] | None = None
        self._linked: Linked | None = None
        """What holds the files together after the steps so far."""
        self._known_proposals: Collection[tuple[int, str]] = ()

    @property
    def codebase(self) -> Codebase:
        """What is planned for."""
        return self.context.codebase

    @property
    def steps(self) -> tuple[Step, ...]:
        """The steps so far."""
        return self.so_far.steps

    @property
    def tells_callers(self) -> bool:
        """Whether callers and composition roots are told, and old constructors go: all but plans for a test do so."""
        return not self.options.goal or self.options.production

    # --- attempts -------------------------------------------------------------------------

    def attempt(self, take: Callable[[], None], decision: Decision | None = None, *, keeps_words: bool = True) -> None:
        """Take a decision on, or a step that follows from others; where what would be written does not hold, or the plan fails
        at it, everything is as before, and the decision is left with the reason."""
        self.context.state = state = self.context.state.for_attempt()
        before, self._known_proposals = self.so_far, state.proposals.keys()
        try:
            take()
            refusal = self._refused(before, decision if keeps_words else None, keeps_words=keeps_words)
        except IsodesmError:
            raise
        except Exception as error:  # one decision that fails must not cost the plan
            self.failed.append(error)
            refusal = Refusal(Reason.MISTAKE, error=type(error).__name__)
        if refusal is not None:
            self.context.state, self.so_far = state, before
            if decision is not None:
                self.leave(decision, refusal)

    def _refused(self, before: SoFar, decision: Decision | None, *, keeps_words: bool) -> Refusal | None:
        """Why what was planned since then is not offered; None where it is, or where nothing was."""
        added = self.steps[len(before.steps) :]
        if not added:
            return None
        if refusal := self._passed_over(added):
            return refusal
        objection = self._objection(decision, keeps_words=keeps_words)
        if objection is None:
            return None
        self.unproven[objection.check] += 1
        return Refusal(Reason.DOES_NOT_HOLD, fault=objection.reason)

    def _objection(self, decision: Decision | None, *, keeps_words: bool) -> Objection | None:
        """What the checks of all steps find; words may go that belong to what was taken on."""
        state = self.context.state
        given = [each for own in state.dependencies.values() for each in own]
        may_come = {word for each in given for word in (each.name, each.default.text)}
        may_come |= {each.text for own in state.edits.values() for each in own}
        may_come |= {each.annotations for each in state.tokens.values()}
        decided = [decision, *self._taken_on()] if keeps_words and decision is not None else []
        may_go = [word for each in decided for word in words_of(self.codebase, each)] or None
        if self._known_types is None:
            self._known_types = known_types(self.codebase)
        found = next(objections(state.written, may_go, self._known_types, may_come), None)
        if found is not None:
            return found
        now = self._linked or linked(self.codebase)
        found = next(now.objections(state.written), None)
        if found is None:
            self._linked = now.after(state.written)
        return found

    def _taken_on(self) -> list[Decision]:
        """The decisions that the attempt at hand has taken on."""
        known = self._known_proposals
        return [each.decision for key, each in self.context.state.proposals.items() if key not in known]

    def _passed_over(self, steps: Iterable[Step]) -> Refusal | None:
        """Why some steps are not to be taken; None where they are."""
        red = dict(self.options.red)
        for step in steps:
            if step.id in red:
                return Refusal(Reason.STEP_TURNED_RED, id=step.id, said=red[step.id])
            if step.id in self.options.without:
                return Refusal(Reason.STEP_PASSED_OVER, id=step.id)
            if self.options.whole and any(edit.by_hand for edit in step.edits):
                return Refusal(Reason.STEP_BY_HAND, id=step.id)
        return None

    # --- what comes of them ---------------------------------------------------------------

    def leave(self, decision: Decision, refusal: Refusal) -> None:
        """Note that a decision is left."""
        self._become(left=(*self.so_far.left, Left(decision, refusal)))

    def take_back_left(self, count: int) -> tuple[Left, ...]:
        """Forget what was left since there were so many; what that was."""
        left = self.so_far.left
        self._become(left=left[:count])
        return left[count:]

    def fail(self, decision: Decision, error: Exception) -> None:
        """Note that the planning itself failed at a decision."""
        self.failed.append(error)
        self.leave(decision, Refusal(Reason.MISTAKE, error=type(error).__name__))

    def is_wanted(self, id: str) -> bool:
        """Whether a step is among those that the plan is narrowed down to."""
        return self.only is None or id in self.only

    def is_enough(self) -> bool:
        """Whether the plan has all that was asked for."""
        options = self.options
        reached = options.until is not None and self.so_far.projection.measures(0).strain <= options.until
        return reached or bool(options.steps and len(self.steps) >= options.steps)

    def unused(self, wanted: str) -> str:
        """An id, told apart from those of earlier steps that inject a second thing of one type into the same class."""
        known = {step.id for step in self.steps}
        return next(
            each for each in (wanted, *(f"{wanted}-{count}" for count in range(2, len(known) + 3))) if each not in known
        )

    def add(self, planned: PlannedStep | None, needs: Iterable[str] = (), after: Projection | None = None) -> str:
        """Append a step, with what follows from it where that is more than new files; its id, '' where there is none."""
        if planned is None:
            return ""
        before = self.so_far.projection
        projection = after if after is not None else before
        if planned.follows >= 0:
            needs = (*needs, *needs_for(self.steps, self.codebase.symbols.names[planned.follows]))
        step = build_step(self.codebase, planned, before.measures(planned.about), projection.measures(planned.about), needs)
        self._become(projection=projection, steps=(*self.steps, step))
        if after is not None:
            self._become(projections=(*self.so_far.projections, (len(self.steps), after)))
        return step.id

    def projection_after(self, steps: int) -> Projection:
        """What so many steps lead to."""
        return max((each for each in self.so_far.projections if each[0] <= steps), key=lambda each: each[0])[1]

    def let_go(self) -> None:
        """Forget all that settling does not ask for."""
        codebase = self.codebase
        del self.context, self.decisions, self.start, self.so_far
        codebase.let_go()

    def _become(self, **changes: object) -> None:
        self.so_far = msgspec.structs.replace(self.so_far, **changes)
