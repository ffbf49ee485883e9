"""What every command does around its own job: settings, reading with progress, messages, and handing out the result."""

from __future__ import annotations

import importlib
import sys
from collections.abc import Iterable
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

from isodesm.cli.phases import Phases
from isodesm.errors import OutputError, SettingsError, UsageError

if TYPE_CHECKING:
    from isodesm.cli.options import Reading
    from isodesm.codebase.model import Codebase
    from isodesm.reading.replay import Replay
    from isodesm.rewriting.journal import Journal
    from isodesm.settings import Settings

FORMATS = ("table", "json", "csv", "markdown")


def check_goal(goal: list[str] | None, callers: bool, focus: str, techniques: list[str] | None) -> None:
    """UsageError where a goal goes with what narrows a plan otherwise, or its option with none."""
    if goal and (focus or techniques):
        raise UsageError("--for takes what its classes need and nothing else: leave out --focus and --technique.")
    if callers and not goal:
        raise UsageError("--callers goes with --for; a plan without it tells callers anyway.")


def check_format(wanted: str, known: Iterable[str] = FORMATS) -> str:
    """The format asked for; UsageError for one that this command doesn't know."""
    return check_choice("--format", wanted, known)


FIGURES = (".svg", ".png", ".pdf")


def check_figure(figure: Path | None) -> None:
    """UsageError for a drawing in a format that isn't known."""
    if figure is not None and figure.suffix not in FIGURES:
        raise UsageError(f"--figure takes a file that ends in one of {', '.join(FIGURES)}, not `{figure.name}`.")


def check_choice(option: str, wanted: str, known: Iterable[str]) -> str:
    """The value of an option that takes one of a few; UsageError with the nearest one otherwise."""
    known = tuple(known)
    if wanted in known:
        return wanted
    import difflib

    near = difflib.get_close_matches(wanted, known, n=1)
    hint = f" Did you mean `{near[0]}`?" if near else ""
    raise UsageError(f"{option} takes one of {', '.join(known)}, not `{wanted}`.{hint}")


def load(reading: Reading) -> Settings:
    """The settings for a tree, from file and options."""
    from isodesm.settings import find_settings_file, load_settings

    path, options, config = reading.path, reading.options, reading.config
    _check_languages(options.get("languages"))
    if config is not None and not config.is_file():
        raise SettingsError(f"There is no settings file {config}.")
    return load_settings(config or (find_settings_file(path.resolve()) if path.exists() else None), options)


def read_tree(path: Path, settings: Settings, phases: Phases, replay: Replay | None = None, scheduler: str = "") -> Codebase:
    """Read the tree at `path`; how far that is, the phases show. With a scheduler its workers read what is not known yet."""
    from isodesm.codebase.reading import read

    if scheduler and path.exists():
        from isodesm.fleet.reading import read_ahead

        with phases.during("reading on the cluster") as progress:
            read_ahead(path, settings, scheduler, progress)
    with phases.during("reading") as progress:

        def tell(name: str, done: int, total: int) -> None:
            if done and replay is not None:
                _load_ahead()
            progress(name, done, total)

        return read(path, settings, tell, replay)


@cache
def _load_ahead() -> None:
    """Load what is asked of a tree that is kept for later: while others read, there is time for it."""
    for module in ("isodesm.diagnosis.diagnose", "isodesm.output.terminal"):
        importlib.import_module(module)


def say_of_interrupted(path: Path, settings: Settings) -> None:
    """Say so where a step was interrupted in a tree: what is read may be half of a change."""
    journal = _journal(path, settings)
    if journal is not None and (entry := journal.interrupted()) is not None:
        say(f"isodesm: the step {entry.record.id} was interrupted here; `isodesm step --undo {path}` takes it back")


def say_of_damaged(path: Path, settings: Settings) -> None:
    """Name what of the journal of a tree can't be read, and is left aside."""
    journal = _journal(path, settings)
    for folder in journal.damaged() if journal is not None else ():
        say(f"isodesm: a record of the journal can't be read and is left aside: {folder}")


def _journal(path: Path, settings: Settings) -> Journal | None:
    """The journal of a tree, where steps were carried out anywhere."""
    from isodesm.reading.cache import default_folder

    folder = Path(settings.cache_folder or default_folder())
    if not (folder / "steps").is_dir() or not path.is_dir():
        return None
    from isodesm.rewriting.journal import Journal

    return Journal(path, folder)


def read_codebase(reading: Reading) -> Codebase:
    """Read a tree with settings from file and options; progress and remarks go to standard error."""
    settings = load(reading)
    say_of_interrupted(reading.path, settings)
    codebase = read_tree(reading.path, settings, Phases(quiet=reading.quiet), scheduler=reading.scheduler)
    if not reading.quiet:
        from isodesm.output.trouble import trouble_lines

        for line in (*codebase.remarks, *trouble_lines(codebase.overview, reading.verbose)):
            say(line)
    return codebase


