"""A run of steps: plan afresh from the code, carry one out, and again."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

import msgspec

from isodesm.cli.phases import Phases
from isodesm.cli.run import say
from isodesm.cli.workspace import Reader, Workspace
from isodesm.codebase.class_lookup import classes_or_layer
from isodesm.codebase.overview import Overview
from isodesm.disk.inside import Inside
from isodesm.disk.opening import read_plain
from isodesm.errors import UsageError
from isodesm.measures.strain import measure_strain
from isodesm.planning.model.step import HAND_IN, Plan, Step
from isodesm.planning.planner.options import Options
from isodesm.planning.planner.staging import needed_ids
from isodesm.reading.cache import default_folder
from isodesm.reading.replay import Replay
from isodesm.rewriting.apply import Outcome, TakenBack, Wish, take, take_back
from isodesm.rewriting.changes import digests_now
from isodesm.rewriting.journal import Journal
from isodesm.settings import Settings

if TYPE_CHECKING:
    from isodesm.codebase.model import Codebase

BY_HAND = "only a person can change"
AHEAD = "ahead.msgpack"


class Narrowed(NamedTuple):
    """What narrows the plan that steps come from."""

    focus: str
    techniques: tuple[str, ...]
    until: float | None
    all_members: bool
    no_new_abstractions: bool
    goal: tuple[str, ...] = ()
    callers: bool = False


def narrowed_by(chosen: Any) -> Narrowed:
    """What the options of a command that plans narrow it down to."""
    return Narrowed(
        chosen.focus,
        tuple(chosen.technique or ()),
        chosen.until,
        chosen.members == "all",
        chosen.no_new_abstractions,
        tuple(chosen.goal or ()),
        chosen.callers,
    )


def journal_of(path: Path, settings: Settings) -> Journal:
    """The journal of a tree, beside the cache; it says what it keeps aside."""
    return Journal(path, Path(settings.cache_folder or default_folder()), say)


def undo(path: Path, settings: Settings, name: str, commit: bool) -> TakenBack | None:
    """Take the step that was interrupted back, or else the last one, or the last of a name; None where there is none.

    What followed it in its plan follows again, where it was the last.
    """
    journal = journal_of(path, settings)
    entry = journal.interrupted() or next(reversed(journal.entries()), None)
    ahead = b""
    if entry is not None and name in ("", entry.record.id):
        with contextlib.suppress(OSError):
            ahead = Inside(entry.folder).read(AHEAD).content
    done = take_back(path, journal, name, commit=commit)
    if done is not None:
        journal.keep(AHEAD, ahead)
    return done


class Ahead(msgspec.Struct):
    """Steps of a plan that are still to be taken from a tree, what narrowed the plan, and why it leaves what it leaves."""

    tree: str
    asked: str
    steps: list[Step]
    left: list[str] = []


class Course:
    """Steps that are carried out one after the other, each planned for the code as it then is."""

    def __init__(self, path: Path, settings: Settings, read: Reader, phases: Phases | None = None, root: str = ".") -> None:
        self.path, self.settings, self.read, self.root = path, settings, read, root
        self.phases = phases or Phases()
        self.journal = journal_of(path, settings)
        self.work = Workspace(path, settings, read, self.phases, root, full_below=0)
        self.outcomes: list[Outcome] = []
        self.standings: list[tuple[float, int]] = []
        """Strain and hard bonds at the start and after each step."""
        self.mistakes: list[Exception] = []
        self._options = Options(steps=1, settle=False)
        self._saved: list[Step] | None = None
        self._plan: Plan | None = None
        self._red: set[str] = set()
        self._handed_in: set[str] = set()
        """Ids of steps by which classes were handed something: whoever still asks for it after that does so by hand."""
        self._focus, self._goal = "", tuple[str, ...]()
        self._ahead: Ahead | None = None

    @property
    def overview(self) -> Overview:
        """The tree as it is by now."""
        return self.work.overview

    @property
    def is_red(self) -> bool:
        """Whether some step had to be taken back."""
        return any(not each.is_kept for each in self.outcomes)

    def choose(self, narrowed: Narrowed, ids: tuple[str, ...], saved: Path | None) -> None:
        """Say which steps are wanted. UsageError for ids that no plan has, and for a file that is no saved plan."""
        self._options = Options(
            steps=1,
            focus=classes_or_layer(self.work.overview, narrowed.focus) if narrowed.focus else frozenset(),
            techniques=frozenset(narrowed.techniques),
            until=narrowed.until,
            all_members=narrowed.all_members,
            no_new_abstractions=narrowed.no_new_abstractions,
            goal=self.work.goal(narrowed.goal),
            production=narrowed.callers,
            settle=False,
        )
        self._focus, self._goal = narrowed.focus, narrowed.goal
        if saved is not None:
            self._saved = _steps_of(saved)
        if ids:
            whole = self._planned(msgspec.structs.replace(self._options, steps=0))
            if unknown := [each for each in ids if each not in {step.id for step in whole.steps}]:
                raise UsageError(f"No step has the id {', '.join(f'`{each}`' for each in unknown)}; `isodesm plan` shows them.")
            self._options = msgspec.structs.replace(self._options, only=needed_ids(whole, ids))

    def length_of_stage(self) -> int:
        """The steps of the first stage, or of all where there are no stages."""
        step = self._next()
        return len(self._ahead.steps) if step is not None and self._ahead is not None else 1

    def following(self) -> Step | None:
        """The next step, be it one that a person has to finish; None where there is none."""
        if self._saved is not None:
            return next(iter(self._saved), None)
        ahead = self._remembered()
        if ahead is not None and ahead.steps and ahead.tree == self._tree:
            return ahead.steps[0]
        without = frozenset(self._passed_over())
        self._plan = self._planned(msgspec.structs.replace(self._options, without=without))
        return next(iter(self._plan.steps), None)

    def _next(self) -> Step | None:
        """The next step to carry out: the one after the last of a plan, as long as the tree is as that step left it; else the
        first of a new plan. For what a step leaves behind – an old constructor until all callers are told – is seen to by later
        steps of the same plan."""
        if self._saved is not None:
            return next(iter(self._saved), None)
        ahead = self._ahead if self._ahead is not None else self._remembered()
        if ahead is None or ahead.tree != self._tree or not ahead.steps:
            without = frozenset(self._passed_over()) | self._red | self._handed_in
            options = msgspec.structs.replace(self._options, steps=0, stages=1, without=without, whole=True)
            self._plan = self._planned(options)
            ahead = Ahead(self._tree, self._asked, list(self._plan.steps), [each.reason for each in self._plan.left])
        self._ahead = ahead
        return next(iter(ahead.steps), None)

    @property
    def _tree(self) -> str:
        replay = self.work.replay or Replay(self.path, self.settings)
        return replay.tree

    @property
    def _asked(self) -> str:
        """What narrows the plan, as a text; ids and classes by their names."""
        narrowed = msgspec.structs.astuple(msgspec.structs.replace(self._options, focus=frozenset(), goal=frozenset()))
        return repr((self._focus, self._goal, [sorted(each) if isinstance(each, frozenset) else each for each in narrowed]))

    def _remembered(self) -> Ahead | None:
        try:
            found = msgspec.msgpack.decode(Inside(self.journal.folder).read(AHEAD).content, type=Ahead)
        except (OSError, msgspec.DecodeError):
            return None
        return found if found.asked == self._asked else None

    def _went_on(self) -> None:
        """Take note that the next step was carried out, and of the tree that it left."""
        if self._ahead is not None:
            entry = self.journal.entries()[-1]
            Inside(entry.folder).put(AHEAD, msgspec.msgpack.encode(self._ahead), 0o600)
            self._ahead.steps.pop(0)
            self._ahead.tree = self._tree
            self.journal.keep(AHEAD, msgspec.msgpack.encode(self._ahead))

    def carry_out(
        self,
        wish: Wish,
        most: int,
        keep_going: bool,
        tell: Callable[[Outcome], None],
        tell_standing: Callable[[float, int], None],
    ) -> None:
        """Carry out at most so many steps (0: all), and say what came of each; a red one ends it unless it is to go on."""
        self.standings.append(self._standing())
        while not most or sum(each.is_kept for each in self.outcomes) < most:
            step = self._next()
            if step is None:
                return
            outcome = take(self.path, step, self.journal, wish)
            self.outcomes.append(outcome)
            tell(outcome)
            if self._saved is not None:
                self._saved = self._without(self._saved[1:], step.id if not outcome.is_kept else "")
            if outcome.is_kept:
                self._handed_in |= {step.id} if step.id.startswith(HAND_IN) else set()
                self._begin_again()
                self._went_on()
                self.standings.append(self._standing())
                tell_standing(*self.standings[-1])
                continue
            self.standings.append(self.standings[-1])
            if outcome.red_before:
                return
            wish = msgspec.structs.replace(wish, doubt=False)
            self._red.add(step.id)
            self._ahead = Ahead("", self._asked, [])
            if not keep_going:
                return

    def left(self) -> list[str]:
        """What is not carried out though a plan has it, and why."""
        red = sorted(set(self._passed_over()) - self._red)
        said = [f"passed over, for it turned red on this code: {each}" for each in red]
        reasons = (
            self._ahead.left if self._ahead is not None else [each.reason for each in self._plan.left] if self._plan else []
        )
        by_hand = {each for each in reasons if BY_HAND in each}
        return said + [f"left to a person: {each}" for each in sorted(by_hand)]

    def _planned(self, options: Options) -> Plan:
        return self.work.plan(options, self.mistakes)

    def _begin_again(self) -> None:
        """Read the tree anew: what was planned counts on bytes that are gone. Files that are as they were need no reading."""
        waiting = [self.work]

        def read(phases: Phases, replay: Replay | None) -> Codebase:
            from isodesm.codebase.edited import renewed

            before = waiting.pop()  # it is let go with this: only what follows counts
            if before.is_read and before.replay is not None and replay is not None:
                if (found := renewed(before.codebase, before.replay, replay)) is not None:
                    return found
            return self.read(phases, replay)

        self.work = Workspace(self.path, self.settings, read, self.phases, self.root, full_below=0)
        if self._goal:
            self._options = msgspec.structs.replace(self._options, goal=self.work.goal(self._goal))
        if self._focus:
            self._options = msgspec.structs.replace(self._options, focus=classes_or_layer(self.work.overview, self._focus))

    def _standing(self) -> tuple[float, int]:
        strains = measure_strain(self.work.diagnosis.places, self.settings.strain).values()
        return sum((each.own_total for each in strains), 0.0), sum(sum(each.hard_out.values()) for each in strains)

    def _passed_over(self) -> Iterator[str]:
        """Ids of steps that turned red, and whose files have not changed since."""
        return (name for name, files in self.journal.red().items() if digests_now(self.path, files) == files)

    @staticmethod
    def _without(steps: list[Step], red: str) -> list[Step]:
        """Steps that do without a red one, by what they need."""
        gone, found = {red}, []
        for step in steps:
            if gone & set(step.needs):
                gone.add(step.id)
            else:
                found.append(step)
        return found


def _steps_of(path: Path) -> list[Step]:
    try:
        saved = msgspec.json.decode(read_plain(path))
        return msgspec.convert(saved["result"]["steps"], list[Step])
    except OSError as error:
        raise UsageError(f"--from {path}: {error.strerror or error}") from error
    except (msgspec.DecodeError, msgspec.ValidationError, KeyError, TypeError) as error:
        raise UsageError(f"--from {path} is no plan saved by `plan --format json`: {error}") from error
