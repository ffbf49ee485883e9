"""One frozen record of settings, merged in one function: defaults, then `isodesm.toml`, then options given."""

from __future__ import annotations

import difflib
import math
from collections.abc import Iterable
from pathlib import Path
from typing import Any

import msgspec

from isodesm.catalogue import Catalogue
from isodesm.disk.opening import LARGEST_RULES, read_plain
from isodesm.errors import SettingsError

FILE_NAME = "isodesm.toml"


OF_MACHINE = frozenset(("workers", "cache-folder", "cache-limit", "step"))
"""Settings that change how fast a result comes or how steps are carried out, and nothing in any result."""


class StrainWeights(msgspec.Struct, frozen=True, kw_only=True, rename="kebab", forbid_unknown_fields=True):
    """Base weight of a hard bond in the strain of a class, by kind of finding; see `docs/measures.md`."""

    hard_wired_creation: float = 2.0
    static_singleton: float = 3.0
    static_effect: float = 2.0
    ambient_state: float = 3.0
    service_lookup: float = 3.0
    wrong_way: float = 1.5
    """Factor for a bond that crosses into an outer layer."""
    most_effects: int = 3
    """Locked effects of a target that count; more would drown the rest."""


MOST_WORKERS, MOST_SECONDS, MOST_BYTES, MOST_WEIGHT = 256, 3600.0, 10**15, 1e6
"""The largest numbers that make sense."""


class LayerRule(msgspec.Struct, frozen=True, kw_only=True, rename="kebab", forbid_unknown_fields=True):
    """A layer, outermost first in the list; a class belongs to it if its package or folder is one of `packages` or lies below
    one, else if a segment of it is one of `segments`."""

    name: str
    segments: tuple[str, ...] = ()
    packages: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if not (self.segments or self.packages):
            raise ValueError(f"the layer `{self.name}` has neither `segments` nor `packages`")


class Limits(msgspec.Struct, frozen=True, kw_only=True, rename="kebab", forbid_unknown_fields=True):
    """Numbers beyond which a shape becomes a finding; see `docs/findings`."""

    most_dependencies: int = 7
    """Services that a constructor may take."""
    most_statements: int = 40
    """Statements of one member of a presentation class."""
    most_literals: int = 12
    """Literals in one field of a presentation class: beyond that they are data."""
    decisions: int = 6
    """Branches from which a member that also has an effect mixes two jobs."""


class Acceptance(msgspec.Struct, frozen=True, kw_only=True, rename="kebab", forbid_unknown_fields=True):
    """A finding that was looked at and is to stay: its kind, the class (a pattern on the qualified name), and why."""

    kind: str
    reason: str
    class_: str = msgspec.field(name="class", default="*")
    target: str = "*"


class Stepping(msgspec.Struct, frozen=True, kw_only=True, rename="kebab", forbid_unknown_fields=True):
    """How steps are carried out."""

    check: str = ""
    """Command line of the shell that must end with 0 after each step; run in the folder that is read."""
    check_seconds: float = 0.0
    """The longest that it may take; 0 for any time."""


class Settings(msgspec.Struct, frozen=True, kw_only=True, rename="kebab", forbid_unknown_fields=True):
    """Everything a user can set. Patterns are those of ignore files."""

    languages: tuple[str, ...] = ()
    include: tuple[str, ...] = ()
    exclude: tuple[str, ...] = ()
    workers: int = 0
    """Processes that read files; 0: as many as there are processors."""
    largest_file: int = 4_000_000
    """Bytes; larger files are hardly written by hand and are left out by name."""
    seconds_per_file: float = 10.0
    """The longest that reading one file with odd content may take; it is left out by name after that."""
    cache_folder: str = ""
    """Folder of the facts cache; '' for none. The command line fills in the user's own."""
    cache_limit: int = 2_000_000_000
    """Bytes that the cache may have."""
    roles: dict[str, str] = {}
    """Role by pattern on the qualified name (`*` for any run of characters)."""
    layers: tuple[LayerRule, ...] = ()
    strain: StrainWeights = StrainWeights()
    limits: Limits = Limits()
    step: Stepping = Stepping()
    accept: tuple[Acceptance, ...] = ()
    catalogue: dict[str, Catalogue] = {}
    """Own entries by language, in the form of the catalogue's files."""

    def of_results(self) -> dict[str, Any]:
        """The settings that shape results, as they are spelt in the file; those of the machine are left out."""
        return {name: value for name, value in msgspec.to_builtins(self).items() if name not in OF_MACHINE}


