"""Interfaces and constructors as code, in the language and style of the codebase. Java so far."""

from __future__ import annotations

from collections.abc import Iterable

from isodesm.codebase.hierarchy import UNKNOWN
from isodesm.codebase.model import Codebase
from isodesm.codebase.naming import hierarchy_of
from isodesm.facts import typetext
from isodesm.facts.records import Member, Parameter

INDENT = "    "


def shown_parameters(parameters: Iterable[Parameter]) -> str:
    """A parameter list as written in a signature."""
    return ", ".join(f"{each.type}{'...' if each.variadic else ''} {each.name}" for each in parameters)


def signature(member: Member) -> str:
    """A method's signature as an interface declares it."""
    generics = f"{member.generics} " if member.generics else ""
    throws = f" throws {', '.join(member.throws)}" if member.throws else ""
    return f"{generics}{member.type} {member.name}({shown_parameters(member.parameters)}){throws};"


def documentation(text: bytes, member: Member) -> str:
    """The documentation comment right in front of a member, as written; '' where there is none."""
    before = text[: member.whole[0]].rstrip()
    if not before.endswith(b"*/"):
        return ""
    start = before.rfind(b"/**")
    if start < 0 or b"*/" in before[start:-2]:
        return ""
    lines = before[start:].decode("utf-8", "replace").splitlines()
    return "\n".join([INDENT + lines[0].strip(), *(f"{INDENT} {line.strip()}" for line in lines[1:])])


def interface_code(codebase: Codebase, target: int, name: str, package: str, members: list[Member]) -> str:
    """The source of an interface with the given members of a class, imports included."""
    symbols = codebase.symbols
    declared = symbols.types[target]
    text = codebase.text(symbols.file_of[target])
    parts = [f"package {package};", ""] if package else []
    imports = needed_imports(codebase, target, package, members)
    if imports:
        parts += [*(f"import {each};" for each in imports), ""]
    parts += [f"/** What the rest of the code asks of {declared.name}. */", f"public interface {name}{declared.generics} {{"]
    for member in members:
        comment = documentation(text, member)
        parts += ["", *([comment] if comment else []), INDENT + signature(member)]
    return "\n".join([*parts, "}", ""])


def needed_imports(codebase: Codebase, target: int, package: str, members: list[Member]) -> list[str]:
    """Qualified names of the types in the signatures that another package must import, sorted."""
    symbols = codebase.symbols
    file = symbols.file_of[target]
    hierarchy = hierarchy_of(symbols, codebase.bonds.externals)
    names = hierarchy.file(file)
    local = target - symbols.first[file]
    declared = symbols.types[target]
    implicit = names.catalogue.implicit.package
    found = set()
    for member in members:
        index = declared.members.index(member)
        texts = [member.type, *member.throws, *(parameter.type for parameter in member.parameters), member.generics]
        for text in texts:
            for name in typetext.names(text.strip("<>") if text == member.generics else text):
                resolved = names.resolve(name, local, index)
                if resolved == UNKNOWN or "." in name:
                    continue
                qualified = codebase.target_name(resolved)
                home = qualified.rpartition(".")[0]
                if home and home not in (package, implicit):
                    found.add(qualified)
    return sorted(found)


def member_source(codebase: Codebase, number: int, member: Member) -> str:
    """A member as it stands in the source, from its modifiers to its end, indented as there."""
    file = codebase.symbols.file_of[number]
    text = codebase.text(file)
    start = text.rfind(b"\n", 0, member.whole[0]) + 1
    return text[start : member.whole[1]].decode("utf-8", "replace").replace("\r\n", "\n")


def constructor_code(name: str, visibility: str, parameters: list[tuple[str, str]], body: list[str], throws: tuple[str, ...]) -> str:
    """A constructor: `parameters` are (type, name) pairs, `body` its statements, one a line."""
    shown = ", ".join(f"{kind} {each}" for kind, each in parameters)
    clause = f" throws {', '.join(throws)}" if throws else ""
    head = f"{INDENT}{visibility + ' ' if visibility else ''}{name}({shown}){clause} {{"
    return "\n".join([head, *(f"{INDENT}{INDENT}{line}" for line in body), f"{INDENT}}}"])


def body_lines(codebase: Codebase, number: int, member: Member) -> list[str]:
    """The statements of a constructor as lines, their own indentation below the first level kept."""
    text = codebase.text(codebase.symbols.file_of[number])
    inner = text[member.body[0] + 1 : member.body[1] - 1].decode("utf-8", "replace").replace("\r\n", "\n")
    lines = [line.rstrip() for line in inner.split("\n")]
    lines = [line for index, line in enumerate(lines) if line.strip() or 0 < index < len(lines) - 1]
    margin = min((len(line) - len(line.lstrip()) for line in lines if line.strip()), default=0)
    return [line[margin:] for line in lines if line.strip()]


def visibility_of(member: Member | None) -> str:
    """The access word of a member, 'public' for a constructor that is not written out."""
    if member is None:
        return "public"
    return next((word for word in member.modifiers.words if word in ("public", "protected", "private")), "")


def creation_text(codebase: Codebase, file: int, start: int, end: int) -> str:
    """A creation as written, on one line and without comments."""
    return typetext.squeeze(codebase.text(file)[start:end].decode("utf-8", "replace"))


def source_line(codebase: Codebase, file: int, at: int) -> str:
    """The line of a file that holds byte `at`, its indentation kept."""
    text = codebase.text(file)
    start, end = text.rfind(b"\n", 0, at) + 1, text.find(b"\n", at)
    return text[start : end if end >= 0 else len(text)].decode("utf-8", "replace").rstrip()
