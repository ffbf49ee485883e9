"""How C# spells what steps put into code."""

from __future__ import annotations

import re
from collections.abc import Sequence

from isodesm.planning.language.writer import OLD_CONSTRUCTOR, Writer, indented, joined
from isodesm.planning.model.code import Adapter, AdapterMember, Interface, Need, Signature, Table, Typed

_FILE_SCOPED = re.compile(r"^[ \t]*+namespace\s++[\w.]++\s*+;", re.MULTILINE)


def _block(head: str, statements: Sequence[str], indent: str, margin: str) -> str:
    return "\n".join([head, f"{margin}{{", *(f"{margin}{indent}{line}" for line in statements), f"{margin}}}"])


def _unit(margin: str) -> str:
    """One level of a margin that is two deep where classes stand in a namespace."""
    return "\t" if margin.startswith("\t") else " " * (len(margin) // 2 if len(margin) > 4 else len(margin)) or "    "


def constructor(
    name: str, visibility: str, parameters: Sequence[str], statements: Sequence[str], errors: str, indent: str
) -> str:
    """A constructor with its statements, a line each; `indent` is the margin of members."""
    head = joined(parameters, f"{visibility + ' ' if visibility else ''}{name}(", ")", indent, _unit(indent))
    return _block(head, statements, _unit(indent), indent)


def delegating(
    name: str, visibility: str, parameters: Sequence[str], arguments: Sequence[str], errors: str, indent: str
) -> str:
    """A bridging constructor."""
    head = joined(parameters, f"{visibility + ' ' if visibility else ''}{name}(", ")", indent, _unit(indent))
    call = joined(arguments, ": this(", ")", indent + _unit(indent), _unit(indent))
    remark = f"/// <summary>{OLD_CONSTRUCTOR}</summary>\n{indent}"
    return remark + _block(f"{head}\n{indent}{_unit(indent)}{call}", (), _unit(indent), indent)


def signature(member: Signature, indent: str) -> list[str]:
    """A member as an interface declares it, with its comment."""
    docs = [indent + line for line in member.docs.split("\n")] if member.docs else []
    if member.kind == "property":
        return [*docs, f"{indent}{member.result} {member.name} {member.parameters}"]
    if member.kind == "event":
        return [*docs, f"{indent}{member.result} {member.name};"]
    return [*docs, f"{indent}{member.result} {member.name}{member.generics}({member.parameters}){member.constraints};"]


def interface(wanted: Interface) -> str:
    """The file of an interface, its namespace spelt as in the file of the class it is taken from."""
    unit = "\t" if "\n\t" in wanted.model else "    "
    inner: list[str] = []
    for member in wanted.members:
        inner += ([""] if inner else []) + signature(member, unit)
    body = [
        f"/// <summary>{wanted.purpose}</summary>",
        f"{wanted.visibility} interface {wanted.name}{wanted.generics}",
        "{",
        *inner,
        "}",
    ]
    return _file(wanted, body, unit)


def _file(wanted: Interface | Adapter | Table, body: Sequence[str], unit: str) -> str:
    """A file with one type, its namespace spelt as in the file at hand."""
    head = [*(f"using {each};" for each in wanted.imports), ""] if wanted.imports else []
    if not wanted.home:
        return "\n".join([*head, *body, ""])
    if _FILE_SCOPED.search(wanted.model):
        return "\n".join([*head, f"namespace {wanted.home};", "", *body, ""])
    return "\n".join([*head, f"namespace {wanted.home}", "{", indented(body, unit), "}", ""])


def adapter(wanted: Adapter) -> str:
    """The file of a class that passes on."""
    unit = "\t" if "\n\t" in wanted.model else "    "
    inner: list[str] = []
    for each in wanted.members:
        inner += ([""] if inner else []) + _passing(each, unit)
    body = [
        f"/// <summary>Passes on to {wanted.target}.</summary>",
        f"{wanted.visibility} sealed class {wanted.name} : {wanted.interface}",
        "{",
        *inner,
        "}",
    ]
    return _file(wanted, body, unit)


def _passing(each: AdapterMember, unit: str) -> list[str]:
    member = each.signature
    if member.kind == "property":
        setter = [f"{unit * 2}set {{ {each.call} = value; }}"] if each.is_set else []
        head = f"{unit}public {member.result} {member.name}"
        return [head, f"{unit}{{", f"{unit * 2}get {{ return {each.call}; }}", *setter, f"{unit}}}"]
    head = f"{unit}public {member.result} {member.name}{member.generics}({member.parameters}){member.constraints}"
    return [head, f"{unit}{{", f"{unit * 2}{'return ' if each.gives_back else ''}{each.call};", f"{unit}}}"]


def table(wanted: Table) -> str:
    """The file of a class that keeps data."""
    head = [f"/// <summary>The data of {wanted.owner}.</summary>", f"public sealed class {wanted.name}", "{"]
    unit = "\t" if "\n\t" in wanted.model else "    "
    body = [*head, *f"{unit}public readonly {wanted.type} {wanted.field} = {wanted.value};".split("\n"), "}"]
    margined = wanted.home and not _FILE_SCOPED.search(wanted.model)  # the data has that margin already
    lines = [each.removeprefix(unit) if margined and index > len(head) else each for index, each in enumerate(body[:-1])]
    return _file(wanted, [*lines, body[-1]], unit)


def factory(made: str, parameters: Sequence[tuple[str, str]], abstraction: str) -> tuple[Typed, str, str]:
    """A `Func` that makes an object."""
    names = ", ".join(name for _, name in parameters)
    typed = Typed(f"Func<{', '.join([*(kind for kind, _ in parameters), abstraction])}>", (Need("Func", "System"),))
    head = names if len(parameters) == 1 else f"({names})"
    return typed, f"{head} => new {made}({names})", "{field}({arguments})"


WRITER = Writer(
    language="csharp",
    overloads=True,
    use=str,
    argument=str,
    parameter=lambda type, name: f"{type} {name}",
    field=lambda type, name: f"private readonly {type} {name};",
    assignment=lambda name, value: f"this.{name} = {value};",
    constructor=constructor,
    delegating=delegating,
    interface=interface,
    signature=signature,
    adapter=adapter,
    file_name=lambda name: f"{name}.cs",
    import_line=lambda need, path: f"using {need.home};",
    implements=" : ",
    public_members=True,
    factory=factory,
    table=table,
)
