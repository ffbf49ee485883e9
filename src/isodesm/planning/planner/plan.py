"""Makes a plan: which decisions, by which technique, in which order."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, Sequence
from functools import cached_property, partial

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.shared.findings import Diagnosis
from isodesm.errors import IsodesmError
from isodesm.planning.analysis.decisions import find_decisions, parts_of
from isodesm.planning.analysis.initialization_order import TOO_SOON, made_too_soon
from isodesm.planning.analysis.names_in_code import clash_in
from isodesm.planning.analysis.preconditions import of_class, of_place, of_several, too_much
from isodesm.planning.containers.registration_edits import makes, refusal
from isodesm.planning.model.decision import Decision
from isodesm.planning.model.proposal import Proposal
from isodesm.planning.model.step import LeftOver, Plan, Step
from isodesm.planning.planner.injection import hand_in_id, plan_injection
from isodesm.planning.planner.leftovers import (
    UNPROVEN,
    choices_of,
    keeping_of,
    kept_of,
    left_over,
    said_rightly,
    waiting_of,
    words_of,
)
from isodesm.planning.planner.order import order_decisions
from isodesm.planning.planner.prerequisites import Preparing
from isodesm.planning.planner.progress import find_done
from isodesm.planning.planner.projection import Projection
from isodesm.planning.planner.reconcile import expected_of, settled, touched
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.recorder import Recorder
from isodesm.planning.techniques.move_effect_out.effect import MIXED, mixed_decision, mixed_findings
from isodesm.planning.techniques.registry import propose
from isodesm.planning.verification.names import aliases_in
from isodesm.planning.verification.proof import Objection, objections

STAYING = ("introduce-factory", "break-cycle")
"""Techniques that leave the arguments of a creation where they are."""

LARGE = 5_000
"""Files from which on two trees at a time, each with all that was inferred, take too much memory."""

MISTAKE = "planning this failed: a mistake of ours"


class Options(msgspec.Struct, frozen=True):
    """What narrows or shapes a plan.

    At most `steps` steps (0: all), for the classes in `focus` only where it names any; of `techniques` only, with what those
    need; no further than `until` that much strain; with `all_members` interfaces have every public member; with
    `no_new_abstractions` classes ask for each other as they are. Of `earlier` steps, by their ids, it says which are done.
    """

    steps: int = 0
    focus: frozenset[int] = frozenset()
    techniques: frozenset[str] = frozenset()
    until: float | None = None
    all_members: bool = False
    no_new_abstractions: bool = False
    earlier: frozenset[str] = frozenset()
    only: frozenset[str] = frozenset()
    """Ids of the only steps that are wanted, where it names any."""
    without: frozenset[str] = frozenset()
    """Ids of steps that are not taken, nor what needs them."""
    whole: bool = False
    """No steps with places that only a person can change."""
    settle: bool = True
    """Whether measures are held against a scan of the tree as the steps would leave it."""


def plan(
    codebase: Codebase, diagnosis: Diagnosis, options: Options | None = None, mistakes: list[Exception] | None = None
) -> Plan:
    """The plan for a codebase. What fails at single decisions is left out of it, and added to `mistakes`."""
    options, only = options or Options(), None
    if options.techniques and len(
        codebase.symbols
    ):  # planned once more with those alone, for each step counts on those before it
        every = msgspec.structs.replace(options, steps=0, until=None, techniques=frozenset())
        whole = _Planner(codebase, diagnosis, every)
        whole.take()
        only = with_needs(whole.steps, (step.id for step in whole.steps if step.technique in options.techniques))
        del whole
    planner = _Planner(codebase, diagnosis, options, only if only is not None else options.only or None)
    made = planner.plan()
    if mistakes is not None:
        mistakes += [error for _, error in planner.failed]
    return made


class _Planner(Preparing):
    """Mutable while one plan is made."""

    def __init__(self, codebase: Codebase, diagnosis: Diagnosis, options: Options, only: frozenset[str] | None = None) -> None:
        self.codebase, self.diagnosis, self.options, self.only = codebase, diagnosis, options, only
        focus = options.focus
        self.start = self.state = Projection(codebase, diagnosis.hard)
        decisions = find_decisions(codebase, diagnosis.hard, self.start.usage.states)
        self.decisions = [each for each in decisions if not focus or each.source in focus or each.target in focus]
        self.shop = PlanContext(codebase, self.decisions, all_members=options.all_members, no_new=options.no_new_abstractions)
        for finding in mixed_findings(diagnosis.findings, focus):
            if finding.kind == MIXED and (mixed := mixed_decision(self.shop, finding)) is not None:
                self.shop.outside[mixed.source].append(mixed)
        self.recorder = Recorder(self.shop.draft)
        self.steps: list[Step] = []
        self.states: dict[int, Projection] = {0: self.state}
        """What so many steps lead to, for those after which it changes."""
        self.left: list[LeftOver] = []
        self.reasons: dict[str, str] = {}
        self.failed: list[tuple[Decision | None, Exception]] = []
        """Decisions at which the planning itself failed."""
        self.unproven: Counter[str] = Counter()
        """Decisions whose steps did not hold, by the check that they failed."""

    def plan(self) -> Plan:
        """All steps in order, cut to what was asked for."""
        if not len(self.codebase.symbols):
            return Plan(steps=(), left=(), strain=(0.0, 0.0), hard_bonds=(0, 0))
        return self._cut(self.take())

    def take(self) -> int:
        """Take the decisions on until there is enough; how many are left waiting."""
        waiting = order_decisions(self.codebase, [each for decision in self.decisions for each in self._fitted(decision)])
        while waiting and not self._is_enough():
            decision = waiting.pop(0)
            self._attempt(partial(self._hand_in, decision), decision)
            if not any(each.source == decision.source for each in waiting):
                self._attempt(partial(self._wire, decision.source), decision, keeps_words=False)
        if not waiting and not self._is_enough():
            self._finish()
        return len(waiting)

    def _attempt(self, take: Callable[[], None], decision: Decision | None, *, keeps_words: bool = True) -> None:
        """Take a decision on, or a step that follows from others; where what would be written does not hold, or the plan fails
        at it, everything is as before, and the decision is left with the reason."""
        restore, count, before = self._checkpoint(), len(self.steps), set(self.shop.taken)
        try:
            take()
        except IsodesmError:
            raise
        except Exception as error:  # one decision that fails must not cost the plan
            restore()
            self._fail(decision, error)
            return
        if len(self.steps) == count:
            return
        if reason := self._passed_over(self.steps[count:]):
            restore()
            self._leave(decision, reason)
            return
        taken = [each.decision for key, each in self.shop.taken.items() if key not in before]
        decided = [decision, *taken] if keeps_words and decision is not None else []
        may_go = [word for each in decided for word in words_of(self.codebase, each)] or None
        draft = self.shop.draft
        may_come = {word for own in context.state.dependencies.values() for given in own for word in (given.name, given.supply.text)}
        may_come |= {each.text for own in context.draft.extras.values() for each in own}
        may_come |= {each.marks for each in context.state.tokens.values()}
        objection: Objection | None = next(objections(self.recorder.written, may_go, self._type_names, may_come), None)
        if objection is not None:
            restore()
            self.unproven[objection.check] += 1
            self._leave(decision, f"{UNPROVEN}: {objection.reason}")

    def _fail(self, decision: Decision | None, error: Exception) -> None:
        self.failed.append((decision, error))
        self._leave(decision, f"{MISTAKE} ({type(error).__name__})")

    def _passed_over(self, steps: Iterable[Step]) -> str:
        """Why some steps are not to be taken; '' where they are."""
        for step in steps:
            if step.id in self.options.without:
                return f"its step `{step.id}` is passed over"
            if self.options.whole and any(edit.by_hand for edit in step.edits):
                return f"its step `{step.id}` has places that only a person can change"
        return ""

    def _leave(self, decision: Decision | None, reason: str) -> None:
        if decision is not None:
            self.left.append(left_over(decision, reason))

    def _checkpoint(self) -> Callable[[], None]:
        """What brings the plan back to how it is now."""
        parts = (self.shop.checkpoint(), self.recorder.checkpoint())
        steps, left, state = list(self.steps), list(self.left), self.state

        def restore() -> None:
            for part in parts:
                part()
            self.steps, self.left, self.state = steps, left, state
            self.states = {count: each for count, each in self.states.items() if count <= len(steps)}

        return restore

    @cached_property
    def _type_names(self) -> dict[str, frozenset[str]]:
        """Simple names of the tree's types to the packages and namespaces that declare one; none for types inside others."""
        found: dict[str, set[str]] = defaultdict(set)
        symbols = self.codebase.symbols
        for number, each in enumerate(symbols.types):
            if each.name and each.kind != "module":
                space = each.space or symbols.files[symbols.file_of[number]].package
                found[each.name].update({space} if each.outer < 0 else ())
        for number in (at for at, facts in enumerate(symbols.files) if facts.language == "typescript"):
            for name in aliases_in(self.codebase.text(number)):
                found[name].add("")
        everybodys = {
            name
            for language in sorted({facts.language for facts in symbols.files})
            for name in symbols.catalogues.of(language).implicit.names.split()
        }
        return {name: frozenset(spaces) for name, spaces in found.items() if name not in everybodys}

    def _is_enough(self) -> bool:
        options = self.options
        reached = options.until is not None and self.state.measures(0).strain <= options.until
        return reached or bool(options.steps and len(self.steps) >= options.steps)

    def _fitted(self, decision: Decision) -> list[Decision]:
        """The same, where one decision that fails costs that alone."""
        left = list(self.left)
        try:
            return self._fitting(decision)
        except Exception as error:
            self.left = left
            self._fail(decision, error)
            return []

    def _fitting(self, decision: Decision) -> list[Decision]:
        """The decision if some technique fits it; what fits none is left over, with the reason.

        Decisions inside its expression go with it, unless the expression stays where it is: then they stand for themselves.
        """
        if parts := self._by_obstacle(decision):
            return self._fitting_parts(parts)
        found = propose(self.shop, decision)
        inner = [each for place in decision.places for each in place.nested]
        if not isinstance(found, str) and (found.technique not in STAYING or not inner):
            return [decision]
        parts = parts_of(self.codebase, decision) if isinstance(found, str) else []
        if len(parts) > 1 and not all(isinstance(propose(self.shop, each), str) for each in parts):
            return self._fitting_parts(parts)
        alone = msgspec.structs.replace(
            decision, places=tuple(msgspec.structs.replace(place, nested=()) for place in decision.places)
        )
        own = find_decisions(self.codebase, inner)
        for each in (alone, *own):
            self.shop.consider(each)
        if isinstance(found, str):
            self.left.append(left_over(alone, found))
        return [*([] if isinstance(found, str) else [alone]), *(each for other in own for each in self._fitting(other))]

    def _by_obstacle(self, decision: Decision) -> list[Decision]:
        """A decision parted into the places that can't be changed and the others; [] where there are not both."""
        if len(decision.places) < 2 or of_class(self.shop.draft, decision.source):
            return []
        firm = tuple(place for place in decision.places if of_place(self.shop.draft, decision, place))
        rest = tuple(place for place in decision.places if place not in firm)
        return [msgspec.structs.replace(decision, places=places) for places in (firm, rest)] if firm and rest else []

    def _fitting_parts(self, parts: Iterable[Decision]) -> list[Decision]:
        """The same for the parts of a decision, each noted before any is judged."""
        parts = list(parts)
        for each in parts:
            self.shop.consider(each)
        return [fit for each in parts for fit in self._fitting(each)]

    def _hand_in(self, decision: Decision) -> None:
        """The steps for one decision: its abstraction where none fits, then the injection."""
        if self._is_settled(decision):
            return
        proposal = propose(self.shop, decision)
        if isinstance(proposal, str):
            self.left.append(left_over(decision, proposal))
            return
        depends = proposal.bridge_only or makes(self.shop, decision.source)
        if reason := (
            refusal(self.shop, proposal)
            or of_several(self.shop.draft, decision, depends=depends)
            or too_much(self.shop.draft, decision.source)
            or (TOO_SOON if made_too_soon(self.shop, decision.source, proposal.wanted.supply.text) else "")
            or self._clash(proposal)
        ):
            self.left.append(left_over(decision, reason))
            return
        needs = self._extract(proposal)
        if not self._is_wanted(self._unused(hand_in_id(self.shop, proposal))):
            return
        needs = (*needs, *self._tell(proposal))
        step, self.state = plan_injection(self.shop, self.recorder, self.state, proposal)
        self.steps.append(msgspec.structs.replace(step, id=self._unused(step.id), needs=needs))
        self.states[len(self.steps)] = self.state

    def _is_settled(self, decision: Decision) -> bool:
        """Whether all places of a decision went with another one's."""
        if decision.target >= 0:
            return False
        taken = {(place.file, place.span) for place in self.shop.taken_places(decision.source)}
        return all((place.file, place.span) in taken for place in decision.places)

    def _clash(self, proposal: Proposal) -> str:
        """Why a file can't name what it would have to; '' where all can."""
        source, wanted = proposal.decision.source, proposal.wanted
        names = [*wanted.typed.needs, *wanted.supply.needs]
        for file in sorted(
            {self.codebase.symbols.file_of[source], *(home for home, _ in self.shop.draft.root_sites.get(source, ()))}
        ):
            if name := clash_in(self.codebase, file, names):
                return (
                    f"`{self.codebase.symbols.files[file].path.rpartition('/')[2]}` has another `{name}`: "
                    "give one of them a name of its own there first"
                )
        return ""

    def _unused(self, wanted: str) -> str:
        """An id, told apart from those of earlier steps that hand the same class a second thing of one type."""
        known = {step.id for step in self.steps}
        return next(
            each for each in (wanted, *(f"{wanted}-{count}" for count in range(2, len(known) + 3))) if each not in known
        )

    def _cut(self, waiting: int) -> Plan:
        cut = self.steps[: self.options.steps] if self.options.steps else self.steps
        made, keeping = self._around(cut, waiting), keeping_of(self.shop)
        if cut and self.options.settle:
            expected = expected_of(self.codebase, self._after(len(cut)).findings)
            self._let_go()
            cut = settled(self.codebase, cut, expected)
        steps = (
            msgspec.structs.replace(step, number=number, files=files)
            for number, (step, files) in enumerate(zip(cut, touched(self.codebase, cut), strict=True), 1)
        )
        end = cut[-1].after if cut else None
        return msgspec.structs.replace(
            made,
            steps=tuple(steps),
            strain=(made.strain[0], end.strain if end else made.strain[0]),
            hard_bonds=(made.hard_bonds[0], end.hard_bonds if end else made.hard_bonds[0]),
            waiting=waiting_of(keeping, cut),
        )

    def _around(self, cut: Sequence[Step], waiting: int) -> Plan:
        """All that a plan says beside its steps and what they lead to."""
        begin = self.start.measures(0)
        return Plan(
            steps=(),
            left=said_rightly(self.left, {self.codebase.symbols.names[each] for each in self.shop.gateways}),
            strain=(begin.strain, begin.strain),
            hard_bonds=(begin.hard_bonds, begin.hard_bonds),
            not_shown=len(self.steps) - len(cut) + waiting,
            kept=() if waiting or len(cut) < len(self.steps) else kept_of(self.shop),
            done=find_done(self.shop, self.options.earlier),
            choices=choices_of(self.shop, self.diagnosis.findings, self.steps),
            unproven=dict(sorted(self.unproven.items())),
        )

    def _after(self, steps: int) -> Projection:
        """What so many steps lead to."""
        return self.states[max(count for count in self.states if count <= steps)]

    def _let_go(self) -> None:
        """Of a large tree, forget what settling does not ask for: it needs all that once more of the tree after the steps."""
        if len(self.codebase.symbols.files) > LARGE:
            del self.shop, self.recorder, self.states, self.start, self.state, self.decisions
            self.codebase.let_go()


def with_needs(steps: Sequence[Step], ids: Iterable[str]) -> frozenset[str]:
    """The ids of some steps, and of those before them that they need."""
    wanted = set(ids)
    for step in reversed(steps):
        if step.id in wanted:
            wanted.update(step.needs)
    return frozenset(wanted)
