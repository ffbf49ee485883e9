"""How Java spells what steps put into code, and the rules that planning minds."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence

from isodesm.facts.records import Member, Parameter
from isodesm.planning.language.base import Language
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

_RESERVED = frozenset(
    (
        "_ abstract assert boolean break byte case catch char class const continue default do double else enum extends "
        "false final finally float for goto if implements import instanceof int interface long native new null package "
        "private protected public return short static strictfp super switch synchronized this throw "
        "throws transient true try void volatile while "
    ).split()
)
_BOXES = {
    "int": "Integer",
    "long": "Long",
    "boolean": "Boolean",
    "double": "Double",
    "float": "Float",
    "char": "Character",
    "byte": "Byte",
    "short": "Short",
}
_PACKAGE = "java.util.function"
_FUNCTIONS = (("Supplier", "get"), ("Function", "apply"), ("BiFunction", "apply"))
_ACTIONS = (("Runnable", "run"), ("Consumer", "accept"), ("BiConsumer", "accept"))
"""Types of functions of the standard library, by how many arguments these take, and the method that calls them."""
_SUPPLIERS = {
    "boolean": ("BooleanSupplier", "getAsBoolean"),
    "int": ("IntSupplier", "getAsInt"),
    "long": ("LongSupplier", "getAsLong"),
}
_UNBOXED = frozenset(("char", "byte", "short", "float", "double"))
WIDENING = frozenset(("long", "float", "double", "short", "byte"))
"""Types that take numbers of other types as they are, which their boxes do not."""


def boxed(type: str) -> str:
    """A type as a type argument."""
    return _BOXES.get(type, type)


class Java(Language):
    """Java."""

    name = "java"
    suffix = ".java"
    needs_types = overloads = public_members = marks_final_fields = checked_errors = True
    final_word = "final "
    reserved = _RESERVED
    lambdas_implement_interfaces = protected_is_package_wide = packages_are_folders = knows_own_package = True
    types_hidden_within = "package"
    hiding_members = ("field",)
    nested_types_hidden = inner_classes_bound = whole_imports_are_ambiguous = nested_lambdas_hide_no_names = True
    no_result = "void"
    written_types = True
    values = ("String", "int", "boolean")
    type_names = re.compile(r"(?<![\w.\"'@])([A-Z]\w*)(?!\w)")
    variadic_blocks = initializers_see_fields = lambdas_need_values = True
    opened = {"private": ""}
    containers_annotate_constructors = containers_fill_fields = True
    imported = re.compile(r"import\s+(?:static\s+)?([\w.]+)")
    imports_by = "name"

    def assignment(self, name: str, value: str) -> str:
        """The statement that fills a field."""
        return f"this.{name} = {value};"

    def constructor(self, given: WrittenConstructor) -> str:
        """A constructor with its statements, a line each."""
        indent, lead = given.indent, f"{given.visibility} " if given.visibility else ""
        head = joined(given.parameters, f"{lead}{given.name}(", f"){given.errors} {{", indent, indent)
        return "\n".join([head, *(f"{indent}{indent}{line}" for line in given.body), f"{indent}}}"])

    def delegating(self, given: WrittenConstructor) -> str:
        """A legacy constructor."""
        call = joined(given.body, "this(", ");", given.indent * 2, given.indent)
        remark = f"/** {wording.OLD_CONSTRUCTOR} */\n{given.indent}"
        return remark + self.constructor(given._replace(body=[call]))

    def signature(self, member: Signature, indent: str) -> list[str]:
        """A method as an interface declares it, with its comment."""
        generics = f"{member.generics} " if member.generics else ""
        docs = [indent + line for line in member.docs.split("\n")] if member.docs else []
        return [*docs, f"{indent}{generics}{member.result} {member.name}({member.parameters}){member.throws};"]

    def interface(self, wanted: Interface) -> str:
        """The file of an interface."""
        indent, parts = _indent(wanted.model), _head(wanted)
        parts += [
            f"/** {wanted.purpose} */",
            f"public interface {wanted.name}{wanted.generics} {{",
        ]
        for member in wanted.members:
            parts += ["", *self.signature(member, indent)]
        return "\n".join([*parts, "}", ""])

    def adapter(self, wanted: Adapter) -> str:
        """The file of a class that passes on."""
        indent, parts = _indent(wanted.model), _head(wanted)
        parts += [
            f"/** {wording.adapter_of(wanted.target)} */",
            f"public final class {wanted.name} implements {wanted.interface} {{",
        ]
        for each in wanted.members:
            lines = self.signature(each.signature._replace(docs=""), indent)
            head = f"{indent}public {lines[-1].strip().removesuffix(';')} {{"
            call = f"{indent * 2}{'return ' if each.gives_back else ''}{each.call};"
            parts += ["", f"{indent}@Override", head, call, f"{indent}}}"]
        return "\n".join([*parts, "}", ""])

    def factory_class(self, wanted: FactoryClass) -> str:
        """The file of a class that makes objects of another."""
        indent = _indent(wanted.model)
        head = joined(wanted.parameters, f"public static {wanted.made} make(", ") {", indent, indent)
        parts = [*_head(wanted), f"/** {wording.container_factory_of(wanted.made)} */"]
        parts += [f"public final class {wanted.name} {{", "", f"{indent}private {wanted.name}() {{", f"{indent}}}", ""]
        return "\n".join([*parts, indent + head, f"{indent * 2}return {wanted.call};", f"{indent}}}", "}", ""])

    def table(self, wanted: Table) -> str:
        """The file of a class that keeps data."""
        indent = _indent(wanted.model)
        parts = [*_head(wanted), f"/** {wording.data_of(wanted.owner)} */", f"public final class {wanted.name} {{", ""]
        return "\n".join([*parts, f"{indent}public final {wanted.type} {wanted.field} = {wanted.value};", "}", ""])

    def rules(self, wanted: Rules) -> str:
        """The file of a class with rules."""
        unit, inner = _indent(wanted.model), list[str]()
        for each in wanted.members:
            given = ", ".join(f"{kind} {name}" for kind, name in each.parameters)
            lines = [f"{unit * 2}{line}" if line else "" for line in (*each.lines, f"return {each.left};")]
            inner += ["", f"{unit}public {each.result} {each.name}({given}) {{", *lines, f"{unit}}}"]
        head = [*_head(wanted), f"/** {wording.rules_of(wanted.owner)} */", f"public class {wanted.name} {{"]
        return "\n".join([*head, *inner, "}", ""])

    def file_name(self, name: str) -> str:
        """As its type."""
        return f"{name}.java"

    def import_line(self, need: Need, path: str) -> str:
        """An import of one name."""
        return f"import {need.home}.{need.name};"

    def import_group(self, key: str, of_tree: Callable[[str], bool]) -> str:
        """By what packages begin with."""
        return re.split(r"[.\\]", key)[0]

    def override(self, indent: str) -> str:
        """The mark of a method that an interface asks for, in front of the method at a margin."""
        return f"@Override\n{indent}"

    def factory(self, made: str, parameters: Sequence[tuple[str, str]], abstraction: str) -> FunctionType:
        """A function of the standard library."""
        name, call = _FUNCTIONS[len(parameters)]
        taken = [boxed(kind) for kind, _ in parameters]
        typed = Typed(f"{name}<{', '.join([*taken, abstraction])}>", (Need(name, _PACKAGE),))
        return FunctionType(typed, f"{made}::new", f"{{field}}.{call}({{arguments}})")

    def has_function_type(self, parameters: Sequence[Parameter], throws: Sequence[str]) -> bool:
        """Whether the standard library has a type with so many parameters that no errors leave, and that widens nothing."""
        return not throws and len(parameters) < len(_FUNCTIONS) and not any(each.type in WIDENING for each in parameters)

    def function_of(self, member: Member, written: str, needs: tuple[Need, ...], *, freely: bool) -> FunctionType | None:
        """A function of the standard library."""
        types = [each.type for each in member.parameters]
        if not self.has_function_type(member.parameters, member.throws):
            return None
        if member.type == "void":
            (name, call), kinds = _ACTIONS[len(types)], [boxed(each) for each in types]
        else:
            (name, call), kinds = _FUNCTIONS[len(types)], [boxed(each) for each in (*types, member.type)]
        own = () if name == "Runnable" else (Need(name, _PACKAGE),)
        typed = Typed(f"{name}<{', '.join(kinds)}>" if kinds else name, (*own, *needs))
        return FunctionType(typed, written, f"{{field}}.{call}({{arguments}})")

    def reference(self, owner: str, name: str, written: str) -> str:
        """A reference to a method."""
        return f"{owner}::{name}"

    def reader(self, type: str, written: str, needs: tuple[Need, ...]) -> FunctionType | None:
        """A supplier."""
        if not type or type in _UNBOXED:
            return None
        name, call = _SUPPLIERS.get(type, _FUNCTIONS[0])
        text = name if type in _SUPPLIERS else f"{name}<{type}>"
        return FunctionType(Typed(text, (Need(name, _PACKAGE), *needs)), f"() -> {written}", f"{{field}}.{call}()")


def _indent(model: str) -> str:
    """One level of indentation as a file has it."""
    if "\n\t" in model:
        return "\t"
    return "  " if "\n  " in model and "\n    " not in model.split("{", 1)[-1][:400] else "    "


def _head(wanted: Interface | Adapter | FactoryClass | Rules | Table) -> list[str]:
    """What a file begins with."""
    parts = [f"package {wanted.home};", ""] if wanted.home else []
    return [*parts, *(f"import {each};" for each in wanted.imports), ""] if wanted.imports else parts
