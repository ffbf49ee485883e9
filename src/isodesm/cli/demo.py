"""`isodesm demo`."""

from __future__ import annotations

import shutil
from pathlib import Path
from typing import Annotated

import typer

from isodesm.cli.options import UNSET, Reading
from isodesm.cli.run import check_choice, hand_out, say
from isodesm.demo.catalogue import Sample, samples
from isodesm.disk.own import lasting_scratch, scratch
from isodesm.errors import UsageError

ALL = "all"


def demo(
    folder: Annotated[Path | None, typer.Argument(help="Where to copy the samples.", show_default="a temporary folder")] = None,
    language: Annotated[
        str,
        typer.Option("--language", help="java, csharp, typescript, php, python, or all.", metavar="NAME", show_default=False),
    ] = "",
    fleet: Annotated[bool, typer.Option("--fleet", help="Ask all samples at once, with workers of their own.")] = False,
) -> None:
    """What does this do? Copies a sample codebase to a folder and runs the whole way on it."""
    known = samples()
    language = language or known[0].language
    check_choice("--language", language, (*(each.language for each in known), ALL))
    parent = folder if folder is not None else lasting_scratch("isodesm-demo-")
    if fleet:
        _show_fleet(parent)
        return
    roots = [copy_sample(each.name, parent) for each in known if language in (each.language, ALL)]
    for root in roots:
        _show(root, brief=len(roots) > 1)
    root = roots[0]
    if len(roots) == 1:
        _take_steps(root)
    from isodesm.output.terminal import STRONG, content_of, make_console

    console = make_console(to_file=False)
    console.rule(style=STRONG)
    shown = root if len(roots) == 1 else parent
    console.print(f"{'The sample lies' if len(roots) == 1 else 'The samples lie'} in {shown}. Try next:")
    for command in (
        f"isodesm scan {root}",
        f"isodesm scan {root} --excused",
        f"isodesm about {_sample(root).shown} {root}",
        f"isodesm trace {root}",
        f"isodesm layers {root}",
        f"isodesm wiring {root}",
        f"isodesm rank {root} --by fan-in",
        f"isodesm plan {root} --steps 3",
        f"isodesm step {root}",
        f"isodesm export bonds {root} --kind creation",
        f"isodesm export graph {root} --format dot",
        "isodesm demo --language all",
    ):
        console.print(f"  {command}", soft_wrap=True)
    hand_out(content_of(console), None)
    _write_report(root if len(roots) == 1 else parent, parent)


def _write_report(root: Path, parent: Path) -> None:
    """The page about what was copied, beside it."""
    from isodesm.cli.answers import workspace_of
    from isodesm.cli.report import FILE_NAME, page_of_tree
    from isodesm.disk.told import write_whole

    path = parent / (f"{root.name}-{FILE_NAME}" if root != parent else f"samples-{FILE_NAME}")
    if path.exists():
        return
    workspace = workspace_of(Reading(root, None, {"cache-folder": ""}, None, quiet=True, verbose=False))
    say(f"a page to look at, with all of it: {path}")
    write_whole(path, page_of_tree(workspace, root.name, 12, []))


def _show_fleet(parent: Path) -> None:
    """All samples at once, by two worker processes."""
    from isodesm.cli.fleet import fleet as ask

    for each in samples():
        copy_sample(each.name, parent)
    workers = 2
    say(f"isodesm fleet '{parent}/*' --workers {workers} --shared")
    ask(trees=[f"{parent}/*"], shared=True, **{**UNSET, "workers": workers, "no_cache": True})


def _show(root: Path, *, brief: bool) -> None:
    """Scan, rank and plan of one sample; the first two in short where there are several."""
    from isodesm.codebase.reading import read
    from isodesm.diagnosis.diagnose import diagnose
    from isodesm.measures.ranking import rank
    from isodesm.output.plan_table import print_plan
    from isodesm.output.rank_table import print_ranking
    from isodesm.output.scan_table import print_scan
    from isodesm.output.shape import View
    from isodesm.output.terminal import STRONG, content_of, make_console
    from isodesm.planning.planner.options import Options
    from isodesm.planning.planner.staging import plan

    codebase = read(root)
    diagnosis = diagnose(codebase)
    console = make_console(to_file=False)
    console.rule(f"isodesm scan {root.name}: where is it hard-wired?", style=STRONG)
    print_scan(console, codebase.overview, diagnosis, root.name, View(top=1 if brief else 3, full=not brief))
    console.rule(f"isodesm rank {root.name}: which classes first?", style=STRONG)
    print_ranking(console, codebase.overview, rank(codebase, diagnosis), root.name, top=3 if brief else 8)
    if not brief:
        console.rule(f"isodesm plan {root.name}: in which steps?", style=STRONG)
        made = plan(codebase, diagnosis, Options(steps=12))
        print_plan(console, codebase.overview, made, root.name, made.steps[:2])
    hand_out(content_of(console), None)


def _take_steps(root: Path) -> None:
    """Carry two steps out on the copy, with the language's own compiler as check where it is there, and say what changed."""
    from isodesm.cli.step import carried_out
    from isodesm.output.terminal import STRONG, content_of, make_console
    from isodesm.rewriting.apply import Wish
    from isodesm.settings import Settings

    sample = _sample(root)
    check = sample.check if shutil.which(sample.program) else ""
    console = make_console(to_file=False)
    checked = " --check …" if check else ""
    console.rule(f"isodesm step {root.name} --write --count 2{checked}: change, check, keep", style=STRONG)
    console.print(f"\nThe check is: {check}\n" if check else "")
    hand_out(content_of(console), None)
    with scratch("isodesm-demo-") as folder:
        settings = Settings(cache_folder=str(folder))
        course = carried_out(root, settings, Wish(check=check, check_seconds=300.0, dirty=True), 2)
    console = make_console(to_file=False)
    before, after = course.standings[0], course.standings[-1]
    console.print(f"\nscan before: {before[1]} hard bonds, strain {before[0]:g}; scan now: {after[1]}, strain {after[0]:g}")
    hand_out(content_of(console), None)


def _sample(root: Path) -> Sample:
    return next(each for each in samples() if each.name == root.name)


def copy_sample(name: str, parent: Path) -> Path:
    """A fresh copy of a sample in the folder `parent` (made if need be); never over something else."""
    from importlib.resources import as_file, files

    from isodesm.disk.told import copy_tree

    root = parent / name
    if root.exists():
        raise UsageError(f"{root} is there already. Name another folder, or remove it first.")
    try:
        with as_file(files("isodesm.demo") / "samples" / name) as source:
            copy_tree(source, root)
    except OSError as error:
        raise UsageError(f"Can't copy the sample to {root}: {error.strerror or error}. Name another folder.") from None
    from isodesm.demo.history import give_history

    remembered = give_history(root)
    say(f"copied the sample codebase {name} to {root}{', with its history' if remembered else ''}")
    return root
