"""A class with what its constructor takes by now: its fields, its constructors, and what becomes of the places in it."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from typing import Any

from isodesm.facts.records import Member
from isodesm.planning.analysis.field_initializers import asked_by_parents
from isodesm.planning.analysis.sources import Sources
from isodesm.planning.language.base import Language
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.code import WrittenConstructor
from isodesm.planning.model.dependency import VALUE, Dependency
from isodesm.planning.state.arguments import Arguments
from isodesm.planning.state.internal_types import is_internal
from isodesm.planning.state.plan_state import PlanState
from isodesm.planning.text.amendments import within_one
from isodesm.planning.text.constructor_visibility import keeps_one_object, narrowed, opened
from isodesm.planning.text.insertions import (
    CONSTRUCTORS,
    FIELDS,
    PARAMETERS,
    STATEMENTS,
    behind_remark,
    gap,
    in_head,
    indent_unit,
    inserted,
    leads,
    listed,
    without,
)
from isodesm.planning.text.sections import section_at
from isodesm.planning.text.syntax import Syntax


class Constructors:
    """The amendments of single classes, in terms of the original text of their files."""

    def __init__(self, sources: Sources, state: PlanState, arguments: Arguments) -> None:
        self.sources, self.state, self.arguments = sources, state, arguments

    def amendments(self, number: int) -> Iterator[Amendment]:
        """All that becomes of a class."""
        syntax, language = self.sources.syntax(self.sources.symbols.file_of[number]), self.sources.language(number)
        given = self.state.dependencies_of(number)
        for each in given:
            value = self._value(number, each, language)
            yield from (place._replace(text=place.text.replace(VALUE, value)) for place in each.places)
        constructor = self.sources.constructor(number)
        inner = syntax.member_margin(self.sources.symbols.own_part(number))
        if self.sources.is_made_of_fields(number):
            yield from self._fields_with_defaults(number, syntax, inner)
            return
        promotes = self._promotes(number, constructor) or in_head(constructor)
        fields = [each for each in given if each.kept and not each.declared and not promotes]
        yield from self._fields(number, syntax, language, fields, inner)
        if constructor is None:
            yield self._new_constructor(number, syntax, language, inner, fields=bool(fields and language.field("T", "n")))
        for own in self.sources.constructors(number):
            yield from self._changed_constructor(number, syntax, language, own, inner)

    def _value(self, number: int, given: Dependency, language: Language) -> str:
        """What a constructor keeps of a dependency."""
        if self.arguments.may_miss(number, given) and not language.overloads:
            return self.arguments.left_out(number, given, language)[1]
        return language.argument(given.name)

    def _promotes(self, number: int, constructor: Member | None) -> bool:
        """Whether parameters of the constructor declare the fields, as the class has it so far or as its language likes it."""
        if (
            self.sources.language(number).promoted is None
            or number in self.state.legacy
            and self.sources.language(number).promoted_if_required
        ):
            return False
        if any(
            self.arguments.may_miss(number, each) and self.arguments.hands_null(number, each)
            for each in self.state.dependencies_of(number)
        ):
            return False
        return constructor is not None and any(
            {"private", "readonly", "protected"} & set(each.modifiers.words) for each in constructor.parameters
        )

    def _fields(
        self, number: int, syntax: Syntax, language: Language, given: Sequence[Dependency], inner: str
    ) -> Iterator[Amendment]:
        at, first = self.field_place(number)
        for each in given:
            text = language.field(each.typed.text, each.name)
            if text:
                line = f"{syntax.line_end}{inner}{text}"
                yield Amendment(at, at, FIELDS, line, f"new field `{text.rstrip(';')}`")
        if first and given and language.field("T", "n") and self.sources.constructor(number) is not None:
            yield Amendment(at, at, FIELDS, gap(syntax, at, inner))

    def _fields_with_defaults(self, number: int, syntax: Syntax, inner: str) -> Iterator[Amendment]:
        """Fields from which a constructor is made: with a default as long as somebody leaves them out."""
        at, first = self.field_place(number)
        for each in self.state.dependencies_of(number):
            optional, default = self.arguments.may_miss(number, each), self.arguments.expression(each)
            maker = default[:-2] if re.fullmatch(r"[\w.]+\(\)", default) else f"lambda: {default}"
            text = f"{each.name}: {each.typed.text}" + (f" = field(default_factory={maker})" if optional else "")
            line = f"{text}{syntax.line_end}{inner}" if first else f"{syntax.line_end}{inner}{text}"
            yield Amendment(
                at, at, FIELDS, line, f"new field `{each.name}`" + (", which may be left out so far" if optional else "")
            )

    def field_place(self, number: int) -> tuple[int, bool]:
        """Where a further field goes: behind the last one, or where the first belongs; and whether it is the first."""
        syntax = self.sources.syntax(self.sources.symbols.file_of[number])
        node = syntax.type_node(self.sources.symbols.types[number])
        body = node.child_by_field_name("body")
        constructor = self.sources.constructor(number)
        before = constructor.whole[0] if constructor is not None and not in_head(constructor) else body.end_byte
        members = self.sources.symbols.own_members(number)
        bodies = sorted(member.body for member in members if member.body != (0, 0))
        section = section_at(syntax.traits, syntax.text, body.start_byte)
        ends = [
            member.whole[1]
            for member in members
            if member.kind == "field"
            and member.whole != (0, 0)
            and body.start_byte <= member.whole[0]
            and member.whole[1] <= before
            and not within_one(member.whole[0], bodies)  # what a method assigns declares nothing
            and section_at(syntax.traits, syntax.text, member.whole[1]) == section
        ]
        if not ends:
            return body.start_byte + (1 if syntax.text[body.start_byte : body.start_byte + 1] == b"{" else 0), True
        at = max(ends)
        while syntax.text[at : at + 1] == b";":
            at += 1
        return behind_remark(syntax, at), False

    def _new_constructor(self, number: int, syntax: Syntax, language: Language, inner: str, *, fields: bool) -> Amendment:
        """A constructor for a class that has none, and the bridging one that takes nothing."""
        given = self.state.dependencies_of(number)
        parameters, statements = self._takes(number, given, language)
        name = self.sources.symbols.types[number].name
        base = self._inherits_construction(number)
        lead = [language.parent_call] if base and language.parent_call else []
        if (inherited := self.sources.inherited(number)) is not None and language.passing_on is not None:
            _, own = self.sources.parameters(*inherited)
            above = self.sources.syntax(self.sources.symbols.file_of[inherited[0]])
            names = [each.name for each in inherited[1].parameters]
            at = self.arguments.place_among(number, inherited[1])
            parameters, call = language.passing_on([above.of(each) for each in own], names, parameters, at)
            lead = [call]
        visibility = "internal" if self._names_internals(number) else "public"
        if number in self.state.new_annotations:
            visibility = f"@{self.state.new_annotations[number]}{syntax.line_end}{inner}{visibility}"
        text = language.constructor(
            WrittenConstructor(name, visibility, parameters, self._in_order(number, lead, statements), "", inner)
        )
        if number in self.state.legacy and number not in self.state.retired and language.delegating is not None:
            text += f"{syntax.line_end * 2}{inner}" + language.delegating(
                WrittenConstructor(name, "public", *self._passed_on(number, language), "", inner)
            )
        actions = ", ".join(f"`{language.parameter(each.typed.text, each.name)}`" for each in given)
        said = f"new constructor that takes {actions}" + (
            "; one without arguments keeps callers working" if number in self.state.legacy and language.overloads else ""
        )
        if not language.braces:
            return self._first_method(number, syntax, text, inner, said)
        at, first = self.field_place(number)
        apart = syntax.line_end * (1 if first and not fields else 2)
        return Amendment(at, at, CONSTRUCTORS, f"{apart}{inner}{text}{gap(syntax, at, inner)}", said)

    def _in_order(self, number: int, lead: list[str], statements: list[str]) -> list[str]:
        """The call of the parent's constructor in front of what a class keeps, unless that asks for it by a method of the
        class."""
        return [*statements, *lead] if self._is_asked_early(number) else [*lead, *statements]

    def _is_asked_early(self, number: int) -> bool:
        """Whether a parent runs a method of the class before its constructor has kept what it is handed."""
        early = asked_by_parents(self.sources.codebase, number)
        taken = (self.state.proposals.get((number, each.name)) for each in self.state.dependencies_of(number))
        places = (place for each in taken if each is not None for place in each.decision.places)
        return bool(early) and any(place.member is not None and place.member.name in early for place in places)

    def _first_method(self, number: int, syntax: Syntax, text: str, inner: str, said: str) -> Amendment:
        """A first method in a class without braces: behind its text and its fields."""
        body = syntax.type_node(self.sources.symbols.types[number]).child_by_field_name("body")
        methods = [child for child in body.named_children if child.type in ("function_definition", "decorated_definition")]
        at = methods[0].start_byte if methods else body.start_byte
        return Amendment(at, at, CONSTRUCTORS, f"{text}{syntax.line_end * 2}{inner}", said)

    def _inherits_construction(self, number: int) -> bool:
        """Whether a class extends another of the tree, whose constructor has to be called."""
        always = self.sources.language(number).always_calls_parent
        return any(
            self.sources.symbols.types[each].kind == "class" and (always or self.sources.constructor(each))
            for each in self.sources.codebase.roles.ancestors(number)[1:]
        )

    def _takes(self, number: int, given: Sequence[Dependency], language: Language) -> tuple[list[str], list[str]]:
        """What a constructor takes and does for some dependencies: parameters and statements."""
        constructor = self.sources.constructor(number)
        promotes = self._promotes(number, constructor)
        parameters, statements = [], []
        for each in given:
            optional = self.arguments.may_miss(number, each) and not language.overloads
            value = language.argument(each.name)
            token = self.arguments.marked_by(number, each)
            annotations = token.annotations if token is not None else ""
            if optional:
                parameter, value = self.arguments.left_out(number, each, language)
                if promotes and language.promoted is not None and each.kept and not each.declared:
                    parameters.append(f"{annotations}{language.promoted('', '').partition('readonly')[0]}readonly {parameter}")
                    continue
                parameters.append(f"{annotations}{parameter}")
            elif promotes and language.promoted is not None and each.kept and not each.declared:
                parameters.append(f"{annotations}{language.promoted(each.typed.text, each.name)}")
                continue
            else:
                parameters.append(f"{annotations}{language.parameter(each.typed.text, each.name)}")
            if each.kept and not each.assigned:
                statements.append(language.assignment(each.name, value))
            elif not each.kept and value != language.argument(each.name):
                statements.append(language.fallback(each.name, value))
        return parameters, statements

    def _changed_constructor(
        self, number: int, syntax: Syntax, language: Language, constructor: Member, inner: str
    ) -> Iterator[Amendment]:
        given = self.state.dependencies_of(number)
        parameters, statements = self._takes(number, given, language)
        yield from self._as_open_as_needed(number, syntax, constructor)
        yield self._parameters(number, syntax, constructor, parameters, given)
        if statements and not in_head(constructor):
            said = f"keeps {', '.join(f'`{each.name}`' for each in given if each.kept)}"
            yield self._statements(syntax, constructor, statements, said, early=self._is_asked_early(number))
        if number in self.state.legacy and number not in self.state.retired and language.delegating is not None:
            yield from self._without_annotation(number, syntax, constructor)
            yield self._legacy_constructor(number, syntax, language, constructor, inner)
        if not self.sources.has_several_constructors(number):  # where each old one stays, others go on calling it
            yield from self._other_constructors(number, syntax, constructor)

    def _parameters(
        self, number: int, syntax: Syntax, constructor: Member, parameters: list[str], given: Sequence[Dependency]
    ) -> Amendment:
        node, own = self.sources.parameters(number, constructor)
        index = self.arguments.place_among(number, constructor)
        if self.sources.language(number).keyword_arguments:
            index = len(own) - (1 if own and syntax.of(own[-1]).startswith("**") else 0)
        behind_defaults = self.sources.language(number).keyword_arguments and any(
            each.default or each.type == "*" for each in constructor.parameters
        )
        if (
            behind_defaults
            and not any(self.arguments.may_miss(number, each) for each in given)
            and "*" not in map(syntax.of, own)
        ):
            parameters = ["*", *parameters]  # none that must be passed may stand behind one that need not, but by its name
        taken = (f"`{self.sources.language(number).parameter(each.typed.text, each.name)}`" for each in given)
        said = f"the constructor takes {', '.join(taken)}"
        if number in self.state.removed_parameters:
            return listed(
                own,
                without(list(map(syntax.of, own)), self.state.removed_parameters[number], min(index, len(own)), parameters),
                said,
            )
        if not own:
            return Amendment(node.start_byte + 1, node.start_byte + 1, PARAMETERS, ", ".join(parameters), said)
        if index == 0 and not self.sources.language(number).keyword_arguments:
            return Amendment(
                own[0].start_byte, own[0].start_byte, PARAMETERS, "".join(f"{each}, " for each in parameters), said
            )
        behind = own[min(index, len(own)) - 1]
        broken = syntax.line_of(own[-1].start_byte) != syntax.line_of(node.start_byte)
        separator = f",{syntax.line_end}{syntax.indent_at(behind.start_byte)}" if broken else ", "
        return Amendment(
            behind.end_byte, behind.end_byte, PARAMETERS, "".join(f"{separator}{each}" for each in parameters), said
        )

    def _statements(self, syntax: Syntax, constructor: Member, statements: list[str], said: str, *, early: bool) -> Amendment:
        """At the beginning of the body, behind a call of the parent's constructor: what follows may use the fields."""
        body = syntax.body(constructor)
        own = syntax.statements(body)
        before_super = syntax.traits.super_call_first  # where nothing of the object may be touched until then
        behind = list(_leading(syntax, own if before_super else own[:2], early=early))
        last = behind[-1] if behind and (before_super or behind[-1] == own[0] or len(behind) > 1) else None
        margin = syntax.indent_at(own[0].start_byte if own else constructor.whole[0])
        if not own:
            margin += indent_unit(margin)
        braces = syntax.text[body.start_byte : body.start_byte + 1] == b"{"
        if not braces and last is None:  # a body without braces begins with its first statement
            at = own[0].start_byte
            return Amendment(at, at, STATEMENTS, "".join(f"{each}{syntax.line_end}{margin}" for each in statements), said)
        at = last.end_byte if last is not None else body.start_byte + 1
        lined = not braces or b"\n" in syntax.text[at : own[0].start_byte if own and last is None else body.end_byte]
        if own and last is None and not lined:
            return Amendment(at, at, STATEMENTS, "".join(f" {each}" for each in statements), said)
        text = "".join(f"{syntax.line_end}{margin}{each}" for each in statements)
        if not own and b"\n" not in syntax.text[at : body.end_byte]:
            text += syntax.line_end + syntax.indent_at(constructor.whole[0])
        return Amendment(at, at, STATEMENTS, text, said)

    def _names_internals(self, number: int) -> bool:
        """Whether a public class is handed what is only known inside its own assembly, so that no public constructor may name
        it."""
        if "public" not in self.sources.symbols.types[number].modifiers.words:
            return False
        named = {need.name for each in self.state.dependencies_of(number) for need in each.typed.needs}
        named |= {word for each in self.state.dependencies_of(number) for word in re.findall(r"[A-Z]\w*", each.typed.text)}
        return is_internal(self.sources, self.state, number, named)

    def _as_open_as_needed(self, number: int, syntax: Syntax, constructor: Member) -> Iterator[Amendment]:
        """A constructor that has to name what only its assembly knows is for that; one that nobody could call is opened."""
        if "public" in constructor.modifiers.words and self._names_internals(number):
            yield from narrowed(syntax, constructor)
        elif keeps_one_object(self.sources.codebase, number):
            yield from opened(syntax, constructor)

    def _without_annotation(self, number: int, syntax: Syntax, constructor: Member) -> Iterator[Amendment]:
        """The annotation of a constructor goes to the old one, which a container is to go on calling."""
        for node in syntax.annotations(constructor):
            if number in self.state.old_annotations and syntax.of(node).startswith(f"@{self.state.old_annotations[number]}"):
                rest = syntax.text[node.end_byte :]
                yield Amendment(
                    node.start_byte,
                    node.end_byte + len(rest) - len(rest.lstrip()),
                    FIELDS,
                    "",
                    f"`{syntax.of(node)}` goes to the old constructor",
                )

    def _legacy_constructor(
        self, number: int, syntax: Syntax, language: Language, constructor: Member, inner: str
    ) -> Amendment:
        """The constructor as it was, behind the new one, handing over to it."""
        _, own = self.sources.parameters(number, constructor)
        names = [language.argument(each.name) for each in constructor.parameters]
        taken, supplied = self._passed_on(number, language)
        index = self.arguments.place_among(number, constructor)
        arguments = [*names[:index], *supplied, *names[index:]]
        parameters = [syntax.of(each) for each in own]
        parameters = [*parameters[:index], *taken, *parameters[index:]]
        throws = f" throws {', '.join(constructor.throws)}" if constructor.throws else ""
        words = ("public",) if in_head(constructor) else constructor.modifiers.words
        visibility = next((word for word in words if word in ("public", "protected", "private", "internal")), "")
        assert language.delegating is not None
        if number in self.state.old_annotations:
            visibility = f"@{self.state.old_annotations[number]}" + (f"\n{inner}{visibility}" if visibility else "")
        text = language.delegating(
            WrittenConstructor(self.sources.symbols.types[number].name, visibility, parameters, arguments, throws, inner)
        )
        at = self.field_place(number)[0] if in_head(constructor) else behind_remark(syntax, constructor.whole[1])
        said = "the old constructor stays, and hands over to the new one"
        return Amendment(at, at, CONSTRUCTORS, f"{syntax.line_end * 2}{inner}{text}{gap(syntax, at, inner)}", said)

    def _passed_on(self, number: int, language: Language) -> tuple[list[str], list[str]]:
        """What an old constructor takes by now beyond its own parameters, and what it hands on of all dependencies."""
        taken = [
            language.parameter(each.typed.text, each.name) for each in self.state.dependencies_of(number) if not each.optional
        ]
        return taken, [
            self.arguments.expression(each) if each.optional else language.argument(each.name)
            for each in self.state.dependencies_of(number)
        ]

    def _other_constructors(self, number: int, syntax: Syntax, constructor: Member) -> Iterator[Amendment]:
        """Constructors that hand over to the changed one supply what it takes now."""
        file = self.sources.symbols.file_of[number]
        index = self.arguments.place_among(number, constructor)
        local, self_word = number - self.sources.symbols.first[file], self.sources.symbols.dialect(number).self_word
        members = self.sources.symbols.own_members(number)
        for site in self.sources.codebase.content(file).sites:
            if site.kind != "delegation" or site.text != self_word or site.type != local or members[site.member] == constructor:
                continue
            brackets = syntax.arguments(syntax.at(site.place.start, site.place.end))
            if brackets is None or len(brackets[1]) != len(constructor.parameters):
                continue
            yield inserted(
                brackets,
                [self.arguments.expression(each) for each in self.state.dependencies_of(number)],
                index,
                "hands on what was created before",
            )


def _leading(syntax: Syntax, statements: Sequence[Any], *, early: bool) -> Iterator[Any]:
    """The statements that must stay in front of what is added: `early`, those alone that document the constructor."""
    return (each for each in statements if leads(syntax.of(each)) and (not early or syntax.of(each)[:1] in "\"'"))
