"""How C# spells what steps put into code, and the rules that planning minds."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence

from isodesm.facts.records import Member
from isodesm.planning.language.base import Language
from isodesm.planning.language.lines import common_position, indented, joined
from isodesm.planning.model.code import (
    Adapter,
    AdapterMember,
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

_FILE_SCOPED = re.compile(r"^[ \t]*+namespace\s++[\w.]++\s*+;", re.MULTILINE)

_RESERVED = frozenset(
    (
        "abstract as base bool break byte case catch char checked class const continue decimal default delegate do double "
        "else enum event explicit extern false finally fixed float for foreach goto if implicit in int interface internal "
        "is lock long namespace new null object operator out override params private protected public readonly ref return "
        "sbyte sealed short sizeof stackalloc static string struct switch this throw true try typeof uint ulong unchecked "
        "unsafe ushort using virtual void volatile while"
    ).split()
)


class CSharp(Language):
    """C#."""

    name = "csharp"
    suffix = ".cs"
    needs_types = overloads = public_members = marks_final_fields = interfaces_have_state = interfaces_prefixed = True
    final_word = "readonly "
    reserved = _RESERVED
    offered_kinds = ("method", "property", "field")
    types_hidden_within = "assembly"
    hiding_members = ("method", "field", "property", "event")
    nested_types_private = nested_types_hidden = namespaces_nest = knows_own_package = conditional_compilation = pointers = True
    no_result = "void"
    accessors = constrained_generics = True
    docs_by_line = "///"
    values = ("string", "int", "bool")
    type_names = re.compile(r"(?<![\w.\"'@])([A-Z]\w*)(?!\w)")
    indexers = reference_parameters = initializers_run_before_base = True
    lambdas_hide_no_names = nested_lambdas_hide_no_names = hosts_call_one_constructor = True
    passes_by_name = re.compile(r"(\w++)\s*+(?::(?!:)|=(?!=))\s*+(.+)$", re.DOTALL)
    opened = {"private": "internal", "protected": "protected internal"}
    annotation = "[{}]"
    imported = re.compile(r"using\s+(?!static\b)([\w.]+)\s*;")
    imports_by = "namespace"
    implements = " : "

    def assignment(self, name: str, value: str) -> str:
        """The statement that fills a field."""
        return f"this.{name} = {value};"

    def constructor(self, given: WrittenConstructor) -> str:
        """A constructor with its statements, a line each."""
        unit = _unit(given.indent)
        return _block(self._head(given, unit), given.body, unit, given.indent)

    def delegating(self, given: WrittenConstructor) -> str:
        """A legacy constructor."""
        unit = _unit(given.indent)
        call = joined(given.body, ": this(", ")", given.indent + unit, unit)
        remark = f"/// <summary>{wording.OLD_CONSTRUCTOR}</summary>\n{given.indent}"
        return remark + _block(f"{self._head(given, unit)}\n{given.indent}{unit}{call}", (), unit, given.indent)

    def _head(self, given: WrittenConstructor, unit: str) -> str:
        lead = f"{given.visibility} " if given.visibility else ""
        return joined(given.parameters, f"{lead}{given.name}(", ")", given.indent, unit)

    def signature(self, member: Signature, indent: str) -> list[str]:
        """A member as an interface declares it, with its comment."""
        docs = [indent + line for line in member.docs.split("\n")] if member.docs else []
        if member.kind == "property":
            return [*docs, f"{indent}{member.result} {member.name} {member.parameters}"]
        if member.kind == "event":
            return [*docs, f"{indent}{member.result} {member.name};"]
        return [*docs, f"{indent}{member.result} {member.name}{member.generics}({member.parameters}){member.constraints};"]

    def interface(self, wanted: Interface) -> str:
        """The file of an interface, its namespace spelt as in the file of the class it is taken from."""
        unit = "\t" if "\n\t" in wanted.model else "    "
        inner: list[str] = []
        for member in wanted.members:
            inner += ([""] if inner else []) + self.signature(member, unit)
        body = [
            f"/// <summary>{wanted.purpose}</summary>",
            f"{wanted.visibility} interface {wanted.name}{wanted.generics}",
            "{",
            *inner,
            "}",
        ]
        return _file(wanted, body, unit)

    def adapter(self, wanted: Adapter) -> str:
        """The file of a class that passes on."""
        unit = "\t" if "\n\t" in wanted.model else "    "
        inner: list[str] = []
        for each in wanted.members:
            inner += ([""] if inner else []) + _passing(each, unit)
        body = [
            f"/// <summary>{wording.adapter_of(wanted.target)}</summary>",
            f"{wanted.visibility} sealed class {wanted.name} : {wanted.interface}",
            "{",
            *inner,
            "}",
        ]
        return _file(wanted, body, unit)

    def table(self, wanted: Table) -> str:
        """The file of a class that keeps data."""
        head = [f"/// <summary>{wording.data_of(wanted.owner)}</summary>", f"public sealed class {wanted.name}", "{"]
        unit = "\t" if "\n\t" in wanted.model else "    "
        body = [*head, *f"{unit}public readonly {wanted.type} {wanted.field} = {wanted.value};".split("\n"), "}"]
        margined = wanted.home and not _FILE_SCOPED.search(wanted.model)  # the data has that margin already
        lines = [each.removeprefix(unit) if margined and index > len(head) else each for index, each in enumerate(body[:-1])]
        return _file(wanted, [*lines, body[-1]], unit)

    def rules(self, wanted: Rules) -> str:
        """The file of a class with rules."""
        unit, inner = "\t" if "\n\t" in wanted.model else "    ", list[str]()
        for each in wanted.members:
            given = ", ".join(self.parameter(kind, name) for kind, name in each.parameters)
            lines = [f"{unit * 2}{line}" if line else "" for line in (*each.lines, f"return {each.left};")]
            head = f"{unit}public {each.result} {each.name}({given})"
            inner += ([""] if inner else []) + [head, f"{unit}{{", *lines, f"{unit}}}"]
        body = [f"/// <summary>{wording.rules_of(wanted.owner)}</summary>", f"public class {wanted.name}", "{", *inner, "}"]
        return _file(wanted, body, unit)

    def file_name(self, name: str) -> str:
        """As its type."""
        return f"{name}.cs"

    def import_line(self, need: Need, path: str) -> str:
        """A namespace; of what goes by another name, the type."""
        return f"using {need.name} = {need.home}.{need.member};" if need.member else f"using {need.home};"

    def import_group(self, key: str, of_tree: Callable[[str], bool]) -> str:
        """Those of the platform stand together."""
        return "System" if re.split(r"[.\\]", key)[0] == "System" else ""

    def member_name(self, name: str) -> str:
        """With a capital."""
        return name[:1].upper() + name[1:]

    def argument(self, name: str) -> str:
        """A parameter; one that is called like a word of the language has a sign that makes it a name."""
        return f"@{name}" if name in self.reserved else name

    def parameter(self, type: str, name: str) -> str:
        """A parameter."""
        return f"{type} {self.argument(name)}"

    def factory(self, made: str, parameters: Sequence[tuple[str, str]], abstraction: str) -> FunctionType:
        """A `Func`."""
        spelled = [self.argument(name) for _, name in parameters]
        names = ", ".join(spelled)
        typed = Typed(f"Func<{', '.join([*(kind for kind, _ in parameters), abstraction])}>", (Need("Func", "System"),))
        head = names if len(parameters) == 1 else f"({names})"
        return FunctionType(typed, f"{head} => new {made}({names})", "{field}({arguments})")

    def function_of(self, member: Member, written: str, needs: tuple[Need, ...], *, freely: bool) -> FunctionType | None:
        """A `Func` or an `Action`."""
        types = [each.type for each in member.parameters]
        kinds = types if member.type == "void" else [*types, member.type]
        name = "System.Action" if member.type == "void" else "System.Func"
        return FunctionType(Typed(f"{name}<{', '.join(kinds)}>" if kinds else name, needs), written, "{field}({arguments})")

    def reader(self, type: str, written: str, needs: tuple[Need, ...]) -> FunctionType | None:
        """A `Func`."""
        return FunctionType(Typed(f"System.Func<{type}>", needs), f"() => {written}", "{field}()") if type else None

    def position(self, constructor: Member | None, *, required: bool = False) -> int:
        """In front of all where some may be left out."""
        own = constructor.parameters if constructor is not None else ()
        if any(each.default or each.variadic for each in own):
            return 0
        return common_position(constructor, required=required)


