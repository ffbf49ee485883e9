"""What a change of the state does to files: edits, and code before and after."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

import msgspec

from isodesm.facts.languages import language_of
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.step import Code, Edit, Written
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.imports import amendments_of
from isodesm.planning.state.plan_state import PlanState
from isodesm.planning.text.amendments import amended, changes
from isodesm.planning.text.hunks import hunks
from isodesm.planning.text.project_lists import changed, listing

MARK = 3
"""Bytes of the mark that some files of UTF-8 begin with."""


class Changes(msgspec.Struct):
    """What a step does to files, gathered file by file."""

    edits: list[Edit] = []
    code: list[Code] = []
    written: list[Written] = []

    def add(self, edits: Iterable[Edit], code: Iterable[Code]) -> None:
        """Take up what becomes of one file."""
        self.edits += edits
        self.code += code


def record(context: PlanContext, files: Iterable[int], apply: Callable[[], None]) -> Changes:
    """Let a change of the state happen that touches some files; what it does to them, and to all that are no sources."""
    symbols, before = context.symbols, context.state
    touched = sorted(set(files), key=lambda file: symbols.files[file].path)
    shown = {file: before.shown.get(file) or tuple(amendments_of(context.draft, file)) for file in touched}
    apply()
    found, after = Changes(), context.state
    new = sorted(set(after.new_files) - set(before.new_files))
    for path in new:
        text = after.new_files[path]
        found.add([Edit(path, 1, "new file", text=text, new=True)], [Code(path, "", text)])
        if language := language_of(path):
            found.written.append(Written(language, path, b"", text.encode()))
    _other_files(context, before, new, found)
    now = {file: tuple(amendments_of(context.draft, file)) for file in touched}
    for file in touched:
        _source(context, file, shown[file], now[file], found)
    context.state = context.state.with_shown(now, tuple(found.written))
    return found


def _other_files(context: PlanContext, before: PlanState, new: list[str], found: Changes) -> None:
    """What becomes of definition files, and of lists of sources that new ones have to stand in."""
    said: dict[str, list[str]] = {}
    for path, remark in context.state.remarks[len(before.remarks) :]:
        said.setdefault(path, []).append(remark)
    listed = listing(context.sources.projects, new, context.content)
    for path, remarks in said.items():
        old = before.contents[path] if path in before.contents else context.sources.projects.read(path)
        edit, code = changed(path, old, context.content(path), remarks)
        found.add([edit], code)
    found.add(listed.edits, listed.code)
    for path, content in listed.contents.items():
        context.state = context.state.with_content(path, content)


def _source(context: PlanContext, file: int, before: Sequence[Amendment], after: Sequence[Amendment], found: Changes) -> None:
    """What becomes of one source file."""
    if before == after:
        return
    text, facts = context.codebase.text(file), context.symbols.files[file]
    edits, old = changes(text, before, after), amended(text, before)
    found.written.append(Written(facts.language, facts.path, old, amended(text, after)))
    annotation = MARK if facts.encoding == "utf-8-sig" else 0
    found.add(
        [
            Edit(
                facts.path,
                old.count(b"\n", 0, each.start) + 1,
                "; ".join(each.actions) or "goes with the rest",
                each.start + annotation,
                each.end + annotation,
                each.text,
            )
            for each in edits
        ],
        [Code(facts.path, *hunk) for hunk in hunks(old, edits)],
    )
