"""Options that several commands share, and how they become settings."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

PathArgument = Annotated[Path, typer.Argument(help="Folder or file to read.", show_default="the current folder")]
Format = Annotated[str, typer.Option("--format", help="table, json, csv or markdown.", metavar="FORMAT")]
Output = Annotated[Path | None, typer.Option("--output", "-o", help="Write the result to this file.", metavar="FILE")]
Language = Annotated[list[str] | None, typer.Option("--language", help="Read only this language; may be repeated.", metavar="NAME")]
Include = Annotated[list[str] | None, typer.Option("--include", help="Read only paths that match; may be repeated.", metavar="PATTERN")]
Exclude = Annotated[list[str] | None, typer.Option("--exclude", help="Leave out paths that match; may be repeated.", metavar="PATTERN")]
Workers = Annotated[int | None, typer.Option("--workers", min=1, max=256, help="Processes that read files.", metavar="N")]
Config = Annotated[Path | None, typer.Option("--config", help="Settings file instead of the nearest isodesm.toml.", metavar="FILE")]
Quiet = Annotated[bool, typer.Option("--quiet", "-q", help="No progress and no remarks about files.")]
Verbose = Annotated[bool, typer.Option("--verbose", "-v", help="All remarks about files, and timings.")]
Top = Annotated[int, typer.Option("--top", min=0, help="Classes to show; 0 for all.", metavar="N")]
CacheDir = Annotated[Path | None, typer.Option("--cache-dir", help="Folder of the cache instead of the user's own.", metavar="FOLDER")]
NoCache = Annotated[bool, typer.Option("--no-cache", help="Read every file anew, and keep nothing.")]