def _block(head: str, statements: Sequence[str], indent: str, margin: str) -> str:
    return "\n".join([head, f"{margin}{{", *(f"{margin}{indent}{line}" for line in statements), f"{margin}}}"])


def _unit(margin: str) -> str:
    """One level of a margin that is two deep where classes stand in a namespace."""
    return "\t" if margin.startswith("\t") else " " * (len(margin) // 2 if len(margin) > 4 else len(margin)) or "    "


def _file(wanted: Interface | Adapter | Rules | Table, body: Sequence[str], unit: str) -> str:
    """A file with one type, its namespace spelt as in the file at hand."""
    head = [*(f"using {each};" for each in wanted.imports), ""] if wanted.imports else []
    if not wanted.home:
        return "\n".join([*head, *body, ""])
    if _FILE_SCOPED.search(wanted.model):
        return "\n".join([*head, f"namespace {wanted.home};", "", *body, ""])
    return "\n".join([*head, f"namespace {wanted.home}", "{", indented(body, unit), "}", ""])


def _passing(each: AdapterMember, unit: str) -> list[str]:
    member = each.signature
    if member.kind == "property":
        setter = [f"{unit * 2}set {{ {each.call} = value; }}"] if each.is_set else []
        head = f"{unit}public {member.result} {member.name}"
        return [head, f"{unit}{{", f"{unit * 2}get {{ return {each.call}; }}", *setter, f"{unit}}}"]
    head = f"{unit}public {member.result} {member.name}{member.generics}({member.parameters}){member.constraints}"
    return [head, f"{unit}{{", f"{unit * 2}{'return ' if each.gives_back else ''}{each.call};", f"{unit}}}"]
