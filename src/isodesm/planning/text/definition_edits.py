"""Changes of definition files, in their own style: a further argument of a service, a further service, another name for one.

Nothing is parsed and written anew: what is added goes between bytes that all stay, remarks included.
"""

from __future__ import annotations

import re
from typing import NamedTuple

from isodesm.facts.definitions import Definition

_KEY = re.compile(r"^(\s*+)(?:[^\s#][^:]*+|'[^']*+'|\"[^\"]*+\")\s*+:\s*+(.*)$")
_REMARK = re.compile(r"(?<!\s)\s++#.*$")
_ELEMENT_END = re.compile(r"/?>")
_CHILDREN = ("constructor-arg", "argument")


class Insertion(NamedTuple):
    """Text that comes into a file at byte `at`, in the place of `length` bytes."""

    at: int
    text: str
    length: int = 0


def with_argument(content: bytes, given: Definition, reference: str, name: str) -> Insertion | None:
    """A further argument of a service that refers to another by its id, last, or by `name` where those of the service are
    named; None where the definition is not written so that one can be added."""
    text = content.decode("utf-8", "surrogateescape")
    lines = text.splitlines(keepends=True)
    if not 0 < given.line <= len(lines):
        return None
    named = bool(given.arguments) and all(each.name for each in given.arguments)
    if any(each.name for each in given.arguments) and not named:
        return None
    found = _xml_argument(text, lines, given, reference, name if named else "") if given.path.endswith(".xml") else None
    if not given.path.endswith(".xml"):
        found = _yaml_argument(lines, given, reference, name if named else "")
    return _in_bytes(text, found)


def with_service(content: bytes, behind: Definition, id: str, kind: str, lifetime: str) -> Insertion | None:
    """A further service of a class behind another one, written as that is."""
    text = content.decode("utf-8", "surrogateescape")
    lines = text.splitlines(keepends=True)
    if not 0 < behind.line <= len(lines):
        return None
    if behind.path.endswith(".xml"):
        return _in_bytes(text, _xml_service(text, lines, behind, id, kind, lifetime))
    margin, end = _margin(lines[behind.line - 1]), _block_end(lines, behind.line - 1)
    inner = _inner_margin(lines, behind.line - 1) or margin + (margin or "    ")
    parts = [f"{margin}{id}: ~"] if id == kind and lifetime != "transient" else [f"{margin}{id}:"]
    parts += [f"{inner}class: {kind}"] if id != kind else []
    parts += [f"{inner}shared: false"] if lifetime == "transient" else []
    return _in_bytes(text, _behind(lines, end, [*_apart(lines, behind), *parts]))


def with_factory_class(content: bytes, given: Definition, maker: str, function: str) -> Insertion | None:
    """A service made by a function of another class; None where the definition is not written so that it can be told."""
    text = content.decode("utf-8", "surrogateescape")
    lines = text.splitlines(keepends=True)
    if not 0 < given.line <= len(lines):
        return None
    if given.path.endswith(".xml"):
        return _in_bytes(text, _xml_factory(text, lines, given, maker, function))
    start = given.line - 1
    head = _KEY.match(lines[start].rstrip("\r\n"))
    said = _REMARK.sub("", head[2]).strip() if head is not None else ""
    if head is None or said not in ("", "~", "null"):
        return None
    inner = _inner_margin(lines, start) or head[1] + (head[1] or "    ")
    entry = f"{inner}factory: ['{maker}', '{function}']"
    if said:
        before = lines[start][: head.start(2)].rstrip()
        at, gone = sum(map(len, lines[:start])) + len(before), head.start(2) - len(before) + len(said)
        return _in_bytes(text, (at, _line_end(lines) + entry, gone))
    behind = start + 1
    if behind < len(lines) and re.match(r"\s*class\s*:", lines[behind]):
        behind += 1
    return _in_bytes(text, _behind(lines, behind, [entry]))


