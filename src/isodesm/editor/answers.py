"""What an editor can ask, by name: each takes a folder, its state, the path of a file, and what was asked."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from isodesm.editor import actions, calls, findings, hover
from isodesm.editor.places import around, named_at
from isodesm.editor.seen import Seen
from isodesm.editor.workspace_folder import Root


def _hover(root: Root, seen: Seen, path: str, given: dict[str, Any]) -> Any:
    file = seen.numbers[path]
    named = named_at(seen, file, seen.lines(file).offset(given["position"]))
    if named is None:
        return None
    where = seen.lines(file).range(named.start, named.end)
    return {"contents": {"kind": "markdown", "value": hover.hover(seen, named)}, "range": where}


def _lenses(root: Root, seen: Seen, path: str, given: dict[str, Any]) -> Any:
    return hover.lenses(seen, seen.numbers[path])


def _actions(root: Root, seen: Seen, path: str, given: dict[str, Any]) -> Any:
    """What can be done about the diagnostics of a range, as they are by now, and about the class around it."""
    wanted, only = given["range"], given.get("only") or ()
    own = findings.by_file(seen, root.folder).get(path, [])
    here = [each for each in own if _meet(each["range"], wanted)]
    found: list[dict[str, Any]] = []
    if _is_asked("quickfix", only):
        found += [findings.acceptance(seen, path, each) for each in here]
    if _is_asked("refactor.rewrite", only):
        found += actions.offers(seen, here)
        file = seen.numbers[path]
        inside = around(seen, file, seen.lines(file).offset(wanted["start"]))
        if inside is not None:
            found += actions.of_class(seen, inside.number)
    for each in found:
        if "data" in each:
            each["data"]["file"] = str(root.folder / path)
    return found


def _is_asked(kind: str, only: Any) -> bool:
    return not only or any(kind == each or kind.startswith(f"{each}.") for each in only)


def _meet(one: dict[str, Any], other: dict[str, Any]) -> bool:
    def key(position: dict[str, int]) -> tuple[int, int]:
        return position["line"], position["character"]

    if one["start"]["line"] <= other["start"]["line"] <= one["end"]["line"] and other["start"] == other["end"]:
        return True  # a cursor in the line
    return key(one["start"]) <= key(other["end"]) and key(other["start"]) <= key(one["end"])


def _edit(root: Root, seen: Seen, path: str, given: dict[str, Any]) -> Any:
    return actions.edit_of(root, seen, given["number"], given["ids"])


def _prepare(root: Root, seen: Seen, path: str, given: dict[str, Any]) -> Any:
    file = seen.numbers[path]
    offset = seen.lines(file).offset(given["position"])
    named = named_at(seen, file, offset) or around(seen, file, offset)
    return [calls.item(seen, (named.number, named.member))] if named is not None else None


def _incoming(root: Root, seen: Seen, path: str, given: dict[str, Any]) -> Any:
    return calls.incoming(seen, (given["number"], given["member"]))


def _outgoing(root: Root, seen: Seen, path: str, given: dict[str, Any]) -> Any:
    return calls.outgoing(seen, (given["number"], given["member"]))


def _symbols(root: Root, seen: Seen, path: str, given: dict[str, Any]) -> Any:
    return hover.symbols_by_strain(seen, given["query"])


ANSWERS = {
    "hover": _hover,
    "lenses": _lenses,
    "actions": _actions,
    "edit": _edit,
    "prepare": _prepare,
    "incoming": _incoming,
    "outgoing": _outgoing,
    "symbols": _symbols,
}


def with_uris(given: Any, folder: Path) -> Any:
    """The same with addresses in the place of paths below a folder."""
    if isinstance(given, list):
        return [with_uris(each, folder) for each in given]
    if not isinstance(given, dict):
        return given
    found = {key: with_uris(value, folder) for key, value in given.items() if key != "path"}
    if "path" in given:
        uri = (folder / given["path"]).as_uri()
        found |= {"textDocument": {"uri": uri, "version": None}} if "edits" in given else {"uri": uri}
    return found
