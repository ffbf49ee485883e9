"""Options that all commands share, given to them as one thing."""

from __future__ import annotations

import dataclasses
import functools
import inspect
import typing
from collections.abc import Callable
from pathlib import Path
from typing import Annotated, Any, NamedTuple

import typer
from typer.models import ArgumentInfo

Format = Annotated[str, typer.Option("--format", help="table, json, csv or markdown.", metavar="FORMAT")]
Shown = Annotated[str, typer.Option("--format", help="table, json or markdown.", metavar="FORMAT")]
Figure = Annotated[
    Path | None, typer.Option("--figure", help="Draw it, too: a file that ends in .svg, .png or .pdf.", metavar="FILE")
]
Top = Annotated[int, typer.Option("--top", min=0, help="Classes to show; 0 for all.", metavar="N")]

Focus = Annotated[str, typer.Option("--focus", help="Only steps for this class or layer.", metavar="CLASS|LAYER")]
For = Annotated[
    list[str] | None,
    typer.Option(
        "--for", help="The fewest steps until a test can have this alone; may be repeated.", metavar="CLASS|PACKAGE|LAYER"
    ),
]
Callers = Annotated[
    bool, typer.Option("--callers", help="With --for, also the steps by which callers hand it in, and old constructors go.")
]
Techniques = Annotated[
    list[str] | None,
    typer.Option("--technique", help="Only steps of this technique, and those they need; may be repeated.", metavar="NAME"),
]
Until = Annotated[float | None, typer.Option("--until", min=0, help="No further than to this much strain.", metavar="STRAIN")]
Members = Annotated[
    str, typer.Option("--members", help="Members of new interfaces: those in use, or all public ones.", metavar="used|all")
]
NoNew = Annotated[bool, typer.Option("--no-new-abstractions", help="Hand in classes as they are.")]
"""What narrows a plan."""

_PATH = Annotated[Path, typer.Argument(help="Folder or file to read.", show_default="the current folder")]
_SHARED: dict[str, tuple[Any, Any]] = {
    "output": (
        Annotated[Path | None, typer.Option("--output", "-o", help="Write the result to this file.", metavar="FILE")],
        None,
    ),
    "language": (
        Annotated[
            list[str] | None, typer.Option("--language", help="Read only this language; may be repeated.", metavar="NAME")
        ],
        None,
    ),
    "include": (
        Annotated[
            list[str] | None, typer.Option("--include", help="Read only paths that match; may be repeated.", metavar="PATTERN")
        ],
        None,
    ),
    "exclude": (
        Annotated[
            list[str] | None, typer.Option("--exclude", help="Leave out paths that match; may be repeated.", metavar="PATTERN")
        ],
        None,
    ),
    "workers": (
        Annotated[int | None, typer.Option("--workers", min=1, max=256, help="Processes that read files.", metavar="N")],
        None,
    ),
    "cache_dir": (
        Annotated[
            Path | None, typer.Option("--cache-dir", help="Folder of the cache instead of the user's own.", metavar="FOLDER")
        ],
        None,
    ),
    "no_cache": (Annotated[bool, typer.Option("--no-cache", help="Read every file anew, and keep nothing.")], False),
    "config": (
        Annotated[
            Path | None, typer.Option("--config", help="Settings file instead of the nearest isodesm.toml.", metavar="FILE")
        ],
        None,
    ),
    "scheduler": (
        Annotated[
            str,
            typer.Option("--scheduler", help="Let the workers of this cluster read, not processes here.", metavar="ADDRESS"),
        ],
        "",
    ),
    "absolute": (
        Annotated[bool, typer.Option("--absolute", help="Results for programs say where the tree lies on this machine.")],
        False,
    ),
    "strict": (
        Annotated[bool, typer.Option("--strict", help="Exit with 1 where something could not be read or planned.")],
        False,
    ),
    "quiet": (Annotated[bool, typer.Option("--quiet", "-q", help="No progress and no remarks about files.")], False),
    "verbose": (
        Annotated[bool, typer.Option("--verbose", "-v", help="All remarks about files, and the seconds of each phase.")],
        False,
    ),
}
"""Name to type, with its help, and default."""


UNSET: dict[str, Any] = {name: default for name, (_, default) in _SHARED.items()}
"""The shared options as they are where none is given."""


class Reading(NamedTuple):
    """What is to be read and how, and where the result goes; `options` are settings by their names, None where not given."""

    path: Path
    output: Path | None
    options: dict[str, Any]
    config: Path | None
    quiet: bool
    verbose: bool
    strict: bool = False
    absolute: bool = False
    scheduler: str = ""


def reads_tree(command: Callable[..., None]) -> Callable[..., None]:
    """A command that takes PATH and the shared options besides its own; it is called with a `Reading` and those, or with a
    record that has its own as fields. One that takes `trees` names what it reads itself."""
    own, record = _own(command)
    arguments = [each for each in own if any(isinstance(mark, ArgumentInfo) for mark in _marks(each))]
    parameters = list(arguments)
    if not any(each.name == "trees" for each in arguments):
        parameters.append(_parameter("path", _PATH, Path(".")))
    parameters += [each for each in own if each not in arguments]
    parameters += [_parameter(name, *given) for name, given in _SHARED.items()]

    @functools.wraps(command)
    def run(**given: Any) -> None:
        reading = _reading(given.pop("path", Path(".")), {name: given.pop(name) for name in _SHARED})
        if record is not None:
            command(reading, record(**given))
        else:
            command(reading, **given)

    run.__signature__ = inspect.Signature(parameters)  # type: ignore[attr-defined]
    run.__annotations__ = {each.name: each.annotation for each in parameters}
    return run


def _own(command: Callable[..., None]) -> tuple[list[inspect.Parameter], Callable[..., Any] | None]:
    """The options that a command has for itself, and the record that it takes them as, if it does."""
    types = typing.get_type_hints(command, include_extras=True)
    given = list(inspect.signature(command).parameters.values())[1:]
    record = types[given[0].name] if given else None
    if dataclasses.is_dataclass(record) and isinstance(record, type):
        hints = typing.get_type_hints(record, include_extras=True)
        empty = inspect.Parameter.empty
        fields = ((each.name, each.default) for each in dataclasses.fields(record))
        found = [_parameter(name, hints[name], empty if value is dataclasses.MISSING else value) for name, value in fields]
        return found, record
    return [each.replace(annotation=types[each.name]) for each in given], None


def _marks(parameter: inspect.Parameter) -> tuple[Any, ...]:
    return getattr(parameter.annotation, "__metadata__", ())


def _parameter(name: str, annotation: Any, default: Any) -> inspect.Parameter:
    return inspect.Parameter(name, inspect.Parameter.POSITIONAL_OR_KEYWORD, annotation=annotation, default=default)


def _reading(path: Path, given: dict[str, Any]) -> Reading:
    from isodesm.reading.cache import default_folder

    options = {
        "languages": given["language"] or None,
        "include": given["include"] or None,
        "exclude": given["exclude"] or None,
        "workers": given["workers"],
        "cache-folder": "" if given["no_cache"] else str(given["cache_dir"] or default_folder()),
    }
    same = ("output", "config", "quiet", "verbose", "strict", "absolute", "scheduler")
    return Reading(path, options=options, **{name: given[name] for name in same})
