"""The reference of every output's fields, made from the JSON Schema and from what stands beside the fields in the source."""

from __future__ import annotations

import ast
import json
import re
import tomllib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import isodesm
from isodesm.output.schema import LINES, schema_document

BEGIN, END = "<!-- fields: made by `make documents` -->", "<!-- end of fields -->"
_ENVELOPE = re.compile(r"(Output|Result)$")


def with_reference(page: str) -> str:
    """A page with the reference between its two marks."""
    before, _, rest = page.partition(BEGIN)
    return f"{before}{BEGIN}\n\n{reference()}\n{END}{rest.partition(END)[2]}"


def reference() -> str:
    """A section an output, and one for each record that they share, in Markdown."""
    schema = json.loads(schema_document())
    records, told = schema["$defs"], Told()
    lines: list[str] = []
    for output in schema["allOf"]:  # by name
        name, record = output["if"]["properties"]["schema"]["const"], _named(output["then"])
        inner = record.removesuffix("Output") + "Result"
        shown = inner if inner in records else record
        lines += _section(f"`{name}`", records[shown], told, shown)
    lines += ["## Lines of exports", ""]
    for each in LINES:
        of_line = _named(records[each])
        lines.append(f"A line of `export {each}` is one [{of_line}](#{of_line.lower()}).")
    lines += ["", "## Records", ""]
    for name, record in records.items():
        if name not in LINES and not _ENVELOPE.search(name):
            lines += _section(name, record, told, name, 3)
    return "\n".join(lines)


def _named(record: dict[str, Any]) -> str:
    return record["$ref"].rpartition("/")[2]


def _section(title: str, record: dict[str, Any], told: Told, known_as: str, depth: int = 2) -> Iterator[str]:
    yield from (f"{'#' * depth} {title}", "")
    if text := record.get("description", ""):
        yield from (" ".join(text.split()), "")
    if "properties" not in record:
        return
    yield from ("| Field | Type | Means |", "|---|---|---|")
    for name, field in record["properties"].items():
        means = told.of(known_as, name).replace("|", "\\|")
        yield f"| `{name}` | {_type_of(field)} | {means} |"
    yield ""


def _type_of(field: dict[str, Any]) -> str:
    """A type in words, with a link to the record that it is."""
    if "$ref" in field:
        name = _named(field)
        return f"[{name}](#{name.lower()})"
    if "anyOf" in field:
        return " or ".join(_type_of(each) for each in field["anyOf"])
    if field.get("type") == "array":
        items = field.get("items") or field.get("prefixItems")
        inner = ", ".join(map(_type_of, items)) if isinstance(items, list) else _type_of(items) if items else "any"
        return f"list of {inner}"
    if field.get("type") == "object":
        more = field.get("additionalProperties")
        return f"object of {_type_of(more)}" if isinstance(more, dict) and more else "object"
    return str(field.get("type", "any"))


class Told:
    """What fields mean: as the source says it beside them, else by the words kept here."""

    def __init__(self) -> None:
        self.beside = described()
        self.kept = tomllib.loads((Path(__file__).parent / "meanings.toml").read_text(encoding="utf-8"))

    def of(self, record: str, field: str) -> str:
        """What a field of a record means; '' where nobody says."""
        return self.beside.get(record, {}).get(field) or self.kept.get(record, {}).get(field) or self.kept["any"].get(field, "")


def described() -> dict[str, dict[str, str]]:
    """Record to what the source says beside each of its fields."""
    found: dict[str, dict[str, str]] = {}
    for path in sorted(Path(isodesm.__file__).parent.rglob("*.py")):
        if "samples" not in path.parts:
            for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
                if isinstance(node, ast.ClassDef) and (said := dict(_beside(node))):
                    found.setdefault(node.name, {}).update(said)
    return found


def _beside(node: ast.ClassDef) -> Iterator[tuple[str, str]]:
    for field, behind in zip(node.body, node.body[1:], strict=False):
        text = behind.value.value if isinstance(behind, ast.Expr) and isinstance(behind.value, ast.Constant) else None
        if isinstance(field, ast.AnnAssign) and isinstance(field.target, ast.Name) and isinstance(text, str):
            yield field.target.id, " ".join(text.split())
