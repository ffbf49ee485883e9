"""What a plan is made of: steps as values that say what changes, where, and what it gains."""

from __future__ import annotations

import hashlib
from enum import StrEnum
from typing import NamedTuple

import msgspec

from isodesm.planning.model.stage import Goal, Stage

HAND_IN = "hand-in"
"""What ids of steps that inject something begin with, whatever their technique: it may change from plan to plan."""
PASS_ON = "pass-on"
"""What ids of steps begin with by which callers forward dependencies."""


class TechniqueName(StrEnum):
    """The techniques that users know by name."""

    EXTRACT_INTERFACE = "extract-interface"
    INJECT_THROUGH_CONSTRUCTOR = "inject-through-constructor"
    BRIDGE_CONSTRUCTOR = "bridge-constructor"
    INJECT_THROUGH_PARAMETER = "inject-through-parameter"
    LIFT_CREATION = "lift-creation"
    REPLACE_LOOKUP = "replace-lookup"
    REPLACE_SINGLETON = "replace-singleton"
    GIVE_INSTANCE = "give-instance"
    WRAP_STATIC = "wrap-static"
    INTRODUCE_FACTORY = "introduce-factory"
    REGISTER = "register"
    REGISTER_BY_CONVENTION = "register-by-convention"
    SETTLE_LIFETIME = "settle-lifetime"
    BREAK_CYCLE = "break-cycle"
    MOVE_EFFECT_OUT = "move-effect-out"
    RETIRE_BRIDGE = "retire-bridge"


TECHNIQUES = tuple(each.value for each in TechniqueName)


class Edit(msgspec.Struct, frozen=True):
    """One place to change: what to do there, at file and line, and the change itself.

    Bytes `start` to `end` (exclusive) of the file as the steps before leave it become `text`; `new` says that there is no such
    file yet. A place that only a person can change has `by_hand`, and no text.
    """

    file: str
    line: int
    action: str
    start: int = 0
    end: int = 0
    text: str = ""
    new: bool = False
    by_hand: bool = False


class Touched(msgspec.Struct, frozen=True):
    """A file of a step by the SHA-256 of its bytes, in hexadecimal digits, before ('' where there is none) and after."""

    file: str
    before: str
    after: str


class Written(NamedTuple):
    """One file that a step changes: its text in UTF-8 before ('' for a new one) and after."""

    language: str
    path: str
    before: bytes
    after: bytes

    @property
    def short(self) -> str:
        """The name of the file, without its folder."""
        return self.path.rpartition("/")[2]


class Code(msgspec.Struct, frozen=True):
    """Code before and after; `before` is '' for something new. `file` is where it stands or shall stand."""

    file: str
    before: str
    after: str


class Measures(msgspec.Struct, frozen=True):
    """What a step changes, before or after it: totals of the codebase, and of the class it is about."""

    strain: float
    hard_bonds: int
    class_strain: float
    class_hard_bonds: int
    locked_effects: tuple[str, ...]
    by_layer: dict[str, tuple[float, int]] = {}
    """Layer ('' for none) to the strain and the hard bonds that its classes have of their own."""


class Balance(msgspec.Struct, frozen=True):
    """Hard bonds that a step removes and soft bonds that it adds."""

    removed: tuple[str, ...]
    added: tuple[str, ...]


class StepText(msgspec.Struct, frozen=True):
    """What a step says: its title, why it is taken now, what tests gain, what to mind, and how to check it."""

    title: str
    why_now: str
    frees: tuple[str, ...] = ()
    hazards: tuple[str, ...] = ()
    check: str = "The code compiles; nothing behaves differently."


