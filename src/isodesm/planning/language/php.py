"""How PHP spells what steps put into code, and the rules that planning minds."""

from __future__ import annotations

import re
from collections.abc import Sequence

from isodesm.facts.records import Member
from isodesm.planning.language.base import Language, Level
from isodesm.planning.language.lines import joined
from isodesm.planning.model.code import (
    Adapter,
    FactoryClass,
    FunctionType,
    Interface,
    Need,
    Rules,
    Signature,
    Table,
    Typed,
    WrittenConstructor,
)
from isodesm.planning.wording import code as wording

_SHORT = re.compile(r"(?:static )?fn \((?P<given>.*?)\)(?:: (?P<result>[\w\\\\?]+))? => (?P<value>.*)", re.DOTALL)
_CALLABLE = re.compile(r"(?P<called>[\w\\\\:$>-]+)\(\.\.\.\)")


class Php(Language):
    """PHP, at a level from which on each newer form is in the words of the older one."""

    name = "php"
    suffix = ".php"
    final_word = "readonly "
    late_static_type = "static"
    values = ("string", "int", "bool")
    methods_unique = files_found_by_name = True
    link, static_link, sign, spread = "->", "::", "$", "..."
    calls_hide_references = functions_rebind_this = True
    passes_by_name = re.compile(r"(\w++)\s*+(?::(?!:)|=(?!=))\s*+(.+)$", re.DOTALL)
    parameter_types = re.compile(r"\??[\w\\]+")
    class_value = re.compile(rb"\s*::\s*class\b")
    parent_call = "parent::__construct();"
    inherits_constructors = forwards_plain_parameters = subclass_may_skip_constructor = constructors_no_less_open = True
    opened = {"private": "public", "protected": "public"}
    promoted_if_required = container_arrays = True
    annotation = "#[{}]"
    imported = re.compile(r"use\s+([\w\\]+)\s*;")
    imports_by = "name"
    names_global_types = True
    undeclared_arguments = re.compile(rb"\bfunc_(?:get_args?|num_args)\s*+\(", re.IGNORECASE)
    untyped_data = "array"
    of_table = "(new {name}())->{field}"

    def __init__(self, level: Level = (99, 0), suffix: str = "") -> None:
        super().__init__(level, suffix)
        self.named = "{name}: {value}" if level >= (8, 0) else ""
        self.promoted = self._promoted if level >= (8, 0) else None

    def use(self, name: str) -> str:
        """A field, as a member of its class names it."""
        return f"$this->{name}"

    def parameter(self, type: str, name: str) -> str:
        """A parameter."""
        return f"{type + ' ' if type else ''}${name}"

    def optional(self, type: str, name: str, default: str) -> tuple[str, str]:
        """A parameter that may be left out; before types could be marked so, a default made them one that may be missing."""
        if self.level < (7, 1):
            value = f"${name} ?? {default}" if self.level >= (7, 0) else f"${name} !== null ? ${name} : {default}"
            return f"{type.lstrip('?') + ' ' if type else ''}${name} = null", value
        nullable = type if type.startswith("?") or "|" in type or type == "mixed" else f"?{type}"
        given = f"({default})" if default.startswith(("fn ", "static fn ")) else default
        return f"{nullable} ${name} = null", f"${name} ?? {given}"

    def field(self, type: str, name: str) -> str:
        """The declaration of a field."""
        return f"private {type + ' ' if type and self.level >= (7, 4) else ''}${name};"

    def _promoted(self, type: str, name: str) -> str:
        return f"private {'readonly ' if self.level >= (8, 1) else ''}{type} ${name}"

    def fallback(self, name: str, value: str) -> str:
        """A parameter that gets its default now."""
        return f"${name} ??= {value.partition(' ?? ')[2]};" if self.level >= (7, 4) else f"${name} = {value};"

    def supplied(self, text: str) -> str:
        """Functions in the words of the level."""
        called = _CALLABLE.fullmatch(text) if self.level < (8, 1) else None
        if called:
            return f"function (...$arguments) {{ return {called['called']}(...$arguments); }}"
        short = _SHORT.fullmatch(text) if self.level < (7, 4) else None
        if short is None:
            return text
        result = f": {short['result']}" if short["result"] and self.level >= (7, 0) else ""
        return f"function ({short['given']}){result} {{ return {short['value']}; }}"

    def constructor(self, given: WrittenConstructor) -> str:
        """A constructor with its statements, a line each."""
        indent = given.indent
        head = joined(given.parameters, f"{given.visibility or 'public'} function __construct(", ")", indent, indent)
        opening = f"\n{indent}{{" if "\n" not in head else " {"
        return "\n".join([head + opening, *(f"{indent}{indent}{line}" for line in given.body), f"{indent}}}"])

    def passing_on(
        self, inherited: Sequence[str], names: Sequence[str], parameters: Sequence[str], at: int
    ) -> tuple[list[str], str]:
        """The parameters of the parent's constructor around, forwarded to it."""
        call = f"parent::__construct({', '.join(f'${each}' for each in names)});"
        return [*inherited[:at], *parameters, *inherited[at:]], call

    def signature(self, member: Signature, indent: str) -> list[str]:
        """A member as an interface declares it, with its comment."""
        docs = [f"{indent}{line}" for line in member.docs.split("\n")] if member.docs else []
        result = f": {member.result}" if member.result else ""
        return [*docs, f"{indent}public function {member.name}({member.parameters}){result};"]

    def interface(self, wanted: Interface) -> str:
        """The file of an interface."""
        parts = _head(wanted)
        parts += [f"/** {wanted.purpose} */", f"interface {wanted.name}", "{"]
        for index, member in enumerate(wanted.members):
            parts += ([""] if index else []) + self.signature(member, "    ")
        return "\n".join([*parts, "}", ""])

    def adapter(self, wanted: Adapter) -> str:
        """The file of a class that passes on."""
        parts = _head(wanted)
        parts += [
            f"/** {wording.adapter_of(wanted.target)} */",
            f"final class {wanted.name} implements {wanted.interface}",
            "{",
        ]
        for index, each in enumerate(wanted.members):
            lines = self.signature(each.signature._replace(docs=""), "    ")
            call = f"        {'return ' if each.gives_back else ''}{each.call};"
            parts += ([""] if index else []) + [lines[-1].removesuffix(";"), "    {", call, "    }"]
        return "\n".join([*parts, "}", ""])

    def factory_class(self, wanted: FactoryClass) -> str:
        """The file of a class that makes objects of another."""
        head = joined(wanted.parameters, "    public static function make(", f"): {wanted.made}", "    ", "    ")
        parts = [
            *_head(wanted),
            f"/** {wording.container_factory_of(wanted.made)} */",
            f"final class {wanted.name}",
            "{",
        ]
        opening = ["    {"] if "\n" not in head else []
        parts += [head + (" {" if not opening else ""), *opening, f"        return {wanted.call};", "    }", "}", ""]
        return "\n".join(parts)

    def table(self, wanted: Table) -> str:
        """The file of a class that keeps data."""
        parts = [*_head(wanted), f"/** {wording.data_of(wanted.owner)} */", f"final class {wanted.name}", "{"]
        return "\n".join([*parts, f"    public {wanted.type} ${wanted.field} = {wanted.value};", "}", ""])

    def rules(self, wanted: Rules) -> str:
        """The file of a class with rules."""
        inner: list[str] = []
        for each in wanted.members:
            given = ", ".join(f"{kind} ${name}".strip() for kind, name in each.parameters)
            lines = [f"        {line}" if line else "" for line in (*each.lines, f"return ${each.left};")]
            inner += ([""] if inner else []) + [f"    public function {each.name}({given})", "    {", *lines, "    }"]
        head = [*_head(wanted), f"/** {wording.rules_of(wanted.owner)} */", f"class {wanted.name}", "{"]
        return "\n".join([*head, *inner, "}", ""])

    def file_name(self, name: str) -> str:
        """As its type."""
        return f"{name}.php"

    def import_line(self, need: Need, path: str) -> str:
        """An import of one name."""
        name = f"{need.member} as {need.name}" if need.member else need.name
        return f"use {need.home + chr(92) if need.home else ''}{name};"

    def member_name(self, name: str) -> str:
        """Words joined by capitals."""
        first, *rest = name.split("_")
        return super().member_name(first + "".join(each[:1].upper() + each[1:] for each in rest))

    def factory(self, made: str, parameters: Sequence[tuple[str, str]], abstraction: str) -> FunctionType:
        """A closure."""
        given = ", ".join(f"{kind + ' ' if kind else ''}${name}" for kind, name in parameters)
        names = ", ".join(f"${name}" for _, name in parameters)
        text = f"fn ({given}): {abstraction} => new {made}({names})"
        return FunctionType(Typed("\\Closure"), text, "({field})({arguments})")

    def function_of(self, member: Member, written: str, needs: tuple[Need, ...], *, freely: bool) -> FunctionType | None:
        """A closure."""
        return FunctionType(Typed("\\Closure"), written, "({field})({arguments})")

    def reference(self, owner: str, name: str, written: str) -> str:
        """A closure of a function."""
        return f"{written}(...)"

    def reader(self, type: str, written: str, needs: tuple[Need, ...]) -> FunctionType | None:
        """A closure."""
        return FunctionType(Typed("\\Closure"), f"function () {{ return {written}; }}", "({field})()")


def _head(wanted: Interface | Adapter | FactoryClass | Rules | Table) -> list[str]:
    """What a file begins with."""
    parts = ["<?php", ""]
    if "strict_types=1" in wanted.model:
        parts += ["declare(strict_types=1);", ""]
    parts += [f"namespace {wanted.home};", ""] if wanted.home else []
    return [*parts, *(f"use {each};" for each in wanted.imports), ""] if wanted.imports else parts
