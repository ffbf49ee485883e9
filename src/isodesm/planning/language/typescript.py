"""How TypeScript spells what steps put into code, and the rules that planning minds."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Sequence

from isodesm.facts import typetext
from isodesm.facts.records import Member
from isodesm.planning.language.base import Language, Level
from isodesm.planning.language.lines import joined
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

UNTYPED_SUFFIXES = (".jsx", ".js", ".mjs", ".cjs")
"""Files in which types can't be written."""

_RESERVED = frozenset(
    (
        "arguments await break case catch class const continue debugger default delete do else enum eval export "
        "extends false finally for function if implements import in instanceof interface let new null package private "
        "protected public return static super switch this throw true try typeof var void while with yield"
    ).split()
)


class TypeScript(Language):
    """TypeScript, and JavaScript where types can't be written."""

    name = "typescript"
    suffix = ".ts"
    interfaces_have_state = structural_types = type_aliases = default_exports = hides_in_module = overloads_share_body = True
    final_word = "readonly "
    reserved = _RESERVED
    values = ("string", "number", "boolean")
    type_names = re.compile(r"(?<![\w.$\"'`])([A-Z]\w*)(?![\w\"'`]|\s*=>)")
    spread, missing_argument = "...", "undefined"
    marks_optional_parameters = functions_rebind_this = statics_go_by_class = takes_types_of_calls = True
    class_member = re.compile(rb"\s*\??\.\s*(?!bind\b|call\b|apply\b|prototype\b)\w")
    bare_value = None
    parent_call = "super();"
    always_calls_parent = super_call_first = inherits_constructors = initializers_see_fields = True
    opened = {"private": "", "protected": ""}
    names_shared_with_heirs = modules_run_top_down = types_behind_names = containers_go_by_classes = True
    annotation = "@{}({})"
    styled_imports = named_like_type = True

    def __init__(self, level: Level = (99, 0), suffix: str = "") -> None:
        super().__init__(level, suffix)
        self.typed = suffix not in UNTYPED_SUFFIXES
        self.promoted = self._promoted if self.typed else None

    def hands_out(self, text: bytes, name: str) -> bool:
        """By an `export` in front of it, or in a list; all of another module may come with that."""
        given = re.escape(name.encode())
        declared = (
            rb"\bexport\s+(?:default\s+)?(?:declare\s+)?(?:abstract\s+)?(?:async\s+)?[a-z]+\*?\s+(?:enum\s+)?" + given + rb"\b"
        )
        listed = rb"\bexport\s+(?:type\s+)?\{[^}]*\b" + given + rb"\b"
        apart = rb"\bexport\s+(?:const|let|var)\s*[\[{][^=]*\b" + given + rb"\b"
        whole = rb"\bexport\s+\*|\bmodule\.exports\b|\bexports\."
        return re.search(rb"|".join((declared, listed, apart, whole)), text) is not None

    def use(self, name: str) -> str:
        """A field, as a member of its class names it."""
        return f"this.{name}"

    def parameter(self, type: str, name: str) -> str:
        """A parameter."""
        return f"{name}: {type}" if self.typed else name

    def optional(self, type: str, name: str, default: str) -> tuple[str, str]:
        """A parameter with a default."""
        return f"{self.parameter(type, name)} = {default}", name

    def nullable(self, type: str, name: str, default: str) -> tuple[str, str]:
        """A parameter that may be null, and what it gives then."""
        kind, value = (f"({each})" if "=>" in each else each for each in (type, default))
        return f"{name}: {kind} | null = null", f"{name} ?? {value}"

    def field(self, type: str, name: str) -> str:
        """The declaration of a field."""
        return f"private readonly {name}: {type};" if self.typed else ""

    def _promoted(self, type: str, name: str) -> str:
        return f"private readonly {name}: {type}"

    def constructor(self, given: WrittenConstructor) -> str:
        """A constructor with its statements, a line each."""
        indent, visibility = given.indent, given.visibility
        lead = f"{visibility} " if visibility and visibility != "public" else ""
        head = joined(given.parameters, f"{lead}constructor(", ") {", indent, indent)
        if not given.body:
            return f"{head}}}"
        return "\n".join([head, *(f"{indent}{indent}{line}" for line in given.body), f"{indent}}}"])

    def signature(self, member: Signature, indent: str) -> list[str]:
        """A member as an interface declares it, with its comment."""
        docs = [indent + line for line in member.docs.split("\n")] if member.docs else []
        if member.kind == "property":
            return [*docs, f"{indent}{member.name}: {member.result};"]
        return [*docs, f"{indent}{member.name}{member.generics}({member.parameters}): {member.result};"]

    def interface(self, wanted: Interface) -> str:
        """The module of an interface."""
        indent = _indent(wanted.model)
        parts = [*wanted.imports, ""] if wanted.imports else []
        parts += [
            f"/** {wanted.purpose} */",
            f"export interface {wanted.name}{wanted.generics} {{",
        ]
        for index, member in enumerate(wanted.members):
            parts += ([""] if index and member.docs else []) + self.signature(member, indent)
        return "\n".join([*parts, "}", ""])

    def adapter(self, wanted: Adapter) -> str:
        """The module of a class that passes on."""
        indent = _indent(wanted.model)
        parts = [*wanted.imports, "", f"/** {wording.adapter_of(wanted.target)} */"]
        parts += [f"export class {wanted.name} implements {wanted.interface} {{"]
        for index, each in enumerate(wanted.members):
            parts += ([""] if index else []) + _passing(each, indent)
        return "\n".join([*parts, "}", ""])

    def table(self, wanted: Table) -> str:
        """The module of a class that keeps data."""
        parts = [*wanted.imports, ""] if wanted.imports else []
        parts += [f"/** {wording.data_of(wanted.owner)} */", f"export class {wanted.name} {{"]
        return "\n".join([*parts, f"{_indent(wanted.model)}readonly {wanted.field}: {wanted.type} = {wanted.value};", "}", ""])

    def rules(self, wanted: Rules) -> str:
        """The module of a class with rules."""
        unit, inner = _indent(wanted.model), list[str]()
        for each in wanted.members:
            given = ", ".join(f"{name}: {kind}" if kind else name for kind, name in each.parameters)
            result = f": {each.result}" if each.result else ""
            lines = [f"{unit * 2}{line}" if line else "" for line in (*each.lines, f"return {each.left};")]
            inner += ([""] if inner else []) + [f"{unit}{each.name}({given}){result} {{", *lines, f"{unit}}}"]
        head = [*wanted.imports, ""] if wanted.imports else []
        head += [f"/** {wording.rules_of(wanted.owner)} */", f"export class {wanted.name} {{"]
        return "\n".join([*head, *inner, "}", ""])

    def file_name(self, name: str) -> str:
        """Words joined by dashes."""
        return re.sub(r"(?<=[a-z0-9])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])", "-", name).lower() + ".ts"

    def import_line(self, need: Need, path: str) -> str:
        """An import of one name."""
        home = relative(need.home, path)
        if need.whole:
            return f"import * as {need.name} from '{home}';"
        if need.member == "default":
            return f"import {need.name} from '{home}';"
        name = f"{need.member} as {need.name}" if need.member else need.name
        return f"import {{ {name} }} from '{home}';"

    def factory(self, made: str, parameters: Sequence[tuple[str, str]], abstraction: str) -> FunctionType:
        """A function."""
        names = ", ".join(name for _, name in parameters)
        given = ", ".join(f"{name}: {kind}" for kind, name in parameters) if self.typed else names
        typed = Typed(f"({given}) => {abstraction}" if self.typed else "")
        return FunctionType(typed, f"({names}) => new {made}({names})", "{field}({arguments})")

    def function_of(self, member: Member, written: str, needs: tuple[Need, ...], *, freely: bool) -> FunctionType | None:
        """The type of the function itself."""
        return FunctionType(Typed(f"typeof {written}", needs), written, "{field}({arguments})")

    def reader(self, type: str, written: str, needs: tuple[Need, ...]) -> FunctionType | None:
        """A function; of what may be missing nobody knows what that means."""
        loose = not type or any(each in typetext.names(type) for each in ("undefined", "null"))
        return None if loose else FunctionType(Typed(f"() => {type}", needs), f"() => {written}", "{field}()")


def relative(home: str, path: str) -> str:
    """A module as a file names it: a path of the tree from that file, anything else as it is."""
    if not home.startswith("/"):
        return home
    found = posixpath.relpath(home[1:], posixpath.dirname(path) or ".")
    return found if found.startswith(".") else f"./{found}"


def _indent(model: str) -> str:
    """One level of indentation as a file has it."""
    if "\n    " in model and "\n  " not in model.replace("\n    ", ""):
        return "    "
    return "\t" if "\n\t" in model else "  "


def _passing(each: AdapterMember, indent: str) -> list[str]:
    member = each.signature
    if member.kind == "property":
        lines = [f"{indent}get {member.name}(): {member.result} {{", f"{indent * 2}return {each.call};", f"{indent}}}"]
        setter = [f"{indent}set {member.name}(value: {member.result}) {{", f"{indent * 2}{each.call} = value;", f"{indent}}}"]
        return [*lines, "", *setter] if each.is_set else lines
    head = f"{indent}{member.name}{member.generics}({member.parameters}): {member.result} {{"
    return [head, f"{indent * 2}{'return ' if each.gives_back else ''}{each.call};", f"{indent}}}"]
