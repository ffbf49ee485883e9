"""Parses the files of a tree and does nothing else: the floor that a run is measured against.

Prints the seconds that parsing took, in one process, and the number of lines.
"""

from __future__ import annotations

import sys
import time
from pathlib import Path

from isodesm.facts.parsing import grammar_of
from isodesm.reading.discovery import discover
from isodesm.settings import Settings


def main(folder: str, language: str) -> None:
    """Parse all files of one language below a folder."""
    from tree_sitter import Parser

    root, seconds, lines = Path(folder), 0.0, 0
    parsers: dict[str, Parser] = {}
    for file in discover(root, Settings(languages=(language,))).files:
        suffix = file.path[file.path.rfind(".") :]
        parser = parsers.setdefault(suffix, Parser(grammar_of(language, suffix)))
        content = (root / file.path).read_bytes()
        begin = time.perf_counter()
        parser.parse(content)
        seconds += time.perf_counter() - begin
        lines += content.count(b"\n")
    print(seconds, lines)


if __name__ == "__main__":
    main(*sys.argv[1:])
