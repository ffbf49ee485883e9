"""`isodesm demo`."""

from __future__ import annotations

import shutil
import tempfile
from pathlib import Path
from typing import Annotated

import typer

from isodesm.cli.run import say
from isodesm.errors import UsageError

SAMPLES = {"java": "bulletin-desk"}


def demo(
    folder: Annotated[Path | None, typer.Argument(help="Where to copy the sample codebase.", show_default="a temporary folder")] = None,
) -> None:
    """What does this do? Copies a sample codebase to a folder and runs the whole way on it."""
    root = copy_sample(SAMPLES["java"], folder)
    from isodesm.codebase.model import read
    from isodesm.diagnosis.hardbonds import diagnose
    from isodesm.measures.ranking import rank
    from isodesm.output.plan_table import print_plan
    from isodesm.output.rank_table import print_ranking
    from isodesm.output.scan_table import print_scan
    from isodesm.output.terminal import STRONG, make_console
    from isodesm.planning.planner import plan

    codebase = read(root)
    diagnosis = diagnose(codebase)
    console = make_console(to_file=False)
    console.rule("isodesm scan: where is it hard-wired?", style=STRONG)
    print_scan(console, codebase, diagnosis, root.name, top=3, excused=False)
    console.rule("isodesm rank: which classes first?", style=STRONG)
    print_ranking(console, codebase, rank(codebase, diagnosis), root.name, top=8)
    console.rule("isodesm plan: in which steps?", style=STRONG)
    print_plan(console, codebase, plan(codebase, diagnosis), root.name, detailed=2)
    console.rule(style=STRONG)
    console.print(f"The sample lies in {root}. Try next:")
    for command in (
        f"isodesm scan {root}", f"isodesm scan {root} --excused", f"isodesm rank {root} --by fan-in",
        f"isodesm plan {root} --steps 3", f"isodesm plan {root} --format markdown", f"isodesm export bonds {root} --kind creation",
    ):  # fmt: skip
        console.print(f"  {command}", soft_wrap=True)


def copy_sample(name: str, folder: Path | None) -> Path:
    """A fresh copy of a sample in `folder` (made if need be) or in a temporary one; never over something else."""
    from importlib.resources import as_file, files

    parent = folder if folder is not None else Path(tempfile.mkdtemp(prefix="isodesm-demo-"))
    root = parent / name
    if root.exists():
        raise UsageError(f"{root} is there already. Name another folder, or remove it first.")
    try:
        with as_file(files("isodesm.demo") / "samples" / name) as source:
            shutil.copytree(source, root)
    except OSError as error:
        raise UsageError(f"Can't copy the sample to {root}: {error.strerror or error}. Name another folder.") from None
    say(f"copied the sample codebase to {root}")
    return root
