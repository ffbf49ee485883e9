"""How TypeScript spells what steps put into code."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Sequence
from dataclasses import replace

from isodesm.planning.language.writer import Writer, joined
from isodesm.planning.model.code import Adapter, AdapterMember, Interface, Need, Signature, Table, Typed

UNTYPED_SUFFIXES = (".jsx", ".js", ".mjs", ".cjs")
"""Files in which types can't be written."""


def constructor(
    name: str, visibility: str, parameters: Sequence[str], statements: Sequence[str], errors: str, indent: str
) -> str:
    """A constructor with its statements, a line each."""
    head = joined(
        parameters, f"{visibility + ' ' if visibility and visibility != 'public' else ''}constructor(", ") {", indent, indent
    )
    if not statements:
        return f"{head}}}"
    return "\n".join([head, *(f"{indent}{indent}{line}" for line in statements), f"{indent}}}"])


def relative(home: str, path: str) -> str:
    """A module as a file names it: a path of the tree from that file, anything else as it is."""
    if not home.startswith("/"):
        return home
    found = posixpath.relpath(home[1:], posixpath.dirname(path) or ".")
    return found if found.startswith(".") else f"./{found}"


def import_line(need: Need, path: str) -> str:
    """An import of one name."""
    quote = "'"
    if need.whole:
        return f"import * as {need.name} from {quote}{relative(need.home, path)}{quote};"
    if need.member == "default":
        return f"import {need.name} from {quote}{relative(need.home, path)}{quote};"
    if need.member:
        return f"import {{ {need.member} as {need.name} }} from {quote}{relative(need.home, path)}{quote};"
    return f"import {{ {need.name} }} from {quote}{relative(need.home, path)}{quote};"


def signature(member: Signature, indent: str) -> list[str]:
    """A member as an interface declares it, with its comment."""
    docs = [indent + line for line in member.docs.split("\n")] if member.docs else []
    if member.kind == "property":
        return [*docs, f"{indent}{member.name}: {member.result};"]
    return [*docs, f"{indent}{member.name}{member.generics}({member.parameters}): {member.result};"]


def _indent(model: str) -> str:
    """One level of indentation as a file has it."""
    if "\n    " in model and "\n  " not in model.replace("\n    ", ""):
        return "    "
    return "\t" if "\n\t" in model else "  "


def interface(wanted: Interface) -> str:
    """The module of an interface."""
    indent = _indent(wanted.model)
    parts = [*wanted.imports, ""] if wanted.imports else []
    parts += [
        f"/** {wanted.purpose} */",
        f"export interface {wanted.name}{wanted.generics} {{",
    ]
    for index, member in enumerate(wanted.members):
        parts += ([""] if index and member.docs else []) + signature(member, indent)
    return "\n".join([*parts, "}", ""])


def adapter(wanted: Adapter) -> str:
    """The module of a class that passes on."""
    indent = _indent(wanted.model)
    parts = [*wanted.imports, "", f"/** Passes on to {wanted.target}. */"]
    parts += [f"export class {wanted.name} implements {wanted.interface} {{"]
    for index, each in enumerate(wanted.members):
        parts += ([""] if index else []) + _passing(each, indent)
    return "\n".join([*parts, "}", ""])


def _passing(each: AdapterMember, indent: str) -> list[str]:
    member = each.signature
    if member.kind == "property":
        lines = [f"{indent}get {member.name}(): {member.result} {{", f"{indent * 2}return {each.call};", f"{indent}}}"]
        setter = [f"{indent}set {member.name}(value: {member.result}) {{", f"{indent * 2}{each.call} = value;", f"{indent}}}"]
        return [*lines, "", *setter] if each.is_set else lines
    head = f"{indent}{member.name}{member.generics}({member.parameters}): {member.result} {{"
    return [head, f"{indent * 2}{'return ' if each.gives_back else ''}{each.call};", f"{indent}}}"]


def file_name(name: str) -> str:
    """Words joined by dashes."""
    return re.sub(r"(?<=[a-z0-9])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])", "-", name).lower() + ".ts"


def table(wanted: Table) -> str:
    """The module of a class that keeps data."""
    parts = [*wanted.imports, ""] if wanted.imports else []
    parts += [f"/** The data of {wanted.owner}. */", f"export class {wanted.name} {{"]
    return "\n".join([*parts, f"{_indent(wanted.model)}readonly {wanted.field}: {wanted.type} = {wanted.value};", "}", ""])


def factory(made: str, parameters: Sequence[tuple[str, str]], abstraction: str) -> tuple[Typed, str, str]:
    """A function that makes an object."""
    given, names = ", ".join(f"{name}: {kind}" for kind, name in parameters), ", ".join(name for _, name in parameters)
    return Typed(f"({given}) => {abstraction}"), f"({names}) => new {made}({names})", "{field}({arguments})"


def nullable(type: str, name: str, supply: str) -> tuple[str, str]:
    """A parameter that may be null, and what it gives then."""
    kind, value = (f"({each})" if "=>" in each else each for each in (type, supply))
    return f"{name}: {kind} | null = null", f"{name} ?? {value}"


WRITER = Writer(
    language="typescript",
    overloads=False,
    use=lambda name: f"this.{name}",
    argument=str,
    parameter=lambda type, name: f"{name}: {type}",
    optional=lambda type, name, supply: (f"{name}: {type} = {supply}", name),
    nullable=nullable,
    field=lambda type, name: f"private readonly {name}: {type};",
    promoted=lambda type, name: f"private readonly {name}: {type}",
    assignment=lambda name, value: f"this.{name} = {value};",
    constructor=constructor,
    interface=interface,
    signature=signature,
    adapter=adapter,
    file_name=file_name,
    import_line=import_line,
    factory=factory,
    table=table,
    parent_call="super();",
)

UNTYPED = replace(
    WRITER,
    parameter=lambda type, name: name,
    optional=lambda type, name, supply: (f"{name} = {supply}", name),
    field=lambda type, name: "",
    promoted=None,
    typed=False,
    factory=lambda made, parameters, abstraction: (
        Typed(""),
        f"({', '.join(name for _, name in parameters)}) => new {made}({', '.join(name for _, name in parameters)})",
        "{field}({arguments})",
    ),
)