def with_alias(content: bytes, behind: Definition, name: str, id: str) -> Insertion | None:
    """Another name of a service, behind that."""
    text = content.decode("utf-8", "surrogateescape")
    lines = text.splitlines(keepends=True)
    if not 0 < behind.line <= len(lines):
        return None
    if behind.path.endswith(".xml"):
        start = sum(map(len, lines[: behind.line - 1])) + behind.column - 1
        end = _element_end(text, start)
        kind = (
            f'<alias name="{id}" alias="{name}"/>'
            if text.startswith("<bean", start)
            else f'<service id="{name}" alias="{id}"/>'
        )
        return _in_bytes(text, (end, _line_end(lines) + _margin(lines[behind.line - 1]) + kind)) if end else None
    margin, end = _margin(lines[behind.line - 1]), _block_end(lines, behind.line - 1)
    return _in_bytes(text, _behind(lines, end, [*_apart(lines, behind), f"{margin}{name}: {_quoted(lines, f'@{id}')}"]))


def with_folder(content: bytes, group: list[Definition], prefix: str, resource: str, left_out: list[str]) -> list[Insertion]:
    """All classes of a folder in the place of services that only name theirs, but for some files; [] where one of them can't
    be found again. The changes are made one after the other, the last of the file first."""
    text = content.decode("utf-8", "surrogateescape")
    lines = text.splitlines(keepends=True)
    names = left_out[0] if len(left_out) == 1 else "{" + ",".join(left_out) + "}"
    found: list[tuple[int, str, int]] = []
    if group[0].path.endswith(".xml"):
        found = _xml_folder(text, lines, group, f'namespace="{prefix}" resource="{resource}"')
        excluded = f' exclude="{resource}{names}"' if left_out else ""
        found[:1] = [(at, f"{new}{excluded}/>", length) for at, new, length in found[:1]]
        return _all_in_bytes(text, found)
    for each in group:
        if not 0 < each.line <= len(lines) or each.id not in lines[each.line - 1]:
            return []
        start, end = each.line - 1, _block_end(lines, each.line - 1)
        while start > 0 and end < len(lines) and not lines[end].strip() and not lines[start - 1].strip():
            end += 1  # one of the empty lines around it
        found.append((sum(map(len, lines[:start])), "", sum(map(len, lines[start:end]))))
    margin, line_end = _margin(lines[group[0].line - 1]), _line_end(lines)
    inner = _inner_margin(lines, group[0].line - 1) or margin + (margin or "    ")
    parts = [f"{margin}{prefix}:", f"{inner}resource: '{resource}'"]
    if left_out:
        parts.append(f"{inner}exclude: '{resource}{names}'")
    found.sort()
    found[0] = (found[0][0], "".join(f"{each}{line_end}" for each in parts), found[0][2])
    return _all_in_bytes(text, found)


def _all_in_bytes(text: str, found: list[tuple[int, str, int]]) -> list[Insertion]:
    """Changes counted in bytes, the last of the file first."""
    return [each for one in reversed(found) if (each := _in_bytes(text, one)) is not None]


def _in_bytes(text: str, found: tuple[int, str] | tuple[int, str, int] | None) -> Insertion | None:
    """The same counted in bytes."""
    if found is None:
        return None
    at, added, length = (*found, 0)[:3]
    start = len(text[:at].encode("utf-8", "surrogateescape"))
    return Insertion(start, added, len(text[at : at + length].encode("utf-8", "surrogateescape")))


def _line_end(lines: list[str]) -> str:
    return "\r\n" if lines and lines[0].endswith("\r\n") else "\n"


def _margin(line: str) -> str:
    return line[: len(line) - len(line.lstrip())]


# --- YAML ----------------------------------------------------------------------------------


def _block_end(lines: list[str], start: int) -> int:
    """The index behind the last line that belongs to a key: those further in, and empty ones between."""
    depth, end = len(_margin(lines[start])), start + 1
    for index in range(start + 1, len(lines)):
        line = lines[index]
        if not line.strip():
            continue
        if len(_margin(line)) <= depth:
            break
        end = index + 1
    return end


