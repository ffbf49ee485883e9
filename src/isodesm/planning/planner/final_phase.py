"""The last part of a plan: roots told, makers that pass on, old constructors gone, and what only a person can do."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.form.two_jobs import LITERALS
from isodesm.diagnosis.shared.findings import Diagnosis, Finding
from isodesm.inference.injection import Injection
from isodesm.planning.model.decision import Decision
from isodesm.planning.model.step import LeftOver, Step, step_id
from isodesm.planning.planner.projection import Projection
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.recorder import Recorder
from isodesm.planning.techniques.extract_interface.bulk import handed_as_classes, plan_asking
from isodesm.planning.techniques.extract_interface.interface import NAME as EXTRACT
from isodesm.planning.techniques.inject_through_constructor.setters import early_id, late_findings, plan_early
from isodesm.planning.techniques.lift_creation.container_factory import maker_id, plan_maker
from isodesm.planning.techniques.lift_creation.forward import made_first, makers_of, passing_id, plan_passing
from isodesm.planning.techniques.move_effect_out.data import KIND as BOUNDARY
from isodesm.planning.techniques.move_effect_out.data import table_decisions
from isodesm.planning.techniques.move_effect_out.effect import MIXED, mixed_decision, mixed_findings, plan_move
from isodesm.planning.techniques.register import NAME as REGISTER
from isodesm.planning.techniques.register import plan_registration
from isodesm.planning.techniques.register_by_convention import plan_conventions
from isodesm.planning.techniques.retire_bridge.earlier import EarlierConstructor, plan_standing, standing_bridges
from isodesm.planning.techniques.retire_bridge.retire import NAME as RETIRE
from isodesm.planning.techniques.retire_bridge.retire import plan_retirement
from isodesm.planning.techniques.settle_lifetime import NAME as SETTLE
from isodesm.planning.techniques.settle_lifetime import captives, plan_lifetime

if TYPE_CHECKING:
    from isodesm.planning.planner.plan import Options


class Finishing:
    """What a planner does once all decisions are taken; mutable in the steps and in what the workshop notes."""

    codebase: Codebase
    diagnosis: Diagnosis
    options: Options
    only: frozenset[str] | None
    context: PlanContext
    recorder: Recorder
    state: Projection
    steps: list[Step]
    left: list[LeftOver]
    reasons: dict[str, str]
    """Finding to why a person has to see to it."""

    def _attempt(self, take: Callable[[], None], decision: Decision | None, *, keeps_words: bool = True) -> None:
        raise NotImplementedError

    def _hand_in(self, decision: Decision) -> None:
        raise NotImplementedError

    def _is_wanted(self, wanted: str) -> bool:
        """Whether a step is among those that the plan is narrowed down to."""
        return self.only is None or wanted in self.only

    def _wire(self, number: int) -> None:
        """Where a class has all its dependencies: wired by the composition roots, and rid of its old constructor."""
        if self._is_wanted(step_id(REGISTER, self.codebase.symbols.names[number])):
            self._add(plan_registration(self.shop, self.recorder, self.state, number), number)

    def _retire(self, number: int) -> None:
        """A class rid of its old constructor, where nobody needs that any more."""
        self._add(plan_retirement(self.shop, self.recorder, self.state, number), number)

    def _retire_standing(self, standing: EarlierConstructor) -> None:
        """A class rid of an old constructor that steps of an earlier plan left behind."""
        if self._is_wanted(step_id(RETIRE, self.codebase.symbols.names[standing.number])):
            self._add(plan_standing(self.shop, self.recorder, self.state, standing), standing.number)

    def _make(self, number: int) -> None:
        """A maker for what its definition can't hold."""
        self._add(plan_maker(self.shop, self.recorder, self.state, number), number)

    def _finish(self) -> None:
        """Effects out of members that decide, old constructors that nobody needs any more, and what only a person can do."""
        by_hand = [each for each in mixed_findings(self.diagnosis.findings, self.options.focus) if not self._move_out(each)]
        self._lift()
        for standing in standing_bridges(self.shop):
            if not self.options.focus or standing.number in self.options.focus:
                self._attempt(partial(self._retire_standing, standing), None)
        if not self.options.focus:
            self._attempt(self._conventions, None)
        if self.options.focus and EXTRACT in self.options.techniques:
            for target, handed in handed_as_classes(self.shop, self.options.focus).items():
                self._attempt(partial(self._ask, target, handed), None)
        for finding in late_findings(self.diagnosis.findings, self.options.focus):
            self._attempt(partial(self._take_early, finding), None)
        for finding in captives(self.diagnosis.findings, self.options.focus):
            self._attempt(partial(self._settle, finding), None)
        for finding in by_hand:
            self._by_hand(finding, self.reasons.get(finding.id, ""))

    def _take_early(self, finding: Finding) -> None:
        if self._is_wanted(early_id(self.shop, finding.source_number)):
            self._add(plan_early(self.shop, self.recorder, self.state, finding), finding.source_number)

    def _settle(self, finding: Finding) -> None:
        if self._is_wanted(step_id(SETTLE, finding.source, finding.target)):
            self._add(plan_lifetime(self.shop, self.recorder, self.state, finding), finding.source_number)

    def _conventions(self) -> None:
        found = plan_conventions(self.shop, self.recorder, self.state)
        self.steps += [each for each in found if self._is_wanted(each.id)]

    def _ask(self, target: int, handed: list[Injection]) -> None:
        self.steps += plan_asking(self.shop, self.recorder, self.state, target, handed)

    def _move_out(self, finding: Finding) -> bool:
        """Whether a member is rid of its effect, or a class of its data: by earlier steps, or by a gateway now."""
        if finding.kind == BOUNDARY:
            tables = [self._is_moved(finding, each) for each in table_decisions(self.shop, finding)]
            return all(tables) and all(tag.endswith(LITERALS) for tag in finding.why) and bool(tables)
        decision = mixed_decision(self.shop, finding) if finding.kind == MIXED else None
        if finding.kind != MIXED or decision is None:
            return finding.kind == MIXED
        return self._is_moved(finding, decision)

    def _is_moved(self, finding: Finding, decision: Decision) -> bool:
        count, left = len(self.steps), len(self.left)
        self._attempt(partial(self._hand_in, decision), decision)
        self.reasons[finding.id] = "; ".join(each.reason for each in self.left[left:])
        del self.left[left:]  # which are no hard bonds
        return len(self.steps) > count

    def _by_hand(self, finding: Finding, reason: str) -> None:
        step = plan_move(self.shop, self.state, finding, reason)
        if self._is_wanted(step.id) and not self.options.whole:
            self.steps.append(step)

    def _lift(self) -> None:
        """Let makers pass on what classes take, those first whose makers are made themselves; and drop what stays unused."""
        names, draft = self.codebase.symbols.names, self.shop.draft
        for number in made_first(self.shop):
            if number in context.state.legacy:
                self._attempt(partial(self._pass_on, number), None)
        for number in sorted(context.state.legacy, key=names.__getitem__):
            self._attempt(partial(self._wire, number), None)
        count = -1
        while len(context.state.retired) > count:  # what one old constructor made may have kept another
            count = len(context.state.retired)
            for number in sorted(context.state.legacy - context.state.retired, key=names.__getitem__):
                if self._is_wanted(step_id(RETIRE, names[number])):
                    self._attempt(partial(self._retire, number), None)
            if len(context.state.retired) == count:  # at last, for what such a maker makes can't change any more
                for number in sorted(context.state.legacy - context.state.retired, key=names.__getitem__):
                    if self._is_wanted(maker_id(self.shop, number)):
                        self._attempt(partial(self._make, number), None)

    def _pass_on(self, number: int) -> None:
        """The steps by which all makers of a class pass on what it takes; none where one of them can't."""
        makers = makers_of(self.shop, number)
        if isinstance(makers, str):
            return
        for owner, spots in sorted(makers.items(), key=lambda each: self.codebase.symbols.names[each[0]]):
            if self._is_wanted(passing_id(self.shop, owner, number)):
                self._add(plan_passing(self.shop, self.recorder, self.state, number, owner, spots), number)

    def _add(self, step: Step | None, number: int) -> None:
        """Append a step that follows from those that handed something to a class."""
        if step is not None:
            name = self.codebase.symbols.names[number]
            needs = tuple(each.id for each in self.steps if name in each.classes and each.technique != "extract-interface")
            self.steps.append(msgspec.structs.replace(step, needs=needs))