class PlannedStep(msgspec.Struct, frozen=True, kw_only=True):
    """A step before its place in a plan is known: `about` is the class whose measures it changes, `classes` all of them.

    `needs` are ids of steps that it asks for beside those that the plan finds.
    """

    technique: str
    id: str
    about: int
    classes: tuple[int, ...]
    text: StepText
    edits: tuple[Edit, ...]
    code: tuple[Code, ...] = ()
    added: tuple[str, ...] = ()
    """Soft bonds that it adds."""
    removed: tuple[str, ...] = ()
    """Hard bonds that it removes."""
    needs: tuple[str, ...] = ()
    lifetime: str = ""
    target: str = ""
    """What it no longer decides on, by its name, where that may lie outside."""
    follows: int = -1
    """A class whose earlier steps it needs."""
    layer_of: int = -1
    """The class in whose layer it takes place, where that is another one."""


class Step(msgspec.Struct, frozen=True):
    """The smallest change after which the code builds and behaves as before.

    `id` is made from what changes and stays the same from plan to plan; `needs` are ids of earlier steps.
    """

    number: int
    id: str
    technique: str
    title: str
    classes: tuple[str, ...]
    layer: str
    why_now: str
    edits: tuple[Edit, ...]
    code: tuple[Code, ...]
    frees: tuple[str, ...]
    """What a test can replace from here on."""
    hazards: tuple[str, ...]
    check: str
    balance: Balance
    before: Measures
    after: Measures
    needs: tuple[str, ...] = ()
    lifetime: str = ""
    """How long what is handed in should live, and why, where the step decides on that."""
    files: tuple[Touched, ...] = ()
    """The files that the step changes, as the steps before it leave them, and as it does."""
    estimated: bool = False
    """Whether `before` or `after` is worked out, since no scan tells which of several steps the figures are due to."""


class LeftOver(msgspec.Struct, frozen=True):
    """Hard bonds of one class on one target that this plan does not loosen, and why."""

    source: str
    target: str
    kind: str
    count: int
    file: str
    line: int
    reason: str
    level: str = ""
    """The gravest of their levels."""


class Done(msgspec.Struct, frozen=True):
    """A step that the code shows to be done already."""

    id: str
    technique: str
    title: str
    file: str
    line: int


class Kept(msgspec.Struct, frozen=True):
    """An old constructor, or a default in its place, that is there at the end of a plan, and why."""

    name: str
    file: str
    line: int
    reason: str


class Waiting(msgspec.Struct, frozen=True):
    """What steps gain only once callers pass what classes take: until then their old constructors, or defaults, supply it as
    before."""

    strain: float = 0.0
    hard_bonds: int = 0
    classes: int = 0


class Plan(msgspec.Struct, frozen=True):
    """Steps in order, what is left over, what is done already, and the totals at the start and the end."""

    steps: tuple[Step, ...]
    left: tuple[LeftOver, ...]
    strain: tuple[float, float]
    hard_bonds: tuple[int, int]
    not_shown: int = 0
    """Steps that the limit asked for cut off."""
    done: tuple[Done, ...] = ()
    waiting: Waiting = Waiting()
    """How much of what the totals lose still waits behind old constructors at the end."""
    kept: tuple[Kept, ...] = ()
    """Old constructors that stay once all steps are taken; none where not all are shown."""
    choices: tuple[str, ...] = ()
    """Questions that a person has to answer before the steps are taken."""
    unproven: dict[str, int] = {}
    """Decisions that are left because what would be written did not hold, by the check that it failed."""
    goals: tuple[Goal, ...] = ()
    """The classes that the plan is for, where it was made for some."""
    stages: tuple[Stage, ...] = ()
    """The parts of a plan of the whole, in order."""


def digest_of(content: bytes | None) -> str:
    """SHA-256 of the content of a file, in hexadecimal digits; '' where there is none."""
    return "" if content is None else hashlib.sha256(content).hexdigest()


def step_id(technique: str, *names: str) -> str:
    """The id of a step, from what it changes."""
    return f"{technique}-{hashlib.blake2b(chr(31).join(names).encode(), digest_size=3).hexdigest()}"
