"""What a diagnosis says: findings, and would-be findings with the excuse that spoke for them."""

from __future__ import annotations

import hashlib
from collections import Counter
from typing import Any

import msgspec

LEVELS = ("error", "warning", "note")

HARD_KINDS = ("hard-wired-creation", "static-singleton", "static-effect", "ambient-state", "service-lookup")
"""Kinds of finding that are hard bonds, in the order in which tables show them."""

KINDS = {
    "hard-wired-creation": "A service-like class is created where it is used.",
    "static-singleton": "A shared instance is fetched through a static member or a variable of a module.",
    "static-effect": "A static or module-level function with an effect is called directly.",
    "ambient-state": "State that belongs to nobody is read or written where a handed-in value would do.",
    "service-lookup": "A dependency is pulled out of a container, registry or locator.",
    "injected-container": "The container itself is handed in and used as a locator.",
    "bypassed-injection": "A class that expects injected members is created by hand, so they stay unset.",
    "captive-dependency": "A longer-lived registration consumes a shorter-lived one.",
    "unregistered-dependency": "An injected abstraction that nothing registers or implements.",
    "duplicate-registration": "One abstraction is registered twice in one scope.",
    "split-instance": "One stateful service is registered in sibling scopes, so each gets its own state.",
    "mismatched-argument": "A definition file hands a constructor arguments that don't fit its parameters.",
    "dependency-cycle": "Services need each other to be constructed.",
    "outward-dependency": "An inner layer depends on an outer one.",
    "layer-skip": "A layer reaches past its neighbour.",
    "leaked-boundary-type": "A service returns, takes or throws types of the presentation or transport side.",
    "unguarded-error": "An error that a service throws is handled by no boundary class that calls it.",
    "mixed-responsibility": "One member holds both an effect and decisions.",
    "oversized-boundary": "A presentation class carries logic or data that belongs in a service.",
    "too-many-dependencies": "A constructor takes more dependencies than the limit.",
    "untyped-injection-point": "A constructor parameter has no type to inject by.",
    "unused-dependency": "An injected dependency is never used.",
    "late-dependency": "A dependency arrives after construction, though a constructor could take it.",
    "ambiguous-implementation": "Several managed classes serve an injected abstraction, and nothing says which is meant.",
    "misleading-name": "A role suffix is at odds with the role or the folder.",
}
"""Every kind of finding with what it says; `docs/findings/` has a page for each."""

EXCUSES = {
    "accepted": "looked at by a person, with the reason in a remark or in the settings",
    "adapter": "this class only passes on what it is asked: it is the object that stands for those functions",
    "boundary": "reading the request is the job of this class, or of this script",
    "composition-root": "putting objects together is the job of this place",
    "cross-cutting": "loggers, texts and the like: nobody injects those",
    "data": "entities, values, events, enums: they hold data and decide nothing",
    "exception": "errors are made where they are thrown",
    "factory": "creating is the job of this member, and its result is handed out",
    "framework-required": "the host calls for it: a listener, a callback, an anonymous subclass",
    "generated": "generated code, made anew by its generator",
    "own-device": "this class is the wrapper around that device or store",
    "own-state": "only its own class reads and writes it",
    "part": "a private helper of its owner, without effects or collaborators",
    "pure": "computes from what it is given: no effect, no shared state, no collaborator",
    "standard-value": "collections, texts, numbers and other standard values",
    "test": "test code puts its own objects together",
    "unknown": "neither that it is harmless nor that it is not can be shown: somebody has to look",
    "unknown-library": "a library class that nothing is known about",
    "view-part": "a view puts its own visual parts together",
}
"""Every excuse with what it means, as the reports spell it."""

UNKNOWN = ("unknown", "unknown-library")
"""What is no excuse: places that are passed over since nothing is known of them, counted and listed by themselves."""


class Related(msgspec.Struct, frozen=True):
    """Another place that a finding speaks of, and what stands there."""

    file: str
    line: int
    message: str


class Finding(msgspec.Struct, frozen=True, omit_defaults=False):
    """One thing that should be looked at, or with `excuse` one that need not; an accepted one has its `justification`.

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
    related: tuple[Related, ...] = ()
    places: int = 1
    """Places that the finding stands for: this one, and those that `related` names as more of the same."""
    excuse: str = ""
    justification: str = ""
    accepted_in: str = ""
    """`remark` or `settings`."""
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
    """One for each decision, with all its places."""
    places: tuple[Finding, ...]
    """The same before what belongs together was made one: a finding for each place."""
    excused: tuple[Finding, ...]
    by_excuse: dict[str, int]
    unused_acceptances: tuple[Related, ...] = ()
    """Remarks and settings that accept something which is not found, or not any more."""

    @property
    def proven(self) -> tuple[Finding, ...]:
        """Would-be findings with an excuse that says something."""
        return tuple(each for each in self.excused if each.excuse not in UNKNOWN)

    @property
    def unknown(self) -> tuple[Finding, ...]:
        """Would-be findings of which nobody can tell."""
        return tuple(each for each in self.excused if each.excuse in UNKNOWN)

    @property
    def counts(self) -> tuple[dict[str, int], dict[str, int]]:
        """`by_excuse` in two: of excuses that say something, and of places of which nobody can tell."""
        proven = {name: count for name, count in self.by_excuse.items() if name not in UNKNOWN}
        return proven, {name: count for name, count in self.by_excuse.items() if name in UNKNOWN}

    @property
    def hard(self) -> tuple[Finding, ...]:
        """The places that are hard bonds."""
        return tuple(each for each in self.places if each.kind in HARD_KINDS)

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


class Pool:
    """Equal parts of many findings as one object: what workers send has each of its texts for itself."""

    def __init__(self) -> None:
        self._known: dict[Any, Any] = {}

    def of(self, finding: Finding) -> Finding:
        """The same finding, with the parts that others have."""
        one = self._known.setdefault
        return Finding(
            *(one(each, each) if isinstance(each, str | tuple) else each for each in msgspec.structs.astuple(finding))
        )
