"""`isodesm fleet`."""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from isodesm.cli import options as opt
from isodesm.cli.options import Reading, reads_tree
from isodesm.cli.phases import Phases
from isodesm.cli.run import FORMATS, check_choice, check_format, hand_out, say

if TYPE_CHECKING:
    from isodesm.fleet.answers import Asked, TreeAnswer
    from isodesm.fleet.shared import SharedType
    from isodesm.fleet.trees import Tree

MOST_WORKERS = 8
"""Worker processes on this machine, if nobody says how many."""
SHIPPED_AT_MOST = 400_000_000
"""Bytes of one tree that are sent along."""


@dataclass(frozen=True, slots=True)
class FleetOptions:
    """What the command is asked for."""

    trees: Annotated[
        list[str] | None,
        typer.Argument(help="Folders, patterns, or files with one of either a line.", metavar="TREES...", show_default=False),
    ] = None
    by: Annotated[
        str, typer.Option("--by", help="strain, hard-bonds, density, worst, lines or classes.", metavar="MEASURE")
    ] = "strain"
    shared: Annotated[bool, typer.Option("--shared", help="Types that several trees declare, use, or make by hand.")] = False
    format: opt.Format = "table"
    top: Annotated[int, typer.Option("--top", min=0, help="Trees to show; 0 for all.", metavar="N")] = 20
    store: Annotated[
        Path | None, typer.Option("--store", help="Write types, bonds, findings and measures as Parquet.", metavar="FOLDER")
    ] = None
    ship: Annotated[bool, typer.Option("--ship", help="Send the files along, for workers that don't have them.")] = False
    report: Annotated[Path | None, typer.Option("--report", help="Write a page about all trees, too.", metavar="FILE")] = None
    resume: Annotated[bool, typer.Option("--resume", help="Go on with a run over the same trees that was interrupted.")] = False


@reads_tree
def fleet(reading: Reading, chosen: FleetOptions) -> None:
    """Where is it worst among many codebases, and what do they share?"""
    from isodesm.fleet.trees import trees_of
    from isodesm.output.fleet_table import ORDERS

    check_format(chosen.format, FORMATS)
    check_choice("--by", chosen.by, ORDERS)
    found = trees_of(chosen.trees or [])
    answers = _answers(
        reading,
        _requests(reading, found, chosen.shared or chosen.report is not None, chosen.store is not None),
        chosen.ship,
        chosen.resume,
        chosen.store,
    )
    if chosen.report is not None:
        from isodesm.fleet.shared import shared_types
        from isodesm.output.page.trees import fleet_content
        from isodesm.output.page.writing import OF_FLEET, page_of

        title = f"{len(found)} codebases"
        hand_out(page_of(fleet_content(answers, shared_types(answers), title), OF_FLEET), chosen.report)
    _hand_out(reading, answers, chosen.shared, chosen.by, chosen.format, chosen.top)
    failed = [each for each in answers if each.error or each.trouble]
    if failed and reading.strict:
        say("isodesm: not all of these trees could be read (--strict)")
        raise typer.Exit(1)


def _requests(reading: Reading, found: list[Tree], shared: bool, tables: bool) -> list[Asked]:
    from isodesm.fleet.answers import Asked

    options = {name: value for name, value in reading.options.items() if value is not None and name != "workers"}
    config = str(reading.config.resolve()) if reading.config is not None else ""
    return [Asked(each.name, each.path, {**options, "workers": 1}, config, shared, tables) for each in found]


def _answers(reading: Reading, requests: list[Asked], ship: bool, resume: bool, store: Path | None) -> list[TreeAnswer]:
    """The answers by name; what an interrupted run had is taken from where it was kept."""
    import os

    from isodesm.fleet.checkpoints import Kept
    from isodesm.fleet.executors import answers as run
    from isodesm.reading.cache import default_folder

    kept = Kept(Path(reading.options.get("cache-folder") or default_folder()), requests)
    made = kept.found() if resume else {}
    if resume and not reading.quiet:
        say(f"isodesm: {len(made)} of {len(requests)} trees were answered for before")
    workers = reading.options.get("workers") or min(os.cpu_count() or 1, MOST_WORKERS)
    phases = Phases(quiet=reading.quiet)
    left = [_shipped(each) if ship else each for each in requests if each.name not in made]
    with phases.during("trees") as progress:
        for answer in run(left, workers, reading.scheduler):
            made[answer.name] = answer
            kept.keep(answer)
            progress("trees", len(made), len(requests))
    if store is not None:
        from isodesm.fleet.tables import store as write

        for name in sorted(made):
            write(store, name, made[name].tables)
        say(f"written: {store}")
    kept.forget()
    if reading.verbose:
        say(phases.said())
    return [made[each.name] for each in requests]


def _shipped(asked: Asked) -> Asked:
    """A request with the files of its tree, as far as they are read."""
    import msgspec

    from isodesm.disk.opening import read_plain
    from isodesm.errors import UsageError
    from isodesm.reading.discovery import discover
    from isodesm.settings import find_settings_file, load_settings

    root = Path(asked.path)
    if not os.path.isdir(root):
        return asked
    config = Path(asked.config) if asked.config else find_settings_file(root)
    found = discover(root, load_settings(config, asked.options))
    files: dict[str, bytes] = {}
    for path in (*(each.path for each in found.files), *found.projects, *found.manifests, *found.data):
        try:
            files[path] = read_plain(root / path)
        except OSError:
            continue
    if config is not None:
        files["isodesm.toml"] = config.read_bytes()
    if sum(map(len, files.values())) > SHIPPED_AT_MOST:
        raise UsageError(f"{asked.name} is too large to be sent along; let the workers have its files at the same place.")
    options = {**asked.options, "cache-folder": ""}
    return msgspec.structs.replace(asked, files=files, options=options, config="")


def _hand_out(reading: Reading, answers: list[TreeAnswer], shared: bool, by: str, format: str, top: int) -> None:
    from isodesm.fleet.shared import shared_types
    from isodesm.output import delimited, envelope
    from isodesm.output.fleet_table import fleet_result, fleet_rows, print_fleet
    from isodesm.output.terminal import content_of, make_console

    types: tuple[SharedType, ...] | None = shared_types(answers) if shared else None
    if format == "json":
        content = envelope.enveloped("fleet", ".", {}, fleet_result(answers, types, by))
    elif format == "csv":
        content = delimited.to_csv(fleet_rows(answers, by))
    elif format == "markdown":
        content = delimited.to_markdown(fleet_rows(answers, by), "Fleet")
    else:
        console = make_console(reading.output is not None)
        print_fleet(console, answers, types, by, top)
        content = content_of(console)
    hand_out(content, reading.output)
