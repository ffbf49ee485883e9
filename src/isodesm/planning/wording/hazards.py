"""What to mind where a step is taken, in words."""

from __future__ import annotations

from isodesm.planning.model.refusal import Hazard, Risk

SENTENCES: dict[Risk, str] = {
    Risk.BOUND_AT_CREATION: "`{name}` is looked up when the object is made: what a test puts in its place later does not "
    "reach this class",
    Risk.KEPT_LATE: "`{name}` is looked up at each call, as before: a test puts another in its place ({file}:{line})",
    Risk.READ_WHEN_ASKED: "whatever `{written}` is at the time is what it gives, as before",
    Risk.SERVES_ALL_CALLS: "one `{name}` now serves all calls; before, each call made its own",
    Risk.READ_ONCE: "`{name}` is read when the object is made, no longer each time",
    Risk.LOOKED_UP_ONCE: "it is looked up when the object is made, no longer each time: it has to be registered by then",
    Risk.LOOKED_UP_AS_BEFORE: "{because}: it is looked up when it is asked for, as before",
    Risk.BRINGS_EFFECT: "`{name}` brings {effect} as soon as it is made ({chain})",
    Risk.MAY_BE_ANOTHER: "each look-up may give another `{name}`, with state of its own",
    Risk.ACCESSOR_STAYS: "the accessor stays: {names} still {use} it",
    Risk.ACCESSOR_UNUSED: "nobody else uses the accessor: it can go once a composition root makes the object",
    Risk.FETCHED_ONCE: "it is fetched when the object is made, no longer each time: it has to be there by then",
    Risk.SUBCLASSES_KEEP_CALLING: "subclasses {names} keep calling the old constructor",
    Risk.SUBCLASSES_KEEP_DEFAULT: "subclasses {names} go on with the default",
    Risk.OPENED_FOR_TESTS: "its constructor is opened for tests: that there is one object is an agreement from here on",
    Risk.CONTAINER_GOES_ON: "a container makes this class, and goes on as before: it hands in no {what} until it is told "
    "of one{called}",
    Risk.SECURITY: "what secrets are made from becomes replaceable: whether it may be is a decision on security",
    Risk.CLASS_IS_STATIC: "the class is static",
    Risk.THREADS: "threads are at work here: what is handed in may be shared between them",
}
"""Risk to its sentence, with the facts in braces."""


def hazard(given: Hazard) -> str:
    """A hazard in words; one among its facts is put into words, too."""
    facts = {name: hazard(each) if isinstance(each, Hazard) else each for name, each in given.facts.items()}
    return SENTENCES[given.risk].format(**facts)
