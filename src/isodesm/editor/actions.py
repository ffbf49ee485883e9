"""Steps of the plan as edits that an editor shows before it makes them: the same bytes as `isodesm step` writes."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from isodesm.editor.seen import Seen, once
from isodesm.editor.text import edits_between
from isodesm.editor.workspace_folder import Root
from isodesm.planning.model.step import Step
from isodesm.planning.planner.options import Options
from isodesm.planning.planner.plan import plan, with_needs
from isodesm.rewriting.changes import by_file, edited_content

SHOWN = "isodesm"
"""Name of the annotation by which an editor asks before it makes the edits of a step."""


@once
def steps_of(seen: Seen, number: int) -> tuple[Step, ...]:
    """The plan for one class."""
    made = plan(seen.codebase, seen.diagnosis, Options(focus=frozenset((number,)), settle=False, whole=True))
    return tuple(made.steps)


def offers(seen: Seen, given: Iterable[dict[str, Any]]) -> list[dict[str, Any]]:
    """Actions that loosen what some diagnostics say: for each the step that does, with those it needs; their edits follow when
    they are asked for."""
    found: dict[str, dict[str, Any]] = {}
    for each in given:
        number, target = each.get("data", {}).get("number", -1), each.get("data", {}).get("target", "")
        if not 0 <= number < len(seen.codebase.symbols):
            continue
        for step in steps_of(seen, number):
            if not _loosens(seen, step, number, target) or step.id in found:
                continue
            needed = len(with_needs(steps_of(seen, number), (step.id,)))
            more = f" ({needed} steps)" if needed > 1 else ""
            found[step.id] = {
                "title": f"{step.title}{more}",
                "kind": "refactor.rewrite",
                "diagnostics": [each],
                "data": {"number": number, "ids": [step.id]},
            }
    return list(found.values())


def of_class(seen: Seen, number: int) -> list[dict[str, Any]]:
    """The action that takes all steps of a class."""
    steps = steps_of(seen, number)
    if not steps:
        return []
    name = seen.codebase.symbols.types[number].name
    title = f"All {len(steps)} steps that loosen {name}" if len(steps) > 1 else steps[0].title
    return [{"title": title, "kind": "refactor.rewrite", "data": {"number": number, "ids": [each.id for each in steps]}}]


def _loosens(seen: Seen, step: Step, number: int, target: str) -> bool:
    own = seen.codebase.symbols.names[number]
    return (
        len(step.classes) > 1 and step.classes[0] == own and step.classes[1] == target and step.technique != "extract-interface"
    )


def edit_of(root: Root, seen: Seen, number: int, ids: list[str]) -> dict[str, Any]:
    """What some steps of a class, and those that they need, make of the files as the editor shows them."""
    wanted = with_needs(steps_of(seen, number), ids)
    options = Options(focus=frozenset((number,)), settle=False, whole=True, only=wanted)
    made = plan(seen.codebase, seen.diagnosis, options)
    before: dict[str, bytes | None] = {}
    now: dict[str, bytes] = {}
    for step in made.steps:
        for path, edits in by_file(step).items():
            if path not in now:
                before[path] = None if edits[0].new else root.content(path)
            old = now.get(path, before[path])
            now[path] = "".join(each.text for each in edits).encode() if old is None else edited_content(old, edits)
    changes: list[dict[str, Any]] = []
    for path in sorted(now):
        old = before[path]
        if old is None:
            changes.append({"kind": "create", "path": path, "annotationId": SHOWN})
        shown = edits_between(old or b"", now[path])
        changes.append({"path": path, "edits": [{**each, "annotationId": SHOWN} for each in shown]})
    label = "; ".join(step.title for step in made.steps[:3]) + ("; …" if len(made.steps) > 3 else "")
    return {
        "documentChanges": changes,
        "changeAnnotations": {SHOWN: {"label": label or "nothing to do", "needsConfirmation": True}},
    }