def _inner_margin(lines: list[str], start: int) -> str:
    """The margin of what a key holds, as it or another one of the file has it; '' where none holds anything."""
    own = next((each for each in lines[start + 1 : _block_end(lines, start)] if each.strip()), None)
    if own is not None:
        return _margin(own)
    depth = _margin(lines[start])
    for index, line in enumerate(lines[:-1]):
        if line.strip() and _margin(line) == depth and len(_margin(lines[index + 1])) > len(depth):
            return _margin(lines[index + 1])
    return ""


def _apart(lines: list[str], behind: Definition) -> list[str]:
    """An empty line where services are parted by such."""
    return [""] if behind.line > 1 and not lines[behind.line - 2].strip() else []


def _quoted(lines: list[str], reference: str) -> str:
    """A reference in the quotes that the file uses for others."""
    double = sum(line.count('"@') for line in lines)
    return f'"{reference}"' if double > sum(line.count("'@") for line in lines) else f"'{reference}'"


def _behind(lines: list[str], index: int, added: list[str]) -> tuple[int, str]:
    """Lines behind the one in front of an index."""
    end, at = _line_end(lines), sum(map(len, lines[:index]))
    open_end = index > 0 and not lines[index - 1].endswith("\n")
    return (at, end + end.join(added)) if open_end else (at, "".join(f"{each}{end}" for each in added))


def _yaml_argument(
    lines: list[str], given: Definition, reference: str, name: str
) -> tuple[int, str] | tuple[int, str, int] | None:
    start = given.line - 1
    head = _KEY.match(lines[start].rstrip("\r\n"))
    if head is None:
        return None
    value = _quoted(lines, f"@{reference}")
    said = _REMARK.sub("", head[2]).strip()
    inner = _inner_margin(lines, start) or head[1] + (head[1] or "    ")
    if said in ("~", "null"):
        before = lines[start][: head.start(2)].rstrip()
        at, gone = sum(map(len, lines[:start])) + len(before), head.start(2) - len(before) + len(said)
        return at, f"{_line_end(lines)}{inner}arguments: [{value}]", gone
    if said:
        return None
    end = _block_end(lines, start)
    for index in range(start + 1, end):
        found = re.match(r"^(\s*)arguments\s*:\s*(.*)$", lines[index].rstrip("\r\n"))
        if found is not None and found[1] == inner:
            return _into_arguments(lines, index, found, value, name)
    return _behind(lines, end, [f"{inner}arguments: [{value}]"])


def _into_arguments(lines: list[str], index: int, found: re.Match[str], value: str, name: str) -> tuple[int, str] | None:
    said = _REMARK.sub("", found[2]).rstrip()
    if said.startswith("["):
        if not said.endswith("]"):
            return None
        at = sum(map(len, lines[:index])) + found.start(2) + len(said) - 1
        return at, f", {value}" if said[1:-1].strip() else value
    if said:
        return None
    end = _block_end(lines, index)
    own = [each for each in lines[index + 1 : end] if each.strip()]
    if not own:
        return None
    margin = _margin(own[0])
    if own[0].lstrip().startswith("- "):
        return _behind(lines, end, [f"{margin}- {value}"])
    return _behind(lines, end, [f"{margin}${name}: {value}"]) if name else None


# --- XML -----------------------------------------------------------------------------------


def _element_end(text: str, start: int) -> int:
    """Behind the element that begins at `start`; 0 where its end is not found."""
    opened = _ELEMENT_END.search(text, start)
    tag = re.match(r"<([\w:.-]+)", text[start:])
    if opened is None or tag is None:
        return 0
    if opened[0] == "/>":
        return opened.end()
    close = re.compile(rf"</{re.escape(tag[1])}\s*>").search(text, opened.end())
    return close.end() if close is not None else 0


