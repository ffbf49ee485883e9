"""Service-definition files, YAML and XML: which services a container is told to make, of which class, with which arguments.

A pure function of path and bytes, like the reading of source. Names stay as written; nothing is resolved here.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

import msgspec

from isodesm.facts.records import Trouble

SUFFIXES = (".yml", ".yaml", ".xml")
LARGEST = 2_000_000
"""Bytes beyond which a file of data is hardly a definition file."""
DEPTH_LIMIT = 60
"""Nested collections in a YAML file; deeper ones are made to be trouble, not to define services."""

_HINTS = re.compile(rb"^[ \t]*+services[ \t]*+:|<services\b|<beans\b|<container\b", re.MULTILINE)


class Argument(msgspec.Struct, frozen=True, omit_defaults=True):
    """An argument of a service: by `name` or, where that is '', by position. `service` is the id it refers to, '' for a
    value."""

    value: str
    name: str = ""
    service: str = ""
    optional: bool = False


class Definition(msgspec.Struct, frozen=True, omit_defaults=True):
    """One service of a definition file.

    `scope` is the lifetime as written, `factory` what makes it, `alias` the id it is another name of, `resource` the
    folder pattern of a whole group. `autowired` says that arguments which are not given are found by type.
    """

    id: str
    path: str
    line: int
    column: int
    type: str = ""
    arguments: tuple[Argument, ...] = ()
    alias: str = ""
    scope: str = ""
    factory: str = ""
    parent: str = ""
    resource: str = ""
    tags: tuple[str, ...] = ()
    autowired: bool = False
    public: bool = False
    abstract: bool = False
    decorates: str = ""
    """The id that it is put around."""
    exclude: tuple[str, ...] = ()
    """Folder patterns that `resource` leaves out."""
    condition: str = ""
    """The environment or profile in which alone it holds."""
    calls: tuple[Argument, ...] = ()
    """What is handed in after construction, by name of the method or property."""


def may_define(content: bytes) -> bool:
    """Whether a file of data looks as though it defined services."""
    return len(content) <= LARGEST and _HINTS.search(content) is not None


def read_definitions(path: str, content: bytes) -> tuple[tuple[Definition, ...], tuple[Trouble, ...]]:
    """The services that a definition file declares, in order, and what could not be read."""
    try:
        found = tuple(_from_xml(path, content) if path.endswith(".xml") else _from_yaml(path, content))
    except _Unreadable as error:
        return (), (Trouble(path=path, reason=f"is not used as a definition file: {error}", line=error.line),)
    return found, ()


class _Unreadable(Exception):
    def __init__(self, reason: str, line: int = 0) -> None:
        super().__init__(reason)
        self.line = line


# --- YAML -------------------------------------------------------------------------------------


def _from_yaml(path: str, content: bytes) -> Iterator[Definition]:
    import yaml

    try:
        root = yaml.compose(content, Loader=yaml.SafeLoader)
    except (yaml.YAMLError, RecursionError, ValueError) as error:
        mark = getattr(error, "problem_mark", None)
        raise _Unreadable("it is no valid YAML", mark.line + 1 if mark else 0) from None
    sections = dict(_pairs(root))
    yield from _yaml_section(path, sections.get("services"), "")
    for name, inner in sections.items():
        if name.startswith("when@"):
            yield from _yaml_section(path, dict(_pairs(inner)).get("services"), f"environment {name.removeprefix('when@')}")


def _yaml_section(path: str, services: Any, condition: str) -> Iterator[Definition]:
    """The services of one section, with the condition that it holds under."""
    defaults: dict[str, Any] = {}
    for key, node in services.value if services is not None and services.id == "mapping" else ():
        if key.value == "_defaults":
            defaults = {name: _plain(value) for name, value in _pairs(node)}
        else:
            yield msgspec.structs.replace(_yaml_service(path, key, node, defaults), condition=condition)


def _pairs(node: Any) -> list[tuple[str, Any]]:
    if not isinstance(getattr(node, "value", None), list) or node.id != "mapping":
        return []
    return [(str(key.value), value) for key, value in node.value]


def _plain(node: Any, depth: int = 0) -> Any:
    """A node as text, list or dictionary; a tag of the file's own stays in front of its text."""
    if depth > DEPTH_LIMIT:
        return ""
    if node.id == "mapping":
        return {str(key.value): _plain(value, depth + 1) for key, value in node.value}
    if node.id == "sequence":
        return [_plain(value, depth + 1) for value in node.value]
    return f"{node.tag} {node.value}" if node.tag.startswith("!") else node.value


