"""What is said of one tree: worked out wherever there is room for it, from bytes to bytes."""

from __future__ import annotations

import multiprocessing
import os
import re
import subprocess
import sys
from collections import Counter, defaultdict
from pathlib import Path
from typing import Any

import msgspec

from isodesm import __version__
from isodesm.disk.own import lay, scratch
from isodesm.errors import IsodesmError

_QUALIFIED = re.compile(r"[.\\#/]")
TOP_AT_MOST = 15
"""Classes of a tree that are told."""
SHARED_AT_MOST = 4_000
"""Types of a tree that are compared with those of others: the most used."""


class Asked(msgspec.Struct, array_like=True):
    """A tree and what is wanted of it. `options` are settings by name; `files` its content where that was sent along."""

    name: str
    path: str
    options: dict[str, Any]
    config: str = ""
    shared: bool = False
    tables: bool = False
    files: dict[str, bytes] | None = None


class Use(msgspec.Struct, array_like=True):
    """What a tree has to do with a type: whether it declares it, how many classes use it, in how many places it is made."""

    declares: bool
    users: int
    created: int


class TreeAnswer(msgspec.Struct, array_like=True):
    """What is said of a tree, or why nothing can be."""

    name: str
    languages: dict[str, int] = {}
    """Files by language."""
    lines: int = 0
    classes: int = 0
    strain: float = 0.0
    hard_bonds: int = 0
    worst: str = ""
    """The class with the most strain."""
    worst_strain: float = 0.0
    top: list[tuple[str, str, float, int, list[str]]] = []
    """The most strained classes: name, file, strain, hard bonds, locked effects."""
    marked_strain: float | None = None
    """Strain at the time of its own mark, where it has one."""
    kinds: dict[str, int] = {}
    """Findings by kind."""
    trouble: int = 0
    """Files that could not be read in full."""
    error: str = ""
    uses: dict[str, Use] = {}
    tables: dict[str, dict[str, list[Any]]] = {}
    """Table to its columns, where they are to be stored."""

    @property
    def files(self) -> int:
        """Files that were read."""
        return sum(self.languages.values())


def version() -> str:
    """The version of this program, as a worker has it."""
    return __version__


def answered(request: bytes) -> bytes:
    """The answer to a request: MessagePack in, MessagePack out. A tree that fails says why; nothing is raised for it."""
    if multiprocessing.current_process().daemon:  # whose readers of odd files would not be let live
        done = in_a_process_of_its_own(__name__, request)
        return done.stdout if not done.returncode else _unanswered(request, done.returncode)
    asked = msgspec.msgpack.decode(request, type=Asked)
    try:
        if asked.files is None:
            made = _answer(asked, Path(asked.path))
        else:
            with scratch("isodesm-fleet-") as folder:
                root = folder / "tree"
                for name, content in asked.files.items():
                    lay(root, name, content)
                made = _answer(asked, root)
    except IsodesmError as error:
        made = TreeAnswer(asked.name, error=str(error).split("\n")[0])
    except OSError as error:
        made = TreeAnswer(asked.name, error=f"can't be read: {error.strerror or error}")
    except Exception as error:  # one tree must not end a run over a thousand
        made = TreeAnswer(asked.name, error=f"a mistake of ours ({type(error).__name__}: {error})")
    return msgspec.msgpack.encode(made)


def in_a_process_of_its_own(module: str, request: bytes) -> subprocess.CompletedProcess[bytes]:
    """What a module run as a program makes of a request on its standard input."""
    return subprocess.run([sys.executable, "-P", "-m", module], input=request, capture_output=True, check=False)


def _unanswered(request: bytes, code: int) -> bytes:
    asked = msgspec.msgpack.decode(request, type=Asked)
    return msgspec.msgpack.encode(TreeAnswer(asked.name, error=f"its process ended with {code}"))


def _answer(asked: Asked, root: Path) -> TreeAnswer:
    from isodesm.reading.replay import Replay
    from isodesm.settings import find_settings_file, load_settings

    config = Path(asked.config) if asked.config else find_settings_file(root) if os.path.exists(root) else None
    settings = load_settings(config, asked.options)
    replay = Replay(root, settings) if settings.cache_folder and os.path.isdir(root) else None
    marked = _marked_strain(root)
    shape = ("fleet", asked.shared, asked.tables, marked)
    if replay is not None and (kept := replay.find(shape, TreeAnswer)) is not None:
        kept.name = asked.name
        return kept
    made = _worked_out(asked, root, settings, replay)
    made.marked_strain = marked
    if replay is not None:
        replay.keep(shape, made)
    return made


def _worked_out(asked: Asked, root: Path, settings: Any, replay: Any) -> TreeAnswer:
    from isodesm.codebase.reading import read
    from isodesm.diagnosis.diagnose import diagnose
    from isodesm.fleet.tables import tables_of
    from isodesm.measures.ranking import rank

    codebase = read(root, settings, replay=replay)
    diagnosis = diagnose(codebase)
    ranking = rank(codebase, diagnosis)
    worst = ranking.classes[0] if ranking.classes and ranking.classes[0].strain else None
    return TreeAnswer(
        name=asked.name,
        languages=codebase.overview.languages,
        lines=codebase.overview.lines,
        classes=codebase.overview.classes,
        strain=ranking.total_strain,
        hard_bonds=ranking.total_hard_bonds,
        top=[
            (row.name, f"{row.file}:{row.line}", row.strain, row.hard_bonds, list(row.locked_effects))
            for row in ranking.classes[:TOP_AT_MOST]
            if row.strain
        ],
        worst=worst.name if worst is not None else "",
        worst_strain=worst.strain if worst is not None else 0.0,
        kinds=dict(sorted(Counter(each.kind for each in diagnosis.findings).items())),
        trouble=len({each.path for each in codebase.trouble}),
        uses=_uses(codebase) if asked.shared else {},
        tables=tables_of(codebase, diagnosis, ranking) if asked.tables else {},
    )


def _marked_strain(root: Path) -> float | None:
    from isodesm.drifting.mark import FILE_NAME, read_mark

    try:
        return read_mark(root / FILE_NAME).totals.strain
    except IsodesmError:  # there is none, or it is of another form
        return None


def _uses(codebase: Any) -> dict[str, Use]:
    """Types that production code declares, uses or makes, by qualified name; the most used where they are many."""
    from isodesm.linking.bonds import KIND_NUMBER, KINDS

    table, symbols = codebase.bonds, codebase.symbols
    creation = KIND_NUMBER["creation"]
    users: dict[str, set[int]] = defaultdict(set)
    created: Counter[str] = Counter()
    tests = {number for number in range(len(symbols)) if codebase.roles.name(number) == "test"}
    for row in range(len(table)):
        source, target = table.source[row], table.target[row]
        if table.kind[row] < len(KINDS) and source != target and source not in tests and target not in tests:
            name = codebase.target_name(target)
            if target < 0 and not _QUALIFIED.search(name):  # of which nobody knows whether it is the same one elsewhere
                continue
            users[name].add(source)
            created[name] += table.kind[row] == creation
    declared = {
        symbols.names[number]
        for number in range(len(symbols))
        if symbols.is_shown(number) and not symbols.is_module(number) and number not in tests
    }
    names = sorted(declared | users.keys(), key=lambda each: (-len(users.get(each, ())), each))[:SHARED_AT_MOST]
    return {each: Use(each in declared, len(users.get(each, ())), created[each]) for each in sorted(names)}


if __name__ == "__main__":
    sys.stdout.buffer.write(answered(sys.stdin.buffer.read()))
