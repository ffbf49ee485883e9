"""Reads what a file declares: package, imports, types, members, parameters, locals."""

from __future__ import annotations

import re
from typing import Any

import msgspec

from isodesm.facts.languages.dialect import Dialect
from isodesm.facts.nesting import TEXT_LIMIT, Nesting, Parts
from isodesm.facts.open_records import MemberDraft, TypeDraft
from isodesm.facts.records import Annotation, Local, Modifiers, Parameter
from isodesm.facts.typetext import squeeze

_NO_MODIFIERS = Modifiers()
_DEFAULTED = re.compile(r"([$\w]++)\s*+(?:\bor\b|\|\||\?\?|\bif\s+\1(?:\s+is\s+not\s+None)?\s+else\b)\s*(.+)$", re.DOTALL)
"""`given or Default()`, `given if given is not None else Default()`: a parameter with a default for when nothing was given."""


def with_words(modifiers: Modifiers, *words: str) -> Modifiers:
    """Modifiers with more keywords."""
    return msgspec.structs.replace(modifiers, words=(*modifiers.words, *words))


class Declarations(Nesting):
    """The part of the assembler that reads declarations."""

    # --- the file ---------------------------------------------------------------------------

    def __init__(self, dialect: Dialect, path: str, text: bytes) -> None:
        self._pending_locals: list[tuple[str, int, int, tuple[int, int], str]] = []
        self._decorators: dict[int, tuple[int, tuple[Any, ...]]] = {}
        """Start of a decorated declaration to the start of its decorators, and those."""
        self._defaults: set[int] = set()
        """Starts of the declarations that a module hands out as its default."""
        self._imported: set[str] = set()
        self._import_end = 0
        """Where the import that was read last ends."""
        super().__init__(dialect, path, text)

    def _read_file(self, kind: str, start: int, end: int, parts: Parts) -> None:
        if kind == "package":
            self.package = "".join(self._part(parts, "name").split())
        elif kind == "namespace":
            self._open_namespace("".join(self._part(parts, "name").split()), self._span(parts, "body"))
        elif kind == "script":
            self._open_module()
        elif kind == "decorated":
            self._note_decorators(parts)
        elif kind == "default":
            self._defaults.add(parts["definition"][0].start_byte)
        else:
            self._read_imports(start, end)

    def _open_namespace(self, name: str, body: tuple[int, int]) -> None:
        around = self._spaces[-1][1] if self._spaces else self._space if body != (0, 0) else ""
        full = f"{around}{self.dialect.separator}{name}" if around and name else name or around
        self.package = self.package or full
        if body != (0, 0):
            self._spaces.append((body[1], full))
        else:
            self._space = full
        if self.types and self.types[0].kind == "module" and not self.types[0].facts.get("space"):
            self.types[0].facts["space"] = full

    def _current_space(self) -> str:
        return self._spaces[-1][1] if self._spaces else self._space

    def _read_imports(self, start: int, end: int) -> None:
        within = (0, 0)
        if self._member_stack:
            within = (start, self._scope_end())
        elif self._spaces:
            within = (start, self._spaces[-1][0])
        elif self.dialect.style == "namespaces" and self._space and self._space != self.package:
            within = (start, len(self.text))
        for each in self.dialect.read_import(self._cut(start, end)):
            self.imports.append(msgspec.structs.replace(each, within=within) if within != (0, 0) else each)
            self._imported.add(each.alias)
            self._import_end = end

    # --- modifiers --------------------------------------------------------------------------

    def _note_decorators(self, parts: Parts) -> None:
        found = self._annotations(parts)
        at, begin = parts["definition"][0].start_byte, parts["decorator"][0].start_byte
        if len(found) > len(self._decorators.get(at, (0, ()))[1]):
            self._decorators[at] = (begin, found)

    def _annotations(self, parts: Parts) -> tuple[Annotation, ...]:
        found = []
        for node in parts.get("decorator", ()):
            text = squeeze(node.text.decode("utf-8", "replace")).lstrip("@[ ").rstrip("] ")
            name, bracket, rest = text.partition("(")
            found.append(Annotation(name=name.strip(), arguments=rest.removesuffix(")").strip() if bracket else ""))
        return tuple(found)

    def _modifiers(self, start: int, parts: Parts) -> Modifiers:
        modifiers = self.dialect.read_modifiers(self._part(parts, "modifiers")) if "modifiers" in parts else _NO_MODIFIERS
        if self.dialect.leading_modifiers and "name" in parts:
            begin = parts["whole"][0].start_byte if "whole" in parts else start
            modifiers = self.dialect.read_modifiers(self._cut(begin, parts["name"][0].start_byte))
        if start in self._defaults:
            modifiers = with_words(modifiers, "default")
        if start in self._decorators:
            modifiers = msgspec.structs.replace(modifiers, annotations=self._decorators[start][1])
        return modifiers

    def _modifiers_of_type(self, start: int, parts: Parts) -> Modifiers:
        bases, modifiers = self.dialect.abstract_bases, self._modifiers(start, parts)
        return (
            with_words(modifiers, "abstract") if bases is not None and bases.search(self._part(parts, "extends")) else modifiers
        )

    # --- types ------------------------------------------------------------------------------

    def _read_type(self, kind: str, start: int, end: int, parts: Parts) -> None:
        outer = self._type_stack[-1][1] if self._type_stack else None
        if outer is not None and self._type_stack[-1][0] == end and outer.place.start == start:
            return  # a second match of the same declaration
        member = self._open_member()
        name = self._part(parts, "name")
        extends, implements = self.dialect.read_bases(self._part(parts, "extends"), kind)
        if kind == "anonymous":
            extends = extends or ((outer.name,) if outer and outer.kind != "module" else ())
            self._claim_creation(end)
        else:
            name = name or self.dialect.unnamed_type
        inside = outer is not None and (outer.kind != "module" or member is not None)
        opened = TypeDraft(
            kind,
            name,
            self._path_of(name, outer),
            self.place(start, end),
            len(self.types),
            space=self._current_space(),
            outer=outer.index if outer is not None and inside else -1,
            outer_member=member.index if member else -1,
            modifiers=self._modifiers_of_type(start, parts),
            generics=self._part(parts, "generics"),
            extends=extends,
            implements=(*implements, *self.dialect.read_bases(self._part(parts, "implements"), "interface")[0]),
            body=(start, end) if kind == "anonymous" else self._span(parts, "body"),
        )
        self.types.append(opened)
        self._type_stack.append((end, opened))
        if start in self._decorators:
            self._claims.append((self._decorators[start][0], start, opened.index))

    def _path_of(self, name: str, outer: TypeDraft | None) -> str:
        """The name of a type with those of the types around it, and of the functions where the language has it so."""
        around = [outer.path] if outer and outer.path else []
        if self.dialect.flat_paths and name:
            return name
        if self.dialect.functions_in_path and (member := self._open_member()):
            around.append(member.name)
            around += [each for end, _, each in self._function_stack if each and end <= self._member_stack[-1][0]]
        return ".".join((*around, name)) if name else ".".join(around)

    def _claim_creation(self, end: int) -> None:
        """Tell the creation whose body has just opened which anonymous type it makes."""
        if self._site_stack and self._site_stack[-1][0] == end:
            row = self.sites[self._site_stack[-1][1]]
            if row[0] == "creation":
                row[11] = len(self.types)

    # --- members ----------------------------------------------------------------------------

    def _read_member(self, kind: str, start: int, end: int, parts: Parts) -> None:
        if not self._type_stack:
            return
        owner = self._type_stack[-1][1]
        if kind == "uses":
            names = self.dialect.read_bases(self._cut(start, end), kind)[0]
            owner.facts["implements"] = (*owner.facts.get("implements", ()), *names)
            return
        body = self._span(parts, "body")
        if kind == "function":
            if self._open_member():
                self._function_stack.append((end, body[0] or end, self._part(parts, "name")))
                self.locals.append(Local(self._part(parts, "name"), "", start, self._outer_scope_end(), kind="function"))
                return
            kind = "method"
        value, type_text = parts.get("value"), self._type_text(parts)
        held = kind == "field" and value and value[0].type in self.dialect.function_values
        if held and value:
            kind, node = "method", value[0].child_by_field_name("body")
            body = node.byte_range if node else body
            returned = value[0].child_by_field_name("return_type")
            type_text = squeeze(returned.text.decode("utf-8", "replace")) if returned else ""
        kind, name = self.dialect.name_member(kind, self.dialect.read_name(self._part(parts, "name")))
        if kind == "property" and "accessors" in parts or "value" in parts:
            kind, body = self._property(kind, body, parts)
        kind, modifiers = self.dialect.refine_member(kind, name, self._modifiers(start, parts), owner.kind)
        opened = MemberDraft(
            kind,
            name,
            self.place(start, end),
            len(owner.members),
            type=owner.name if kind == "constant" and not type_text else type_text.lstrip(": "),
            modifiers=with_words(modifiers, "held") if held else modifiers,
            generics=self._part(parts, "generics"),
            throws=self.dialect.read_throws(self._part(parts, "throws")) if "throws" in parts else (),
            value=squeeze(self._part(parts, "value")[:TEXT_LIMIT]),
            whole=self._whole(start, end, parts),
            body=body,
        )
        self._open(opened, body, owner, (start, end), parts)

    def _whole(self, start: int, end: int, parts: Parts) -> tuple[int, int]:
        """The span of a member with its decorators."""
        whole = self._span(parts, "whole")
        return whole if whole != (0, 0) else (self._decorators[start][0] if start in self._decorators else start, end)

    def _open(self, opened: MemberDraft, body: tuple[int, int], owner: TypeDraft, own: tuple[int, int], parts: Parts) -> None:
        """Take a member up, whose parts may follow."""
        if opened.kind == "constructor" and owner.kind == "record" and "parameters" not in parts:
            opened.parameters = owner.components
        opened.head = self._span(parts, "parameters")
        if body != (0, 0) or opened.kind == "instance":
            opened.statements = self.dialect.count_statements(self.text[slice(*(body if body != (0, 0) else own))])
        owner.members.append(opened)
        self._member_stack.append((own[1], opened, owner.index))

    def _property(self, kind: str, body: tuple[int, int], parts: Parts) -> tuple[str, tuple[int, int]]:
        """Kind and body of a property: one whose accessors have no bodies is a field."""
        value = parts.get("value")
        if value and value[0].type == "arrow_expression_clause":
            return kind, value[0].byte_range
        if kind == "property" and "accessors" in parts:
            accessors = self._part(parts, "accessors")
            return (kind, self._span(parts, "accessors")) if "{" in accessors[1:] or "=>" in accessors else ("field", body)
        return kind, body

    def _outer_scope_end(self) -> int:
        """The end of the function around the one just opened."""
        if len(self._function_stack) > 1:
            return self._function_stack[-2][0]
        return self._member_stack[-1][0] if self._member_stack else len(self.text)

    def _add_field(self, owner: TypeDraft, name: str, type_text: str, value: str, start: int, end: int, *words: str) -> None:
        """A field that comes into being by an assignment, unless the type has one of that name."""
        known = owner.field_named(name)
        if known is not None:
            if known.kind == "field" and not known.facts["type"] and known.facts["value"] in ("", "null", "None", "undefined"):
                known.facts["type"], known.facts["value"] = type_text, value[:TEXT_LIMIT]
            return
        owner.members.append(
            MemberDraft(
                "field",
                name,
                self.place(start, end),
                len(owner.members),
                type=type_text,
                value=value[:TEXT_LIMIT],
                whole=(start, end),
                modifiers=Modifiers(words=words) if words else _NO_MODIFIERS,
                body=(0, 0),
            )
        )

    def _assign_own_field(self, name: str, type_text: str, value: str, start: int, end: int) -> None:
        """`self.name = value` in a member: its type is that written, or that of the parameter it is given."""
        member = self._open_member()
        if member is None or not name:
            return
        if found := _DEFAULTED.match(value):
            value = (
                found.group(1)
                if any(each.name == self.dialect.read_name(found.group(1)) and each.type for each in member.parameters)
                else found.group(2)
            )
        if not type_text:
            given = self.dialect.read_name(value)
            type_text = next((each.type for each in member.parameters if each.name == given), "")
        self._add_field(self._type_stack[-1][1], name, type_text, value, start, end)

    def _read_count(self, kind: str, start: int, end: int, parts: Parts) -> None:
        if kind == "loop":
            self._loop_ends.append((end, start))
        if member := self._open_member():
            member.branches += kind != "statement"
            member.statements += kind in ("loop", "statement")

    # --- parameters and locals ----------------------------------------------------------------

    def _read_parameter(self, kind: str, start: int, end: int, parts: Parts) -> None:
        member = self._open_member()
        owner = self._type_stack[-1][1] if self._type_stack else None
        name = self._part(parts, "name")
        type_text = self._type_text(parts)
        if self._function_stack and start < self._function_stack[-1][1]:
            self.locals.append(Local(name, type_text, start, self._function_stack[-1][0]))
            return
        if start < self._parameter_end and start > self._parameter_start:
            return  # of a function that is the type or the default of a parameter
        self._parameter_start, self._parameter_end = start, end
        parameter = Parameter(
            name=self.dialect.read_name(name),
            type=type_text,
            modifiers=self._modifiers(start, parts),
            variadic=kind == "variadic",
            default=squeeze(self._part(parts, "default") or self._default_behind(parts, end))[:TEXT_LIMIT],
        )
        if member and member.kind in ("field", "constant", "static", "instance") and member.facts["body"] == (0, 0):
            return  # of a function that is the field's value
        if member and member.head != (0, 0) and not member.head[0] <= start < member.head[1]:
            return  # of a function that is passed on between the head and the body
        if owner and member and start < (member.facts["body"][0] or member.place.end):
            self._add_parameter(owner, member, parameter, kind, name, start)
        elif owner and not member and start < (owner.facts["body"][0] or owner.place.end):
            owner.components.append(parameter)

    def _default_behind(self, parts: Parts, end: int) -> str:
        """The default of a parameter whose grammar has no node of its own for it: what stands behind a `=` after the name."""
        if "name" not in parts:
            return ""
        behind = self._cut(parts["name"][0].end_byte, end).lstrip()
        return behind[1:].strip() if behind.startswith("=") else ""

    def _add_parameter(
        self, owner: TypeDraft, member: MemberDraft, parameter: Parameter, kind: str, name: str, start: int
    ) -> None:
        local_kind = ""
        if self.dialect.self_parameter and not member.parameters and not member.took_self and owner.kind != "module":
            names = {each.name for each in member.facts["modifiers"].annotations}
            if "staticmethod" not in names:
                member.took_self = True
                local_kind = "class" if "classmethod" in names or member.name == "__new__" else "self"
        self.locals.append(Local(name, parameter.type, start, member.place.end, kind=local_kind, owner=owner.index))
        if local_kind:
            return
        member.parameters.append(parameter)
        if kind == "promoted" or (kind == "plain" and member.kind == "constructor" and self.dialect.promotes(parameter)):
            self._add_field(owner, parameter.name, parameter.type, parameter.name, start, start, *parameter.modifiers.words)

    def _read_local(self, kind: str, start: int, end: int, parts: Parts) -> None:
        name, type_text = self._part(parts, "name"), self._type_text(parts)
        if type_text in ("", "Final", "ClassVar", "typing.Final"):  # which say nothing of the type
            type_text = self._remarked_type(end)
        if kind == "untyped" and start < self._import_end and name in self._imported:
            return  # taken out of a module that is imported on the spot
        if self._is_module_level() and kind in ("typed", "assigned") and "scope" not in parts:
            self._read_global(name, type_text, start, end, parts)
            return
        if kind in ("element", "caught"):
            scope = end
        else:
            scope = parts["scope"][0].end_byte if "scope" in parts else self._scope_end()
        inferred = type_text in self.dialect.inferred or kind == "untyped" or not type_text
        source = self._span(parts, "iterated" if kind == "element" else "value") if inferred else (0, 0)
        if source != (0, 0):
            self._pending_locals.append((name, start, scope, source, kind if kind == "element" else ""))
            return
        place, member = self.place(start, end), self._open_member()
        self.locals.append(
            Local(
                name,
                "" if inferred else type_text,
                start,
                scope,
                kind=kind if kind == "caught" else "",
                line=place.line,
                column=place.column,
                owner=self._type_stack[-1][1].index if self._type_stack else -1,
                member=member.index if member else -1,
            )
        )

    def _read_global(self, name: str, type_text: str, start: int, end: int, parts: Parts) -> None:
        """What is assigned outside all functions: a member of the module, or of the class whose body it stands in."""
        if "value" in parts and parts["value"][0].type in self.dialect.function_values:
            self._read_member("field", start, end, parts)
            return
        owner = self._type_stack[-1][1]
        shared = owner.kind == "module" or not type_text or ("value" in parts and not self._makes_fields(owner))
        words = ("static",) if shared or type_text.startswith(("ClassVar", "typing.ClassVar")) else ()
        self._add_field(owner, name, type_text, squeeze(self._part(parts, "value")[:TEXT_LIMIT]), start, end, *words)

    def _makes_fields(self, owner: TypeDraft) -> bool:
        """Whether what a class assigns in its body are defaults of its objects' fields."""
        names = [each.name.rpartition(".")[2] for each in owner.facts["modifiers"].annotations]
        bases = [each.rpartition(".")[2] for each in owner.facts["extends"]]
        return any(name in self.dialect.field_makers for name in (*names, *bases))

    def _is_module_level(self) -> bool:
        """Whether the place is outside all functions, where an assignment makes a field of the module or class."""
        if not self._type_stack or self._open_member() or self._function_stack:
            return False
        return self.dialect.style == "modules"