def _yaml_service(path: str, key: Any, node: Any, defaults: dict[str, Any]) -> Definition:
    mark, name = key.start_mark, str(key.value)
    at = {"id": name, "path": path, "line": mark.line + 1, "column": mark.column + 1}
    if node.id == "scalar":
        text = str(node.value)
        if text.startswith("@"):
            return Definition(**at, alias=text.lstrip("@?"))
        return Definition(**at, type=name if text in ("", "~", "null") else text, autowired=_is_true(defaults.get("autowire")))
    given = {key: _plain(value) for key, value in _pairs(node)}
    shared = given.get("shared", "true")
    factory = given.get("factory", "")
    return Definition(
        **at,
        type=str(given.get("class", "")) or ("" if {"alias", "resource", "parent"} & given.keys() else name),
        arguments=tuple(_yaml_arguments(given.get("arguments", []))),
        alias=str(given.get("alias", "")).lstrip("@"),
        scope=str(given.get("scope", "")) or ("" if _is_true(shared) else "transient"),
        factory="::".join(map(str, factory)) if isinstance(factory, list) else str(factory),
        parent=str(given.get("parent", "")),
        resource=str(given.get("resource", "")),
        tags=tuple(_yaml_tags(given.get("tags", []))),
        autowired=_is_true(given.get("autowire", defaults.get("autowire"))),
        public=_is_true(given.get("public", defaults.get("public"))),
        abstract=_is_true(given.get("abstract")),
        decorates=str(given.get("decorates", "")),
        exclude=tuple(_patterns(given.get("exclude", []))),
        calls=tuple(_yaml_calls(given.get("calls", []))),
    )


def _patterns(given: Any) -> Iterator[str]:
    """Patterns with the choices in their braces written out."""
    for each in given if isinstance(given, list) else [given]:
        head, sign, rest = str(each).partition("{")
        inside, _, tail = rest.partition("}")
        yield from (f"{head}{choice}{tail}" for choice in inside.split(",")) if sign else (head,)


def _yaml_calls(given: Any) -> Iterator[Argument]:
    """The arguments of calls after construction, under the names of the methods."""
    for each in given if isinstance(given, list) else ():
        pairs = [(each[0], each[1] if len(each) > 1 else [])] if isinstance(each, list) and each else []
        if isinstance(each, dict):
            pairs = [(each["method"], each.get("arguments", []))] if "method" in each else list(each.items())
        for name, arguments in pairs:
            for found in _yaml_arguments(arguments):
                yield msgspec.structs.replace(found, name=str(name))


def _is_true(value: Any) -> bool:
    return str(value).lower() in ("true", "yes", "on", "1")


def _yaml_arguments(given: Any) -> Iterator[Argument]:
    entries = given.items() if isinstance(given, dict) else (("", each) for each in given) if isinstance(given, list) else ()
    for key, value in entries:
        text = value if isinstance(value, str) else msgspec.json.encode(value).decode()
        name = "" if key.isdigit() or key.startswith("index_") else key
        refers = re.match(r"@(\??)([^@=].*)$", text)
        yield Argument(
            value=text, name=name, service=refers.group(2) if refers else "", optional=bool(refers and refers.group(1))
        )


def _yaml_tags(given: Any) -> Iterator[str]:
    for each in given if isinstance(given, list) else [given]:
        name = each.get("name") or next(iter(each), "") if isinstance(each, dict) else each
        if name:
            yield str(name)


# --- XML --------------------------------------------------------------------------------------


