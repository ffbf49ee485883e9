"""A plan in stages: class by class, each taken until a test can have it alone and production hands in what it takes; the class
whose logic is worth most for its steps in front. What is left comes last.

Each stage is planned on the code as the one before leaves it, and proven there by a scan. So the same steps come in the same
order, however many of them are asked for.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Mapping
from typing import Any, NamedTuple

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.diagnose import diagnose
from isodesm.diagnosis.shared.findings import Diagnosis
from isodesm.linking.symbols import Symbols
from isodesm.measures.graph import ClassGraph
from isodesm.measures.testable import Testability, Testing, light_uses, logic_of
from isodesm.planning.analysis.decisions import find_decisions
from isodesm.planning.model.proposal import Proposal
from isodesm.planning.model.stage import Stage
from isodesm.planning.model.step import Kept, Plan, Step, TechniqueName, Waiting
from isodesm.planning.planner.goal import decisions_for
from isodesm.planning.planner.hubs import LEAST_USERS, Hub, hubs_of, users_of
from isodesm.planning.planner.options import Options
from isodesm.planning.planner.plan import LARGE, Planned, planned, with_needs
from isodesm.planning.planner.projection import Loosened, Projection
from isodesm.planning.planner.reconcile import Scanned, scan_after
from isodesm.planning.state.context import PlanContext
from isodesm.planning.techniques.registry import propose
from isodesm.planning.wording import goals as wording

LEAST_LOGIC = 2
"""Branches from which on a class is worth a stage: nobody writes a test of its own for less."""
MOST_ROUNDS = 3
"""Times that what is left is planned for: what one round hands in makes old constructors needless in the next."""
MOST_TRIED = 60
"""Classes that are looked at for one stage at most."""


class Candidate(NamedTuple):
    """A class that could get a stage: its branches, users and commits, what speaks against it, and its worth for its cost."""

    name: str
    number: int
    branches: int
    users: int
    commits: int
    obstacles: Testability
    ratio: float


def plan(
    codebase: Codebase,
    diagnosis: Diagnosis,
    options: Options | None = None,
    mistakes: list[Exception] | None = None,
    commits: Mapping[str, int] | None = None,
) -> Plan:
    """The plan of a codebase, in stages unless options narrow it down to some classes or techniques. What fails at single
    decisions is left out of it, and added to `mistakes`; `commits` says of files in how many commits they were."""
    options = options or Options()
    narrowed = options.goal or options.focus or options.techniques
    if narrowed or options.no_new_abstractions or not len(codebase.symbols) or len(codebase.symbols.files) > LARGE:
        return planned(codebase, diagnosis, options, mistakes).plan
    if not options.only:
        return _Staging(codebase, diagnosis, options, mistakes, commits or {}).plan()
    every = msgspec.structs.replace(options, steps=0, stages=0, until=None, only=frozenset())
    whole = _Staging(codebase, diagnosis, every, mistakes, commits or {})
    whole.plan()
    return _Staging(codebase, diagnosis, options, mistakes, commits or {}).plan_only(whole)


def needed_ids(made: Plan, ids: Iterable[str]) -> frozenset[str]:
    """The ids of some steps of a plan and of those before them that they need: of an earlier stage that touches a file of
    theirs, all."""
    wanted = with_needs(made.steps, ids)
    while True:
        files = {edit.file for step in made.steps if step.id in wanted for edit in step.edits}
        last = max((step.number for step in made.steps if step.id in wanted), default=0)
        further = set(wanted)
        for stage in made.stages:
            own = [step for step in made.steps if stage.first <= step.number <= stage.last]
            if stage.last < last and any(edit.file in files for step in own for edit in step.edits):
                further.update(step.id for step in own)
        if further == wanted:
            return wanted
        wanted = with_needs(made.steps, further)


class _Staging:
    """A plan in the making: the code as the stages so far leave it, and the stages."""

    def __init__(
        self,
        codebase: Codebase,
        diagnosis: Diagnosis,
        options: Options,
        mistakes: list[Exception] | None,
        commits: Mapping[str, int],
    ) -> None:
        self.now, self.options, self.mistakes, self.commits = Scanned(codebase, diagnosis), options, mistakes, commits
        self.plans: list[Plan] = []
        self.stages: list[Stage] = []
        self.pairs: dict[int, frozenset[tuple[str, str]]] = {}
        """Number of a stage for a hub to the names of its bonds."""
        self._tried: set[tuple[str, Testability]] = set()
        """Classes with what spoke against them when no stage came of it: it does not before something of that changes."""
        self._asked: set[tuple[str, frozenset[str]]] = set()
        """Hubs with those who ask for them, that were looked at."""

    def plan(self) -> Plan:
        """The stages, and what is left once there are no more, as far as steps are asked for."""
        while not self._is_enough():
            if not self._next() and not self._next_hub():
                self._take_rest()
                break
        return _joined(self.plans, self.stages, self.options)

    def plan_only(self, whole: _Staging) -> Plan:
        """Of a whole plan the steps alone that options ask for, each planned in its stage."""
        for stage, plan in zip(whole.stages, whole.plans, strict=False):
            if self._is_enough() or self.options.only.isdisjoint(step.id for step in plan.steps):
                continue
            names, pairs = self.now.codebase.symbols.names, whole.pairs.get(stage.number)
            if stage.classes:
                found = self._attempt(goal=frozenset((names.index(stage.classes[0]),)))
            elif pairs is not None:
                numbers = frozenset((names.index(one), names.index(other)) for one, other in pairs)
                found = self._attempt(pairs=numbers)
            else:
                continue
            self.plans.append(found.plan)
            self.now = found.after or self.now
        if not self._is_enough():
            self._take_rest()
        return _joined(self.plans, self.stages, self.options)

    @property
    def _count(self) -> int:
        return sum(len(each.steps) for each in self.plans)

    def _is_enough(self) -> bool:
        options = self.options
        strain = self.plans[-1].strain[1] if self.plans else math.inf
        stages = bool(options.stages and len(self.stages) >= options.stages)
        return stages or bool(options.steps and self._count >= options.steps) or strain <= (options.until or -1)

    # --- stages -------------------------------------------------------------------------------

    def _next(self) -> bool:
        """Plan the stage that is worth most for its steps; whether there was one."""
        start, light = Projection(self.now.codebase, self.now.diagnosis.hard, Loosened()), light_uses(self.now.diagnosis)
        decisions = find_decisions(self.now.codebase, self.now.diagnosis.hard, start.usage.states)
        for each in list(self._candidates())[:MOST_TRIED]:
            wanted = decisions_for(start, decisions, frozenset((each.number,)), light)
            context = PlanContext(self.now.codebase, wanted, goal=frozenset((each.number,)))
            decided = any(one in decisions for one in wanted)  # else it is a device in the class that is there for it
            if decided and all(isinstance(propose(context, one), Proposal) for one in wanted):
                found = self._attempt(goal=frozenset((each.number,)))
                plan = found.plan
                if found.after is not None and not plan.goals[0].after and plan.strain[1] <= plan.strain[0]:
                    self._accept(each, found)
                    return True
            self._tried.add((each.name, each.obstacles))
        return False

    def _attempt(self, **what: frozenset[Any]) -> Planned:
        """The plan for a goal, or for some bonds, on the code as it is by now."""
        options = msgspec.structs.replace(self.options, steps=0, until=None, production=True, stages=0, **what)
        return planned(self.now.codebase, self.now.diagnosis, options, self.mistakes)

    def _accept(self, each: Candidate, found: Planned) -> None:
        assert found.after is not None
        keeps = tuple(sorted(kept.name for kept in found.plan.kept if kept.name == each.name))
        self._add(found.plan, each, keeps)
        self.now = found.after

    def _add(self, plan: Plan, each: Candidate, keeps: tuple[str, ...] = ()) -> None:
        files = _files(plan)
        name = self.now.codebase.symbols.types[each.number].name
        before = plan.goals[0].before
        facts = wording.Freed(name, each.branches, before, (), len(plan.steps), files, each.commits, bool(keeps))
        self._note(plan, wording.freed(facts), each, keeps)

    def _note(self, plan: Plan, said: str, each: Candidate | None = None, keeps: tuple[str, ...] = ()) -> None:
        """Take up a stage with its plan: of one class, or of what is said of it."""
        first = self._count + 1
        self.stages.append(
            Stage(
                number=len(self.stages) + 1,
                said=said,
                classes=(each.name,) if each is not None else (),
                branches=each.branches if each is not None else 0,
                commits=each.commits if each is not None else 0,
                users=each.users if each is not None else 0,
                first=first,
                last=first + len(plan.steps) - 1,
                files=_files(plan),
                strain=plan.strain,
                hard_bonds=plan.hard_bonds,
                keeps=keeps,
            )
        )
        self.plans.append(plan)

    def _candidates(self) -> Iterator[Candidate]:
        """Classes with logic that no test can have alone, worth for cost in front."""
        codebase, testing = self.now.codebase, Testing(*self.now)
        users = ClassGraph(codebase).fan_in.tolist()
        found = []
        for number, name in enumerate(codebase.symbols.names):
            if not codebase.symbols.is_shown(number) or (branches := logic_of(codebase, number)) < LEAST_LOGIC:
                continue
            obstacles = testing.of(number)
            if not obstacles.alone and (name, obstacles) not in self._tried:
                commits = self.commits.get(codebase.symbols.path(number), 0)
                ratio = _worth(branches, users[number], commits) / _cost(obstacles)
                found.append(Candidate(name, number, branches, users[number], commits, obstacles, ratio))
        return iter(sorted(found, key=lambda each: (-each.ratio, each.name, each.number)))

    # --- hubs ---------------------------------------------------------------------------------

    def _next_hub(self) -> bool:
        """Plan the stage by which most classes of one folder are handed what they ask for by themselves; whether there was
        one."""
        codebase = self.now.codebase
        start = Projection(codebase, self.now.diagnosis.hard, Loosened())
        decisions = find_decisions(codebase, self.now.diagnosis.hard, start.usage.states)
        for hub in hubs_of(self.now, decisions):
            key = (f"{codebase.symbols.names[hub.target]} in {hub.folder}", frozenset(self._names(hub.pairs)))
            if key in self._asked:
                continue
            self._asked.add(key)
            context = PlanContext(codebase, list(hub.decisions))
            fitting = tuple(each for each in hub.decisions if isinstance(propose(context, each), Proposal))
            if len({each.source for each in fitting}) >= LEAST_USERS and self._take_hub(hub._replace(decisions=fitting)):
                return True
        return False

    def _names(self, pairs: frozenset[tuple[int, int]]) -> set[str]:
        return {self.now.codebase.symbols.names[source] for source, _ in pairs}

    def _take_hub(self, hub: Hub) -> bool:
        """Plan a stage for a hub; whether it frees enough classes of it."""
        found = self._attempt(pairs=hub.pairs)
        target, own = self.now.codebase.symbols.names[hub.target], self._names(hub.pairs)
        before = users_of(self.now, target)
        freed = (before & own) - (users_of(found.after, target) if found.after is not None else before)
        plan = found.plan
        if found.after is None or len(freed) < LEAST_USERS or plan.strain[1] >= plan.strain[0]:
            return False
        symbols = self.now.codebase.symbols
        there = {symbols.names[n] for n in range(len(symbols)) if _folder(symbols, n) == hub.folder} & before
        said = wording.asked_no_more(
            len(freed),
            len(there | freed),
            hub.folder.rpartition("/")[2] or ".",
            symbols.types[hub.target].name,
            made=all(each.kind == "hard-wired-creation" for each in hub.decisions),
            steps=len(plan.steps),
            files=_files(plan),
        )
        self._note(plan, said)
        self.pairs[len(self.stages)] = frozenset((symbols.names[one], symbols.names[other]) for one, other in hub.pairs)
        self.now = found.after
        return True

    # --- the rest -----------------------------------------------------------------------------

    def _take_rest(self) -> None:
        """What no stage holds, class by class, on the code as the stages leave it; and again, for what that makes possible."""
        options, plans = msgspec.structs.replace(self.options, steps=0, stages=0), list[Plan]()
        while len(plans) < MOST_ROUNDS:
            fresh = not self.plans and not plans
            diagnosis = self.now.diagnosis if fresh else diagnose(self.now.codebase)
            plan = planned(self.now.codebase, diagnosis, options, self.mistakes).plan
            plans.append(plan)
            if not plan.steps:
                break
            self.now = scan_after(self.now.codebase, plan.steps)
        rest = _joined(plans, [], options)
        if rest.steps and self.stages:
            self._note(rest, wording.the_rest(len(rest.steps), _files(rest)))
        else:
            self.plans.append(rest)


def _files(plan: Plan) -> int:
    """The files that a plan changes."""
    return len({edit.file for step in plan.steps for edit in step.edits})


def _folder(symbols: Symbols, number: int) -> str:
    return symbols.path(number).rpartition("/")[0]


def _worth(branches: int, users: int, commits: int) -> float:
    """What tests of a class are worth: its branches, more where many use it and where it changes often."""
    return branches * (1 + math.log1p(users) / 2) * (1 + math.log2(1 + commits) // 1 / 4)


def _cost(obstacles: Testability) -> float:
    """About how many things have to be handed in: each decision, and effects that come by none of these."""
    decisions = sum(each.kind == "decision" for each in obstacles.against)
    return 1 + (decisions or len(obstacles.against))


def _joined(plans: list[Plan], stages: list[Stage], options: Options) -> Plan:
    """The plans of all stages as one."""
    steps: list[Step] = []
    for plan in plans:
        behind = len(steps)
        steps += [msgspec.structs.replace(each, number=behind + each.number) for each in plan.steps]
    cut = steps[: options.steps] if options.steps else steps
    last, first = plans[-1], plans[0]
    end = cut[-1].after if cut else None
    unproven: dict[str, int] = {}
    for plan in plans:
        for check, count in plan.unproven.items():
            unproven[check] = unproven.get(check, 0) + count
    whole = len(cut) == len(steps)
    return Plan(
        steps=tuple(cut),
        left=last.left if not stages or not stages[-1].classes or len(plans) > len(stages) else (),
        strain=(first.strain[0], end.strain if end is not None else first.strain[0]),
        hard_bonds=(first.hard_bonds[0], end.hard_bonds if end is not None else first.hard_bonds[0]),
        not_shown=len(steps) - len(cut) + last.not_shown,
        done=first.done,
        waiting=_waiting(plans),
        kept=_kept(plans) if whole and not last.not_shown else (),
        choices=last.choices,
        unproven=dict(sorted(unproven.items())),
        stages=tuple(each for each in stages if each.first <= len(cut)),
    )


def _waiting(plans: list[Plan]) -> Waiting:
    """What is gone for tests alone at the end: not what waited for old constructors that later steps took away."""
    kept = {each.name for each in _kept(plans)}
    found = [each.waiting for each in plans if any(one.name in kept for one in each.kept)]
    return Waiting(
        strain=round(sum(each.strain for each in found), 9),
        hard_bonds=sum(each.hard_bonds for each in found),
        classes=len(kept) if found else 0,
    )


def _kept(plans: list[Plan]) -> tuple[Kept, ...]:
    """The old constructors that no later step takes away."""
    found: dict[str, Kept] = {}
    for plan in plans:
        gone = {step.classes[0] for step in plan.steps if step.technique == TechniqueName.RETIRE_BRIDGE}
        found = {name: each for name, each in found.items() if name not in gone}
        found.update({each.name: each for each in plan.kept})
    return tuple(found[name] for name in sorted(found))
