"""`python -m benchmarks.editor FOLDER…`: how long the server for editors lets its user wait, as a Markdown table.

A client of the protocol opens each folder, types a line into twenty files, and asks what people ask. Seconds, the median and
the worst; `first look` is from the change to the findings of the file, `settled` to those of all files.
"""

from __future__ import annotations

import argparse
import asyncio
import os
import random
import statistics
import sys
import tempfile
import time
from collections import defaultdict
from collections.abc import Awaitable
from pathlib import Path
from typing import Any

from lsprotocol import types

from tests.test_editor import Editor

FILES = 20
COLUMNS = ("first look", "settled", "lenses", "hover", "actions", "edit", "names")


async def timed(into: list[float], asked: Awaitable[Any]) -> Any:
    """The answer, with the seconds that it took noted."""
    start = time.perf_counter()
    answer = await asked
    into.append(time.perf_counter() - start)
    return answer


async def opened(folder: Path, cache: Path) -> tuple[Editor, float]:
    """An editor with a folder open, and the seconds until all is told."""
    start = time.perf_counter()
    editor = Editor(folder, cache, patience=600)
    await editor.start()
    await editor.settle()
    return editor, time.perf_counter() - start


async def measure(folder: Path) -> str:
    """A row of the table."""
    with tempfile.TemporaryDirectory() as cache:
        editor, cold = await opened(folder, Path(cache))
        await editor.stop()
        editor, warm = await opened(folder, Path(cache))
        taken: dict[str, list[float]] = defaultdict(list)
        told = sorted(uri for uri, own in editor.told.items() if own)
        for uri in random.Random(1).sample(told, min(FILES, len(told))):
            await at_one_file(editor, uri, taken)
        await editor.stop()
    lines = sum(path.read_bytes().count(b"\n") for path in folder.rglob("*.*") if path.is_file())
    cells = [f"{statistics.median(taken[each]):.2f} / {max(taken[each]):.2f}" for each in COLUMNS]
    return f"| {folder.name} | {lines:,} | {cold:.1f} | {warm:.1f} | {' | '.join(cells)} |"


async def at_one_file(editor: Editor, uri: str, taken: dict[str, list[float]]) -> None:
    """Type a line into a file, and ask about it."""
    path = uri.removeprefix(editor.folder.as_uri() + "/")
    text = (editor.folder / path).read_bytes().decode("utf-8-sig", "replace")  # with its line ends, as editors keep them
    editor.open(path, text)
    await asyncio.sleep(0.5)
    start = time.perf_counter()
    editor.heard.clear()
    editor.type(path, "\n" + text)
    await asyncio.wait_for(editor.heard.wait(), 60)
    taken["first look"].append(time.perf_counter() - start)
    await editor.settle()
    taken["settled"].append(time.perf_counter() - start)
    client, document, found = editor.client, editor.document(path), editor.told[uri]
    await timed(taken["lenses"], client.text_document_code_lens_async(types.CodeLensParams(document)))
    await timed(taken["hover"], client.text_document_hover_async(types.HoverParams(document, found[0].range.start)))
    await timed(taken["names"], client.workspace_symbol_async(types.WorkspaceSymbolParams("")))
    asked = types.CodeActionParams(document, found[0].range, types.CodeActionContext([found[0]]))
    actions = await timed(taken["actions"], client.text_document_code_action_async(asked))
    if step := next((each for each in actions if each.edit is None), None):
        await timed(taken["edit"], client.code_action_resolve_async(step))


def main() -> None:
    """Print the table."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folders", nargs="+", type=Path)
    print(f"{os.cpu_count()} cores; Python {sys.version.split()[0]}\n")
    print("| tree | lines | ready, cold | ready, warm |", " | ".join(COLUMNS), "|")
    print("|---|--:|--:|--:|" + "--:|" * len(COLUMNS))
    for folder in parser.parse_args().folders:
        print(asyncio.run(measure(folder.resolve())), flush=True)


if __name__ == "__main__":
    main()
