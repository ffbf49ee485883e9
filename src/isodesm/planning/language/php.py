"""How PHP spells what steps put into code."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

from isodesm.planning.language.writer import Writer, joined
from isodesm.planning.model.code import Adapter, FactoryClass, Interface, Signature, Table, Typed


def constructor(
    name: str, visibility: str, parameters: Sequence[str], statements: Sequence[str], errors: str, indent: str
) -> str:
    """A constructor with its statements, a line each."""
    head = joined(parameters, f"{visibility or 'public'} function __construct(", ")", indent, indent)
    opening = f"\n{indent}{{" if "\n" not in head else " {"
    return "\n".join([head + opening, *(f"{indent}{indent}{line}" for line in statements), f"{indent}}}"])


def optional(type: str, name: str, supply: str) -> tuple[str, str]:
    """A parameter that may be left out."""
    nullable = type if type.startswith("?") or "|" in type or type == "mixed" else f"?{type}"
    return (
        f"{nullable} ${name} = null",
        f"${name} ?? {supply if not supply.startswith(('fn ', 'static fn ')) else f'({supply})'}",
    )


def fallback(name: str, value: str) -> str:
    """A parameter that gets its default now."""
    return f"${name} ??= {value.partition(' ?? ')[2]};"


def signature(member: Signature, indent: str) -> list[str]:
    """A member as an interface declares it, with its comment."""
    docs = [f"{indent}{line}" for line in member.docs.split("\n")] if member.docs else []
    result = f": {member.result}" if member.result else ""
    return [*docs, f"{indent}public function {member.name}({member.parameters}){result};"]


def _head(wanted: Interface | Adapter | FactoryClass | Table) -> list[str]:
    """What a file begins with."""
    parts = ["<?php", ""]
    if "strict_types=1" in wanted.model:
        parts += ["declare(strict_types=1);", ""]
    parts += [f"namespace {wanted.home};", ""] if wanted.home else []
    return [*parts, *(f"use {each};" for each in wanted.imports), ""] if wanted.imports else parts


def interface(wanted: Interface) -> str:
    """The file of an interface."""
    parts = _head(wanted)
    parts += [f"/** {wanted.purpose} */", f"interface {wanted.name}", "{"]
    for index, member in enumerate(wanted.members):
        parts += ([""] if index else []) + signature(member, "    ")
    return "\n".join([*parts, "}", ""])


def adapter(wanted: Adapter) -> str:
    """The file of a class that passes on."""
    parts = _head(wanted)
    parts += [f"/** Passes on to {wanted.target}. */", f"final class {wanted.name} implements {wanted.interface}", "{"]
    for index, each in enumerate(wanted.members):
        lines = signature(each.signature._replace(docs=""), "    ")
        call = f"        {'return ' if each.gives_back else ''}{each.call};"
        parts += ([""] if index else []) + [lines[-1].removesuffix(";"), "    {", call, "    }"]
    return "\n".join([*parts, "}", ""])


def maker(wanted: FactoryClass) -> str:
    """The file of a class that makes objects of another."""
    head = joined(wanted.parameters, "    public static function make(", f"): {wanted.made}", "    ", "    ")
    parts = [
        *_head(wanted),
        f"/** Makes {wanted.made}, with what no definition file can hold. */",
        f"final class {wanted.name}",
        "{",
    ]
    opening = ["    {"] if "\n" not in head else []
    parts += [head + (" {" if not opening else ""), *opening, f"        return {wanted.call};", "    }", "}", ""]
    return "\n".join(parts)


def table(wanted: Table) -> str:
    """The file of a class that keeps data."""
    parts = [*_head(wanted), f"/** The data of {wanted.owner}. */", f"final class {wanted.name}", "{"]
    return "\n".join([*parts, f"    public {wanted.type} ${wanted.field} = {wanted.value};", "}", ""])


def factory(made: str, parameters: Sequence[tuple[str, str]], abstraction: str) -> tuple[Typed, str, str]:
    """A closure that makes an object."""
    given = ", ".join(f"{kind + ' ' if kind else ''}${name}" for kind, name in parameters)
    names = ", ".join(f"${name}" for _, name in parameters)
    return Typed("\\Closure"), f"fn ({given}): {abstraction} => new {made}({names})", "({field})({arguments})"


def passing_on(inherited: Sequence[str], names: Sequence[str], parameters: Sequence[str], at: int) -> tuple[list[str], str]:
    """The parameters of the parent's constructor around, handed on to it."""
    return [*inherited[:at], *parameters, *inherited[at:]], f"parent::__construct({', '.join(f'${each}' for each in names)});"


WRITER = Writer(
    language="php",
    overloads=False,
    use=lambda name: f"$this->{name}",
    argument=lambda name: f"${name}",
    parameter=lambda type, name: f"{type + ' ' if type else ''}${name}",
    optional=optional,
    field=lambda type, name: f"private {type + ' ' if type else ''}${name};",
    promoted=lambda type, name: f"private readonly {type} ${name}",
    assignment=lambda name, value: f"$this->{name} = {value};",
    constructor=constructor,
    interface=interface,
    signature=signature,
    adapter=adapter,
    file_name=lambda name: f"{name}.php",
    import_line=lambda need, path: f"use {need.home + chr(92) if need.home else ''}{need.name};",
    factory=factory,
    table=table,
    of_table="(new {name}())->{field}",
    maker=maker,
    fallback=fallback,
    named="{name}: {value}",
    parent_call="parent::__construct();",
    passing_on=passing_on,
)

_SHORT = re.compile(r"(?:static )?fn \((?P<given>.*?)\)(?:: (?P<result>[\w\\\\?]+))? => (?P<value>.*)", re.DOTALL)
_CALLABLE = re.compile(r"(?P<called>[\w\\\\:$>-]+)\(\.\.\.\)")


def at(level: tuple[int, int]) -> Writer:
    """The writer for code that must run at a level of the language: each newer form in the words of the older one."""
    if level >= (8, 1):
        return WRITER
    changed = replace(
        WRITER,
        promoted=lambda type, name: f"private {type} ${name}",
        supplied=lambda text: _supplied(text, level),
    )
    if level < (8, 0):
        changed = replace(changed, promoted=None, named="")
    if level < (7, 4):
        changed = replace(
            changed,
            field=lambda type, name: f"private ${name};",
            fallback=lambda name, value: f"${name} = {value};",
        )
    if level < (7, 1):
        changed = replace(changed, optional=lambda type, name, supply: _optional(type, name, supply, level))
    return changed


def _supplied(text: str, level: tuple[int, int]) -> str:
    called = _CALLABLE.fullmatch(text)
    if called:
        return f"function (...$arguments) {{ return {called['called']}(...$arguments); }}"
    short = _SHORT.fullmatch(text) if level < (7, 4) else None
    if short is None:
        return text
    result = f": {short['result']}" if short["result"] and level >= (7, 0) else ""
    return f"function ({short['given']}){result} {{ return {short['value']}; }}"


def _optional(type: str, name: str, supply: str, level: tuple[int, int]) -> tuple[str, str]:
    """Before types could be marked so, a default made them one that may be missing."""
    value = f"${name} ?? {supply}" if level >= (7, 0) else f"${name} !== null ? ${name} : {supply}"
    return f"{type.lstrip('?') + ' ' if type else ''}${name} = null", value