def find_settings_file(start: Path) -> Path | None:
    """The nearest `isodesm.toml` in `start` or a folder above it."""
    folder = start if start.is_dir() else start.parent
    for each in (folder, *folder.parents):
        candidate = each / FILE_NAME
        if candidate.is_file():
            return candidate
    return None


def load_settings(file: Path | None, given: dict[str, Any]) -> Settings:
    """Defaults, overridden by `file`, overridden by the options in `given` that are not None.

    Raises SettingsError, with the nearest known name where a key is unknown.
    """
    merged: dict[str, Any] = {}
    if file is not None:
        try:
            merged = msgspec.toml.decode(read_plain(file, LARGEST_RULES))
        except (OSError, UnicodeDecodeError, msgspec.DecodeError) as error:
            raise SettingsError(
                f"{file}: can't be read as settings: {error}. Mend the file or name another with --config."
            ) from None
    merged |= {key: value for key, value in given.items() if value is not None}
    try:
        settings = msgspec.convert(merged, Settings)
    except msgspec.ValidationError as error:
        raise SettingsError(f"{file or 'options'}: {_explain(str(error))}") from None
    _check(settings, str(file or "options"))
    return settings


def _check(settings: Settings, where: str) -> None:
    """What a type can't say: acceptances have a reason, catalogue entries a known language."""
    for each in settings.accept:
        if not each.reason.strip():
            raise SettingsError(f"{where}: the acceptance of `{each.kind}` for `{each.class_}` needs a reason.")
    from isodesm.facts.languages import LANGUAGES

    _check_numbers(settings, where)
    if settings.include or settings.exclude:
        from isodesm.reading.patterns import Patterns

        for fault in Patterns((*settings.include, *settings.exclude)).faults:
            raise SettingsError(f"{where}: {fault.reason}.")
    if settings.roles:  # which kinds and roles there are is only loaded where some are named: answers begin with this
        from isodesm.inference.evidence import ROLES

        for role in settings.roles.values():
            _check_known(where, "a role", role, ROLES)
    if settings.accept:
        from isodesm.diagnosis.shared.findings import KINDS

        for each in settings.accept:
            _check_known(where, "a kind of finding", each.kind, (*KINDS, "*"))
    for language in settings.catalogue:
        if language not in LANGUAGES:
            raise SettingsError(f"{where}: catalogue entries are for one of {', '.join(LANGUAGES)}, not `{language}`.")


def _check_numbers(settings: Settings, where: str) -> None:
    """Numbers that are too large, or none at all, for what they are about."""
    if not 0 <= settings.workers <= MOST_WORKERS:
        raise SettingsError(f"{where}: workers is a number from 0 to {MOST_WORKERS}, not {settings.workers}.")
    if not 0 < settings.seconds_per_file <= MOST_SECONDS:
        raise SettingsError(f"{where}: seconds-per-file is more than 0 and at most {MOST_SECONDS:g}.")
    for name in ("largest_file", "cache_limit"):
        if not 0 <= getattr(settings, name) <= MOST_BYTES:
            raise SettingsError(f"{where}: {name.replace('_', '-')} is a number from 0 to {MOST_BYTES}.")
    for what, numbers in (("weight", settings.strain), ("limit", settings.limits)):
        for name, written in zip(numbers.__struct_fields__, numbers.__struct_encode_fields__, strict=True):
            value = getattr(numbers, name)
            if not math.isfinite(value) or not 0 <= value <= MOST_WEIGHT:
                raise SettingsError(f"{where}: the {what} {written} is a number from 0 to {MOST_WEIGHT:g}.")


def _check_known(where: str, what: str, name: str, known: Iterable[str]) -> None:
    if name not in known:
        near = difflib.get_close_matches(name, known, n=1)
        hint = f"did you mean `{near[0]}`?" if near else f"known are {', '.join(known)}."
        raise SettingsError(f"{where}: `{name}` is not {what}; {hint}")


def _explain(message: str) -> str:
    """The message of a failed validation, with a suggestion for an unknown key."""
    _, found, rest = message.partition("unknown field `")
    if not found:
        return message
    known = [
        field.encode_name
        for kind in (Settings, StrainWeights, LayerRule, Limits, Acceptance, Catalogue)
        for field in msgspec.structs.fields(kind)
    ]
    name = rest.partition("`")[0]
    near = difflib.get_close_matches(name, known, n=1)
    return f"unknown setting `{name}`" + (f"; did you mean `{near[0]}`?" if near else "; see the README for the known ones")
