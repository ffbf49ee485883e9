"""What a step says that injects something into a class."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec

from isodesm.planning.model.step import StepText


class Injected(msgspec.Struct, frozen=True, kw_only=True):
    """The facts of an injection: the class, what it takes, what it no longer decides on, the effects it is rid of."""

    source: str
    what: str
    which: str = ""
    """What tells it from another of the same type."""
    as_code: str
    target: str
    gone: tuple[str, ...] = ()
    legacy: bool = False
    """Whether callers may leave it out for now."""
    overloads: bool = False
    """Whether they do so by a constructor of their own."""
    reads: bool = False
    """Whether it is a function that reads something."""


def injected(facts: Injected, reasons: Sequence[str], hazards: tuple[str, ...], check: str) -> StepText:
    """The texts of an injection."""
    kept = "" if not facts.legacy else ", old constructor kept" if facts.overloads else ", optional so far"
    return StepText(
        title=f"Hand {facts.source} {'a' if facts.reads else 'its'} {facts.what}{facts.which}{kept}",
        why_now=" ".join((f"`{facts.source}` no longer decides on `{facts.target}`.", *reasons)),
        frees=(
            f"a test of `{facts.source}` can pass its own {facts.as_code}",
            *(f"{effect} is out of `{facts.source}`" for effect in facts.gone),
        ),
        hazards=hazards,
        check=check,
    )


def done_before(source: str, what: str) -> str:
    """The title of an injection that the code shows to be done."""
    return f"Hand {source} its {what}"


def extracted_before(interface: str, target: str) -> str:
    """The title of an extraction that the code shows to be done."""
    return f"Extract interface {interface} from {target}"


# --- what is injected ----------------------------------------------------------------------


def factory_of(name: str) -> str:
    """A function that creates something."""
    return f"maker of {name}"


READER = "reader of"
"""What names of such functions begin with."""


def reader_of(owner: str, state: str) -> str:
    """A function that reads a state."""
    return f"{READER} {owner}.{state}"


def lookup_of(name: str) -> str:
    """A function that looks something up."""
    return f"look-up of {name}"


def data_of(field: str) -> str:
    """A table of data."""
    return f"data, `{field}`"


def function_of(name: str, owner: str) -> str:
    """A function that several classes have one of."""
    return f"{name} of {owner}"


# --- why -----------------------------------------------------------------------------------

NO_NEW_ABSTRACTIONS = "no new abstractions were asked for"
NO_TYPES = "this file has no types"
NEEDS_ITS_CLASS = "it passes it on, or others see it"
GOES_BY_CLASSES = "its container goes by classes, and an interface is none when the program runs"
ASKS_TOO_MUCH = "an interface would have to leave out what is asked of it"
CONTAINER_INJECTS = "Its container hands it in from here on."
ROOT_INJECTS = "Only the composition root creates it, so its callers change in the same step."


def asks_for_class(target: str, why: str) -> str:
    """That the class itself is asked for."""
    return f"It asks for `{target}` itself: {why}."


def rid_of(effects: Sequence[str]) -> str:
    """What its tests gain."""
    return f"Its tests are rid of {', '.join(effects)}."


def stays_for(why: str, *, overloads: bool) -> str:
    """Why callers may leave the new parameter out."""
    return f"{'The old constructor stays' if overloads else 'The parameter may be left out'}{why}."


ONLY_CLASS_KNOWS = ": only this class knows what it is made from"
NOBODY_CREATES = ", for nobody in this tree creates it: a host may, without arguments"
CONTAINER_CREATES = ", for a container makes this class, and has not been told of more"
NAMED_ELSEWHERE = ", for files that do not make this class name it, and may hand it on to be called anywhere"
CANT_NAME = ": those who make this class can't name all that it takes"
FOR_OTHERS = " for its subclasses, or for what callers leave out already"


def for_callers(callers: Sequence[str]) -> str:
    """Whom the legacy constructor stays for."""
    return f" for {', '.join(callers[:4])}{' and others' if len(callers) > 4 else ''}"


SHARED_LIFETIME = "singleton, as the shared object does now"


def check_of(tests: Sequence[str]) -> str:
    """How an injection is checked."""
    named = f" Run {', '.join(tests[:3])}." if tests else " No test creates this class yet: now one can."
    return "See that the code compiles and behaves as before." + named
