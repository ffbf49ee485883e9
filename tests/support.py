"""Small source trees to test on, and the built program as a user runs it."""

from __future__ import annotations

import os
import re
import subprocess
import tempfile
import unittest
from collections.abc import Callable
from pathlib import Path
from typing import Any

from isodesm.catalogue import Catalogues, catalogue_of
from isodesm.codebase.model import Codebase
from isodesm.codebase.reading import read
from isodesm.diagnosis.diagnose import diagnose
from isodesm.planning.model.step import Plan
from isodesm.planning.planner.options import Options
from isodesm.planning.planner.plan import plan
from isodesm.settings import FILE_NAME, Settings, load_settings
from tests import server

GROUPS = frozenset(os.environ.get("ISODESM_TESTS", "").split(","))
"""Groups of tests that are wanted beside the others: `green`, `fuzz`, `pictures`."""
CASES = Path(__file__).parent / "cases"
DEMO = Path(__file__).parent.parent / "src/isodesm/demo/samples"
CLASSES = {
    "bulletin-desk": ("BulletinService", "BulletinService.publish"),
    "forecast-jobs": ("RecheckJob", "RecheckJob.run"),
    "sensor-hub": ("PollFunction", "PollFunction.Tick"),
    "slope-map": ("ClosureService", "MapViewComponent.draw"),
    "warden-portal": ("ClosureService", "ClosureController.close"),
}
"""Sample to a class of it, and a call."""


def public(language: str, what: str) -> str:
    """A public identifier of some sort, as the catalogue of a language has it first: tests hold none of their own.

    `inject` marks what a container fills in; `controller` marks a class of the boundary; `scope` is an annotation with a list
    `providers`; `singleton`, `scoped`, `transient` register by a call, `a-singleton` and so on by an annotation; an
    interface with the base `adapted` is called to have what serves it looked up; `host-chain` and `global-chain` hand out what
    is asked by `host-lookup` and `global-lookup`; a host makes what has the base `host-base`.
    """
    catalogue, words = catalogue_of(language), Catalogues().registering(language)
    if what == "inject":
        return catalogue.injection.annotations[0]
    if what == "scope":
        return next(name for name, keys in words.metadata.items() if "providers" in keys)
    if what == "controller":
        return next(iter(catalogue.roles.annotations["presentation"]))
    if what == "test":
        return next(iter(catalogue.roles.annotations["test"]))
    if what in ("adapted", "adapted-module"):
        return catalogue.adapted.types.split()[0].rpartition(".")[0 if what.endswith("module") else 2]
    if what in ("host-base", "host-base-module"):
        return catalogue.host_made.types.split()[0].rpartition(".")[0 if what.endswith("module") else 2]
    if what.endswith(("-chain", "-lookup")):
        chains = (each for each in catalogue.handed_out.items() if ("." in each[0]) == what.startswith("global"))
        chain, type = next(chains)
        return chain if what.endswith("-chain") else catalogue.lookups[type][0]
    rules = words.annotations if what.startswith("a-") else words.calls
    return next(name for name, lifetime in rules.items() if lifetime == what.removeprefix("a-"))


def word(language: str, family: str, what: str) -> str:
    """A word of a family of containers: `field` or `field=value` of its entry, `#2` for the second such; of `imports` the
    first, made a name that can be imported from."""
    rules = catalogue_of(language).containers[family]
    asked, _, position = what.partition("#")
    field, _, value = asked.partition("=")
    entry = getattr(rules, field.replace("-", "_"))
    found = [entry] if isinstance(entry, str) else [name for name in entry if not value or entry[name] == value]
    chosen = found[int(position or 1) - 1]
    return chosen.rstrip("/\\.") if field in ("imports", "descriptors", "bases", "offsets") else chosen


def split_case(text: str) -> dict[str, str]:
    """The files of a case: each begins with a line `=== path`; `<<language what>>` and `<<language.family word>>` stand for
    public identifiers."""
    files = {}
    text = re.sub(r"<<(\w+)\.(\w+) ([\w=#-]+)>>", lambda found: word(found[1], found[2], found[3]), text)
    text = re.sub(r"<<(\w+) ([\w-]+)>>", lambda found: public(found[1], found[2]), text)
    for part in re.split(r"^=== ", text, flags=re.MULTILINE)[1:]:
        path, _, body = part.partition("\n")
        files[path.strip()] = body
    return files


def read_sample(name: str) -> Codebase:
    """A sample codebase as the program reads it: with its settings."""
    return read(DEMO / name, load_settings(DEMO / name / FILE_NAME, {}))


def case_names(folder: str) -> list[str]:
    """Names of the case files in a folder of `cases`."""
    return sorted(path.name for path in (CASES / folder).iterdir())


def part_of(group: str) -> Callable[[Any], Any]:
    """Marks tests of a group that `make GROUP` runs and `make test` does not: they carry out and compile, or try at random."""
    return unittest.skipUnless(group in GROUPS, f"`make {group}` runs it")


def share(group: str, few: Any, every: Any) -> Any:
    """Every one where a group is wanted, else a few of them."""
    return every if group in GROUPS else few


def plan_of(codebase: Codebase, **options: object) -> Plan:
    """The plan of a codebase."""
    return plan(codebase, diagnose(codebase), Options(**options))


def as_text(said: bytes) -> str:
    """What a program says, with one sign for the end of a line."""
    return said.decode("utf-8").replace("\r\n", "\n")


class NoHistory:
    """What changes together in a tree that no history is known of."""

    def partners(self, file: int) -> tuple[()]:
        return ()


class TreeTest(unittest.TestCase):
    """A test with a folder of its own to write sources into."""

    maxDiff = None

    def setUp(self) -> None:
        holder = tempfile.TemporaryDirectory(prefix="isodesm-test-")
        self.addCleanup(holder.cleanup)
        self.root = Path(holder.name).resolve() / "tree"
        self.root.mkdir()

    def write(self, files: dict[str, str | bytes]) -> Path:
        """Write files below the test's folder."""
        for name, content in files.items():
            path = self.root / name
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_bytes(content if isinstance(content, bytes) else content.encode())
        return self.root

    def read(self, files: dict[str, str | bytes], **settings: object) -> Codebase:
        """The codebase that some files make."""
        root = self.write(files)
        return read(root, load_settings(root / FILE_NAME, settings) if FILE_NAME in files else Settings(**settings))

    def run_program(self, *arguments: str, **environment: str) -> subprocess.CompletedProcess[str]:
        """Run the program with arguments; its output as text."""
        home = str(self.root.parent / "cache")
        given = {**os.environ, "COLUMNS": "100", "ISODESM_CACHE_DIR": home, **environment}
        done = server.run(arguments, self.root, given, 120)
        return subprocess.CompletedProcess(done.args, done.returncode, as_text(done.stdout), as_text(done.stderr))