def _from_xml(path: str, content: bytes) -> Iterator[Definition]:
    from xml.etree.ElementTree import ParseError

    from defusedxml.common import DefusedXmlException
    from defusedxml.ElementTree import fromstring

    try:
        root = fromstring(content)
    except (ParseError, DefusedXmlException, ValueError, LookupError) as error:
        line = getattr(error, "position", (0, 0))[0]
        raise _Unreadable("it is no valid XML" if line else "it declares entities, which are not followed", line) from None
    places = _places_of_elements(content)
    defaults = next((each for each in root.iter() if _local(each.tag) == "defaults"), None)
    by_type = defaults is not None and _is_true(defaults.get("autowire"))
    within = {child: part.get("profile") for part in root.iter() if part.get("profile") for child in part.iter()}
    for index, element in enumerate(root.iter()):
        kind = _local(element.tag)
        line, column = places[index] if index < len(places) else (0, 0)
        if kind in ("service", "bean") and (element.get("id") or element.get("class")):
            condition = f"profile {within[element]}" if element in within else ""
            yield msgspec.structs.replace(_xml_service(path, element, kind, line, column, by_type), condition=condition)
        elif kind == "alias" and (alias := element.get("alias")):
            yield Definition(id=alias, path=path, line=line, column=column, alias=element.get("name") or "")
        elif kind == "prototype" and (namespace := element.get("namespace")):
            yield Definition(
                id=namespace,
                path=path,
                line=line,
                column=column,
                resource=element.get("resource") or "",
                exclude=tuple(_patterns([each for each in (element.get("exclude"),) if each])),
            )


def _places_of_elements(content: bytes) -> list[tuple[int, int]]:
    """Line and column of each element's start, in document order."""
    from xml.parsers.expat import ParserCreate  # what it is given has passed the careful parser before

    places: list[tuple[int, int]] = []
    parser = ParserCreate()
    parser.StartElementHandler = lambda name, attributes: places.append(
        (parser.CurrentLineNumber, parser.CurrentColumnNumber + 1)
    )
    parser.Parse(content, True)
    return places


def _local(tag: Any) -> str:
    return tag.rpartition("}")[2] if isinstance(tag, str) else ""


def _xml_service(path: str, element: Any, kind: str, line: int, column: int, by_type: bool) -> Definition:
    """A service; `by_type` says whether those that say nothing of it find their arguments by type."""
    children = [(_local(child.tag), child) for child in element]
    name = element.get("id") or element.get("class")
    factory = next((child for tag, child in children if tag == "factory"), None)
    made_by = (
        [factory.get("class") or factory.get("service") or "", factory.get("method") or "__invoke"]
        if factory is not None
        else []
    )
    if element.get("factory-method"):
        made_by = [element.get("factory-bean") or element.get("class") or "", element.get("factory-method")]
    shared = element.get("shared", "true")
    return Definition(
        id=name,
        path=path,
        line=line,
        column=column,
        type="" if element.get("alias") else element.get("class") or ("" if element.get("parent") else name),
        arguments=tuple(_xml_argument(child) for tag, child in children if tag in ("argument", "constructor-arg")),
        alias=element.get("alias", ""),
        scope=element.get("scope") or ("" if _is_true(shared) else "transient"),
        factory="::".join(made_by),
        parent=element.get("parent", ""),
        tags=tuple(child.get("name") or "" for tag, child in children if tag == "tag"),
        autowired=_is_true(element.get("autowire", str(by_type and kind == "service")))
        or element.get("autowire") in ("constructor", "byType"),
        public=_is_true(element.get("public", "true" if kind == "bean" else "false")),
        abstract=_is_true(element.get("abstract")),
        decorates=element.get("decorates", ""),
        calls=tuple(_xml_calls(children)),
    )


def _xml_calls(children: list[tuple[str, Any]]) -> Iterator[Argument]:
    """What calls of methods and properties hand in."""
    for tag, child in children:
        if tag == "property":
            yield _xml_argument(child)
        elif tag == "call":
            for each in child:
                yield msgspec.structs.replace(_xml_argument(each), name=child.get("method") or "")


def _xml_argument(element: Any) -> Argument:
    inner = next((child for child in element if _local(child.tag) in ("ref", "bean", "service")), None)
    refers = element.get("ref") or (element.get("id") if element.get("type") == "service" else "") or ""
    if inner is not None and not refers:
        refers = inner.get("bean") or inner.get("id") or ""
    value = element.get("value") or refers or (element.text or "").strip()
    key = element.get("key") or element.get("name") or ""
    return Argument(
        value=value,
        name="" if key.isdigit() else key.lstrip("$"),
        service=refers,
        optional=element.get("on-invalid") in ("null", "ignore"),
    )
