"""What a diagnosis says: findings, and would-be findings with the excuse that spoke for them."""

from __future__ import annotations

import hashlib
from collections import Counter

import msgspec

LEVELS = ("error", "warning", "note")

EXCUSES = {
    "composition-root": "putting objects together is the job of this place",
    "cross-cutting": "loggers, texts and the like: nobody injects those",
    "data": "entities, values, events, enums: they hold data and decide nothing",
    "exception": "errors are made where they are thrown",
    "factory": "creating is the job of this member, and its result is handed out",
    "framework-required": "the host calls for it: a listener, a callback, an anonymous subclass",
    "generated": "generated code, made anew by its generator",
    "own-device": "this class is the wrapper around that device or store",
    "part": "a private helper of its owner, without effects or collaborators",
    "pure": "computes from what it is given: no effect, no shared state, no collaborator",
    "standard-value": "collections, texts, numbers and other standard values",
    "test": "test code puts its own objects together",
    "unknown-library": "a library class that nothing is known about",
    "view-part": "a view puts its own visual parts together",
}  # fmt: skip
"""Every excuse with what it means, as the reports spell it."""


class Finding(msgspec.Struct, frozen=True, omit_defaults=False):
    """One hard bond that should be looked at, or with `excuse` one that need not.

    `line` to `end_line` and `column` to `end_column` (exclusive) mark the span, counted from 1 in characters.
    `effects` are the locked effects of the target; `chain` is the shortest way to one of them.
    """

    id: str
    kind: str
    level: str
    message: str
    source: str
    member: str
    target: str
    file: str
    line: int
    column: int
    end_line: int
    end_column: int
    snippet: str
    why: tuple[str, ...]
    remedy: str
    reason: str = ""
    layer: str = ""
    crossing: str = ""
    effects: tuple[str, ...] = ()
    chain: tuple[str, ...] = ()
    external: bool = False
    excuse: str = ""
    source_number: int = -1
    target_number: int = -1
    """Numbers of the types in the codebase; -1 for a target outside it."""
    row: int = -1
    """Row of the bond table."""


class Diagnosis(msgspec.Struct, frozen=True):
    """All findings in order of file and place, and the would-be findings that an excuse spoke for.

    `by_excuse` counts the latter, most first; `excused` has them in full only where that was asked for.
    """

    findings: tuple[Finding, ...]
    excused: tuple[Finding, ...]
    by_excuse: dict[str, int]

    @property
    def by_level(self) -> dict[str, int]:
        """Findings a level, every level named."""
        counts = Counter(finding.level for finding in self.findings)
        return {level: counts[level] for level in LEVELS}


class Identities:
    """Ids that stay the same when lines move: made from what is bound to what, and the how-manieth of its like it is."""

    def __init__(self) -> None:
        self._seen: Counter[str] = Counter()

    def given_to(self, finding: Finding) -> Finding:
        """A finding with its id in the place of the text that the id is made from; call in order of place.

        Findings count apart from what has an excuse, so that their ids do not depend on whether those are listed.
        """
        key = f"{finding.id}\x1f{finding.excuse}" if finding.excuse else finding.id
        self._seen[key] += 1
        digest = hashlib.blake2b(f"{key}\x1f{self._seen[key]}".encode(), digest_size=5)
        return msgspec.structs.replace(finding, id=digest.hexdigest())
