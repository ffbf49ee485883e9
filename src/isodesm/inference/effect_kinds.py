"""The effects there are, and how grave each is for a unit test."""

from __future__ import annotations

EFFECTS = (
    "network",
    "database",
    "file",
    "process",
    "gui",
    "sleep",
    "thread",
    "clock",
    "random",
    "environment",
    "console",
)
"""All effects, the gravest for a unit test first; lists of effects keep this order."""
GRAVITY = {effect: rank for rank, effect in enumerate(EFFECTS)}

SEVERE = frozenset(("network", "database", "process", "file", "sleep", "gui"))
"""Effects that stop a unit test or slow it down."""
UNSURE = frozenset(("clock", "random", "thread"))
"""Effects that make the result of a unit test uncertain. What is left, console and environment, is a nuisance."""
GRAVE = SEVERE | UNSURE
HANDED_IN = frozenset(("database",))
"""Effects whose calls are made on an object that somebody else opened, so that a double can stand in for it."""
WORTH_WRAPPING = frozenset(("network", "database", "file", "process", "sleep", "clock", "random"))
"""Effects for which a single function is worth handing in: unit tests suffer from them, and a double is quickly written."""

EFFECT_WORDS = {
    "network": "the network",
    "database": "a database",
    "file": "the file system",
    "process": "another process",
    "clock": "the clock",
    "random": "random numbers",
    "sleep": "a pause",
    "environment": "the environment",
    "console": "the console",
    "thread": "threads",
    "gui": "the screen",
}
"""What a sentence calls each."""