def _xml_argument(
    text: str, lines: list[str], given: Definition, reference: str, name: str
) -> tuple[int, str] | tuple[int, str, int] | None:
    start = sum(map(len, lines[: given.line - 1])) + given.column - 1
    opened, end = _ELEMENT_END.search(text, start), _element_end(text, start)
    if opened is None or not end:
        return None
    bean = text.startswith("<bean", start)
    key = f' {"name" if bean else "key"}="{"" if bean else "$"}{name}"' if name else ""
    entry = f'<constructor-arg{key} ref="{reference}"/>' if bean else f'<argument{key} type="service" id="{reference}"/>'
    margin, line_end = _margin(lines[given.line - 1]), _line_end(lines)
    if opened[0] == "/>":
        inner = _child_margin(lines, margin)
        closing = re.match(r"<([\w:.-]+)", text[start:])
        assert closing is not None
        lead = 1 if text[opened.start() - 1] == " " else 0
        return opened.start() - lead, f">{line_end}{inner}{entry}{line_end}{margin}</{closing[1]}>", 2 + lead
    children = list(
        re.finditer(rf"<(?:[\w]+:)?(?:{'|'.join(_CHILDREN)})\b[^>]*?(?:/>|>.*?</[^>]*>)", text[opened.end() : end], re.DOTALL)
    )
    if children:
        last = opened.end() + children[-1].end()
        return last, f"{line_end}{_margin_at(text, opened.end() + children[-1].start())}{entry}"
    return opened.end(), f"{line_end}{_child_margin(lines, margin)}{entry}"


def _xml_factory(
    text: str, lines: list[str], given: Definition, maker: str, function: str
) -> tuple[int, str] | tuple[int, str, int] | None:
    start = sum(map(len, lines[: given.line - 1])) + given.column - 1
    opened = _ELEMENT_END.search(text, start)
    if opened is None:
        return None
    if text.startswith("<bean", start):  # which names what makes it as its own class
        named = re.compile(r"\bclass\s*=\s*([\"'])([^\"']*)\1").search(text, start, opened.start())
        return (named.start(2), f"{maker}{named[1]} factory-method={named[1]}{function}", len(named[2])) if named else None
    margin, line_end = _margin(lines[given.line - 1]), _line_end(lines)
    entry = f'{line_end}{_child_margin(lines, margin)}<factory class="{maker}" method="{function}"/>'
    if opened[0] == ">":
        return opened.end(), entry
    tag = re.match(r"<([\w:.-]+)", text[start:])
    lead = 1 if text[opened.start() - 1] == " " else 0
    return (opened.start() - lead, f">{entry}{line_end}{margin}</{tag[1]}>", 2 + lead) if tag else None


def _xml_service(text: str, lines: list[str], behind: Definition, id: str, kind: str, lifetime: str) -> tuple[int, str] | None:
    start = sum(map(len, lines[: behind.line - 1])) + behind.column - 1
    end = _element_end(text, start)
    if not end:
        return None
    bean = text.startswith("<bean", start)
    scope = "" if lifetime != "transient" else ' scope="prototype"' if bean else ' shared="false"'
    margin = _margin(lines[behind.line - 1])
    return end, f'{_line_end(lines)}{margin}<{"bean" if bean else "service"} id="{id}" class="{kind}"{scope}/>'


def _xml_folder(text: str, lines: list[str], group: list[Definition], said: str) -> list[tuple[int, str, int]]:
    """The spans of some services, in order: the first gives way to all classes of a folder, its element left open, the others
    go with the lines that they have for themselves. [] where one can't be found again."""
    found: list[tuple[int, str, int]] = []
    for each in sorted(group, key=lambda each: (each.line, each.column)):
        start = sum(map(len, lines[: each.line - 1])) + each.column - 1
        end = _element_end(text, start)
        if not end or not text.startswith("<service", start):
            return []
        begin, behind = text.rfind("\n", 0, start) + 1, text.find("\n", end) + 1
        alone = found and behind and not text[begin:start].strip() and not text[end:behind].strip()
        found.append((begin, "", behind - begin) if alone else (start, "" if found else f"<prototype {said}", end - start))
    return found


def _margin_at(text: str, at: int) -> str:
    return _margin(text[text.rfind("\n", 0, at) + 1 : at] + "x")


def _child_margin(lines: list[str], margin: str) -> str:
    """The margin of what stands inside an element, as others of the file have it."""
    inner = next((_margin(line) for line in lines if line.lstrip().startswith(tuple(f"<{each}" for each in _CHILDREN))), "")
    return inner or margin + (margin if margin else "    ")
