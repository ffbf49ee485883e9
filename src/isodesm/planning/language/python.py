"""How Python spells what steps put into code."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

from isodesm.planning.language.writer import Writer, joined
from isodesm.planning.model.code import Adapter, Interface, Need, Signature, Typed


def constructor(
    name: str, visibility: str, parameters: Sequence[str], statements: Sequence[str], errors: str, indent: str
) -> str:
    """An `__init__` with its statements, a line each."""
    head = joined(["self", *parameters], "def __init__(", ") -> None:", indent, indent)
    return "\n".join([head, *(f"{indent}{indent}{line}" for line in statements)])


def optional(type: str, name: str, supply: str) -> tuple[str, str]:
    """A parameter that may be left out; None stands for that, since a default is worked out only once."""
    bracketed = f"({type})" if type.startswith("lambda") else type
    given = f"({supply})" if supply.startswith("lambda") else supply
    return (f"{name}: {bracketed} | None = None" if type else f"{name}=None"), f"{name} if {name} is not None else {given}"


def import_line(need: Need, path: str) -> str:
    """An import of one name."""
    if not need.whole:
        return f"from {need.home} import {f'{need.member} as ' if need.member else ''}{need.name}"
    if need.home == need.name:
        return f"import {need.home}"
    parent, _, last = need.home.rpartition(".")
    return f"from {parent} import {last}" if parent and last == need.name else f"import {need.home} as {need.name}"


def signature(member: Signature, indent: str) -> list[str]:
    """A member as an interface declares it, with its comment."""
    mark = [f"{indent}@abstractmethod"] if member.abstract else []
    word = "async def" if member.asynchronous else "def"
    result = f" -> {member.result}" if member.result else ""
    docs = [f'{indent * 2}"""{member.docs}"""'] if member.docs else []
    decorator = [f"{indent}@property"] if member.kind == "property" else []
    given = f"self, {member.parameters}" if member.parameters else "self"
    body = [*docs] if docs else []
    head = f"{indent}{word} {member.name}({given}){result}:"
    return [*decorator, *mark, head, *body, f"{indent * 2}..."] if body else [*decorator, *mark, f"{head} ..."]


def interface(wanted: Interface) -> str:
    """The module of a protocol."""
    parts = ["from __future__ import annotations", "", "from typing import Protocol"]
    parts += ["", *wanted.imports] if wanted.imports else []
    parts += ["", "", f"class {wanted.name}(Protocol):", f'    """{wanted.purpose}"""']
    for member in wanted.members:
        parts += ["", *signature(member, "    ")]
    return "\n".join([*parts, ""])


def adapter(wanted: Adapter) -> str:
    """The module of a class that passes on."""
    parts = ["from __future__ import annotations", "", *wanted.imports, "", ""]
    parts += [f"class {wanted.name}({wanted.interface}):", f'    """Passes on to {wanted.target}."""']
    for each in wanted.members:
        head = signature(each.signature._replace(docs=""), "    ")[-1].removesuffix(" ...")
        parts += ["", head, f"        return {'await ' if each.signature.asynchronous else ''}{each.call}"]
    return "\n".join([*parts, ""])


def file_name(name: str) -> str:
    """Words joined by underscores."""
    return re.sub(r"(?<=[a-z0-9])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])", "_", name).lower() + ".py"


def factory(made: str, parameters: Sequence[tuple[str, str]], abstraction: str) -> tuple[Typed, str, str]:
    """The class itself, as a callable."""
    return Typed(f"Callable[..., {abstraction}]", (Need("Callable", "collections.abc"),)), made, "{field}({arguments})"


def passing_on(inherited: Sequence[str], names: Sequence[str], parameters: Sequence[str], at: int) -> tuple[list[str], str]:
    """Whatever the parent's constructor takes, by place or by name, goes on to it."""
    return ["*args", *parameters, "**kwargs"], "super().__init__(*args, **kwargs)"


WRITER = Writer(
    language="python",
    overloads=False,
    use=lambda name: f"self.{name}",
    argument=str,
    parameter=lambda type, name: f"{name}: {type}" if type else name,
    optional=optional,
    field=lambda type, name: "",
    assignment=lambda name, value: f"self.{name} = {value}",
    constructor=constructor,
    interface=interface,
    signature=signature,
    adapter=adapter,
    file_name=file_name,
    import_line=import_line,
    implements="(",
    statement_end="",
    factory=factory,
    parent_call="super().__init__()",
    passing_on=passing_on,
    named="{name}={value}",
)

UNTYPED = replace(
    WRITER,
    parameter=lambda type, name: name,
    optional=lambda type, name, supply: optional("", name, supply),
    constructor=lambda name, visibility, parameters, statements, errors, indent: constructor(
        name, visibility, parameters, statements, errors, indent
    ).replace(") -> None:", "):", 1),
    typed=False,
    factory=lambda made, parameters, abstraction: (Typed(""), made, "{field}({arguments})"),
    parent_call="",
    passing_on=None,
)
"""For code that an older interpreter runs, too, which knows no types."""


def at(level: tuple[int, int]) -> Writer:
    """The writer for code that must run at a level of the language; types that it can't work out are written as texts."""
    if level >= (3, 10):
        return WRITER
    if level < (3, 0):
        return UNTYPED
    return replace(
        WRITER,
        parameter=lambda type, name: f"{name}: {_quoted(type)}" if type else name,
        optional=lambda type, name, supply: _optional(type, name, supply),
    )


def _optional(type: str, name: str, supply: str) -> tuple[str, str]:
    parameter, value = optional(type, name, supply)
    return (f"{name}: {_quoted(f'{type} | None')} = None" if type else parameter), value


def _quoted(type: str) -> str:
    return '"' + type.replace('"', "'") + '"' if any(each in type for each in "|[") else type
