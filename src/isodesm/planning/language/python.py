"""How Python spells what steps put into code, and the rules that planning minds."""

from __future__ import annotations

import builtins
import keyword
import re
import sys
from collections.abc import Callable, Sequence

from isodesm.facts.records import Member
from isodesm.planning.language.base import Language, Level
from isodesm.planning.language.lines import joined
from isodesm.planning.language.python_loading import loading_of
from isodesm.planning.model.code import (
    Adapter,
    FunctionType,
    Interface,
    Loading,
    Need,
    Rules,
    Signature,
    Typed,
    WrittenConstructor,
)
from isodesm.planning.wording import code as wording

TYPES_AS_TEXT = (3, 10)
"""Level from which all types can be worked out, and which files are as good as that say types are texts."""
_LATE_TYPES = re.compile(rb"^from __future__ import [^\n]*\bannotations\b", re.MULTILINE)


class Python(Language):
    """Python; before types could be written, without them."""

    name = "python"
    suffix = ".py"
    offered_kinds = ("method", "property")
    declares_visibility = declares_fields = False
    default_left_out = "..."
    docs_in_body = True
    values = ("str", "int", "bool")
    type_names = re.compile(r"(?<![\w.\"'])([A-Z]\w*)(?![\w\"'])")
    metaclasses = imports_run_modules = True
    types_in_quotes = heads_looked_up_at_once = snake_case = keyword_arguments = functions_bound_by_name = compiles_here = True
    builtin_names = frozenset(dir(builtins))
    reserved = frozenset(keyword.kwlist)
    passes_by_name = re.compile(r"(\w++)\s*+(?::(?!:)|=(?!=))\s*+(.+)$", re.DOTALL)
    named = "{name}={value}"
    class_member = re.compile(rb"\s*\.\s*(?!__)\w")
    bare_value = None
    inherits_constructors = forwards_any_arguments = subclass_may_skip_constructor = True
    fields_maker = "dataclass"
    names_shared_with_heirs = modules_run_top_down = True
    braces = False
    creation = "{}({})"
    imported = re.compile(r"(?:from|import)\s+([\w.]+)")
    twin_modules = ("collections.abc", "typing")
    whole_lines_first = True
    apart_from_code = 3
    implements = "("
    statement_end = ""
    of_table = "{name}().{field}"

    def __init__(self, level: Level = (99, 0), suffix: str = "") -> None:
        super().__init__(level, suffix)
        self.typed = level >= (3, 0)
        self.parent_call = "super().__init__()" if self.typed else ""
        self.passing_on = self._passing_on if self.typed else None

    @classmethod
    def level_of(cls, level: Level, text: bytes) -> Level:
        """As good as newer where types are texts."""
        return TYPES_AS_TEXT if (3, 7) <= level < TYPES_AS_TEXT and _LATE_TYPES.search(text) else level

    def _type(self, type: str) -> str:
        """A type as the level takes it: what it can't work out is written as a text."""
        worked_out = self.level >= TYPES_AS_TEXT or not any(each in type for each in "|[")
        return type if worked_out else '"' + type.replace('"', "'") + '"'

    def use(self, name: str) -> str:
        """A field, as a member of its class names it."""
        return f"self.{name}"

    def parameter(self, type: str, name: str) -> str:
        """A parameter."""
        return f"{name}: {self._type(type)}" if type and self.typed else name

    def optional(self, type: str, name: str, default: str) -> tuple[str, str]:
        """A parameter that may be left out; None stands for that, since a default is worked out only once."""
        bracketed = f"({type})" if type.startswith("lambda") else type
        given = f"({default})" if default.startswith("lambda") else default
        parameter = f"{name}: {self._type(f'{bracketed} | None')} = None" if type and self.typed else f"{name}=None"
        return parameter, f"{name} if {name} is not None else {given}"

    def field(self, type: str, name: str) -> str:
        """Assigning declares it."""
        return ""

    def constructor(self, given: WrittenConstructor) -> str:
        """An `__init__` with its statements, a line each."""
        indent, result = given.indent, " -> None" if self.typed else ""
        head = joined(["self", *given.parameters], "def __init__(", f"){result}:", indent, indent)
        return "\n".join([head, *(f"{indent}{indent}{line}" for line in given.body)])

    def _passing_on(
        self, inherited: Sequence[str], names: Sequence[str], parameters: Sequence[str], at: int
    ) -> tuple[list[str], str]:
        """Whatever the parent's constructor takes, by place or by name, goes on to it."""
        return ["*args", *parameters, "**kwargs"], "super().__init__(*args, **kwargs)"

    def import_line(self, need: Need, path: str) -> str:
        """An import of one name."""
        if not need.whole:
            return f"from {need.home} import {f'{need.member} as ' if need.member else ''}{need.name}"
        if need.home == need.name:
            return f"import {need.home}"
        parent, _, last = need.home.rpartition(".")
        return f"from {parent} import {last}" if parent and last == need.name else f"import {need.home} as {need.name}"

    def signature(self, member: Signature, indent: str) -> list[str]:
        """A member as an interface declares it, with its comment."""
        annotation = [f"{indent}@abstractmethod"] if member.abstract else []
        word = "async def" if member.asynchronous else "def"
        result = f" -> {member.result}" if member.result else ""
        docs = [f'{indent * 2}"""{member.docs}"""'] if member.docs else []
        decorator = [f"{indent}@property"] if member.kind == "property" else []
        given = f"self, {member.parameters}" if member.parameters else "self"
        body = [*docs] if docs else []
        head = f"{indent}{word} {member.name}({given}){result}:"
        return [*decorator, *annotation, head, *body, f"{indent * 2}..."] if body else [*decorator, *annotation, f"{head} ..."]

    def interface(self, wanted: Interface) -> str:
        """The module of a protocol."""
        taken = "TYPE_CHECKING, Protocol" if wanted.for_checkers else "Protocol"
        parts = ["from __future__ import annotations", "", f"from typing import {taken}"]
        parts += ["", *wanted.imports] if wanted.imports else []
        parts += ["", "if TYPE_CHECKING:", *(f"    {each}" for each in wanted.for_checkers)] if wanted.for_checkers else []
        parts += ["", "", f"class {wanted.name}(Protocol):", f'    """{wanted.purpose}"""']
        for member in wanted.members:
            parts += ["", *self.signature(member, "    ")]
        return "\n".join([*parts, ""])

    def adapter(self, wanted: Adapter) -> str:
        """The module of a class that passes on."""
        parts = ["from __future__ import annotations", "", *wanted.imports, "", ""]
        parts += [f"class {wanted.name}({wanted.interface}):", f'    """{wording.adapter_of(wanted.target)}"""']
        for each in wanted.members:
            head = self.signature(each.signature._replace(docs=""), "    ")[-1].removesuffix(" ...")
            parts += ["", head, f"        return {'await ' if each.signature.asynchronous else ''}{each.call}"]
        return "\n".join([*parts, ""])

    def rules(self, wanted: Rules) -> str:
        """The module of a class with rules."""
        parts = ["from __future__ import annotations", "", *wanted.imports, *([""] if wanted.imports else []), ""]
        parts += [f"class {wanted.name}:", f'    """{wording.rules_of(wanted.owner)}"""']
        for each in wanted.members:
            given = ", ".join(["self", *(f"{name}: {kind}" if kind else name for kind, name in each.parameters)])
            lines = [f"        {line}" if line else "" for line in (*each.lines, f"return {each.left}")]
            parts += ["", f"    def {each.name}({given}){f' -> {each.result}' if each.result else ''}:", *lines]
        return "\n".join([*parts, ""])

    def file_name(self, name: str) -> str:
        """Words joined by underscores."""
        return re.sub(r"(?<=[a-z0-9])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])", "_", name).lower() + ".py"

    def loading(self, text: bytes) -> Loading | None:
        """What it imports outside functions, names for type checkers apart."""
        return loading_of(text)

    def import_group(self, key: str, of_tree: Callable[[str], bool]) -> str:
        """Those of the codebase, of the standard library, of others."""
        if key.startswith(".") or of_tree(key):
            return "tree"
        return "standard" if re.split(r"[.\\]", key)[0] in sys.stdlib_module_names else "library"

    def member_name(self, name: str) -> str:
        """Words joined by underscores."""
        return re.sub(r"(?<=[a-z0-9])(?=[A-Z])", "_", name).lower()

    def factory(self, made: str, parameters: Sequence[tuple[str, str]], abstraction: str) -> FunctionType:
        """The class itself, as a callable."""
        typed = Typed(f"Callable[..., {abstraction}]", (Need("Callable", "collections.abc"),)) if self.typed else Typed("")
        return FunctionType(typed, made, "{field}({arguments})")

    def function_of(self, member: Member, written: str, needs: tuple[Need, ...], *, freely: bool) -> FunctionType | None:
        """A callable; a list of types has neither names nor defaults."""
        given = "..." if freely else f"[{', '.join(each.type or 'Any' for each in member.parameters)}]"
        said = f"{given} {member.type}"
        own = tuple(each for each in needs if re.search(rf"\b{re.escape(each.name)}\b", said))
        extra = (Need("Any", "typing"),) if "Any" in f"{given} {member.type or 'Any'}" else ()
        typed = Typed(f"Callable[{given}, {member.type or 'Any'}]", (Need("Callable", "collections.abc"), *own, *extra))
        return FunctionType(typed, written, "{field}({arguments})")

    def late_call(self, written: str) -> str:
        """One that hands on whatever it is called with."""
        return f"lambda *passed, **named: {written}(*passed, **named)"

    def reader(self, type: str, written: str, needs: tuple[Need, ...]) -> FunctionType | None:
        """A callable."""
        extra = (Need("Callable", "collections.abc"), *needs, *(() if type else (Need("Any", "typing"),)))
        return FunctionType(Typed(f"Callable[[], {type or 'Any'}]", extra), f"lambda: {written}", "{field}()")

    def position(self, constructor: Member | None, *, required: bool = False) -> int:
        """Behind all: the object itself counts in the source, and what takes all other names must stay last."""
        if constructor is None:
            return 0
        own = constructor.parameters
        return len(own) + 1 - (1 if own and own[-1].variadic and own[-1].type != "*" else 0)