def _check_languages(languages: list[str] | None) -> None:
    from isodesm.facts.languages import LANGUAGES

    for language in languages or ():
        check_choice("--language", language, LANGUAGES)


def say(message: str) -> None:
    """One message to standard error, with nothing in it that a terminal would obey."""
    from isodesm.output.text import printable

    print("\n".join(map(printable, message.split("\n"))), file=sys.stderr)


def keep_details(errors: Iterable[Exception]) -> str:
    """Keep the details of mistakes of ours in a file, and say where; a traceback helps nobody in a terminal."""
    import traceback

    from isodesm import __version__
    from isodesm.disk.own import leave

    text = f"isodesm {__version__}, Python {sys.version}\n{' '.join(sys.argv)}\n\n"
    text += "\n".join("".join(traceback.format_exception(error)) for error in errors)
    try:
        return leave("isodesm-bug-", ".txt", text.encode("utf-8", "backslashreplace"))
    except OSError as error:
        return f"that could not be written ({error.strerror})"


def said_of_mistakes(mistakes: list[Exception]) -> str:
    """What is said where planning failed at single decisions, with the file that has the details."""
    return f"isodesm: planning failed at {len(mistakes)} decisions, a mistake of ours: {keep_details(mistakes)}"


def hand_out(content: bytes, output: Path | None) -> None:
    """Write a result to the file asked for, or to standard output."""
    if output is not None:
        from isodesm.disk.told import write_whole

        write_whole(output, content)
        say(f"written: {output}")
    else:
        _print([content])


def hand_out_as(content: bytes, output: Path | None, folder: Path, name: str, *, anew: bool = False) -> None:
    """Write a result to the file asked for, or under its usual name in a folder, and there through no link. With `anew` the
    usual name must be free."""
    from isodesm.disk.told import write_usual

    if output is not None:
        hand_out(content, output)
    else:
        write_usual(folder, name, content, anew=anew)
        say(f"written: {folder / name}")


def hand_out_chunks(chunks: Iterable[bytes], output: Path | None) -> None:
    """The same piece by piece, so that a large result never stands in memory as a whole."""
    if output is not None:
        from isodesm.disk.told import write_whole

        write_whole(output, chunks)
        say(f"written: {output}")
        return
    _print(chunks)


def _print(chunks: Iterable[bytes]) -> None:
    """Write to standard output. OutputError where that takes no more, but for a reader who has had enough."""
    try:
        sys.stdout.flush()
        for chunk in chunks:
            sys.stdout.buffer.write(chunk)
        sys.stdout.buffer.flush()
    except BrokenPipeError:
        raise
    except OSError as error:
        raise OutputError(f"Can't write to standard output: {error.strerror or error}.") from None


def head_of_tree(path: Path) -> str:
    """The commit that a tree stands at, '' for none: what an answer about history depends on."""
    from isodesm.reading.history import head_of

    return head_of(path if path.is_dir() else path.parent) if path.exists() else ""


def shown_root(path: Path) -> str:
    """The name under which a tree goes in a report: its folder's, wherever it stands."""
    from isodesm.disk.opening import text_name

    return text_name(path.resolve().name or str(path))


def stated_root(path: Path, absolute: bool = False) -> str:
    """What the paths in a result are relative to: the tree's folder below its repository, or from the current folder where it
    lies in none; on this machine where that is asked for."""
    import os

    from isodesm.disk.opening import text_name

    folder = path.resolve() if path.is_dir() else path.resolve().parent
    if absolute:
        return text_name(folder.as_posix())
    top = next((each for each in (folder, *folder.parents) if os.path.lexists(each / ".git")), None)
    try:
        return text_name(Path(os.path.relpath(folder, top or Path.cwd())).as_posix())
    except (OSError, ValueError):  # another drive, or a current folder that is gone
        return text_name(folder.as_posix())


def path_from_here(path: Path) -> str:
    """What to put before paths in a tree so that they lead there from the current folder; '' where nothing does."""
    import os

    from isodesm.disk.opening import text_name

    try:
        folder = os.path.relpath(path if path.is_dir() else path.parent)
    except (OSError, ValueError):
        return ""
    return "" if folder == "." else text_name(folder.replace(os.sep, "/")) + "/"


def end_strictly(reading: Reading, incomplete: bool) -> None:
    """Exit with 1 where something could not be answered for and that was asked for."""
    if incomplete and reading.strict:
        import typer

        say("isodesm: not all of this tree could be read or planned (--strict)")
        raise typer.Exit(1)
