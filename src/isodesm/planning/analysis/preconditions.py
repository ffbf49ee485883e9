"""Why a class can't be handed something through its constructor, or not by a plan: each reason in a full sentence."""

from __future__ import annotations

import re

from isodesm.codebase.model import Codebase
from isodesm.facts import typetext
from isodesm.facts.reader import TROUBLE_LIMIT
from isodesm.facts.records import Member
from isodesm.inference.evidence import DATA
from isodesm.planning.analysis.decisions import delegates
from isodesm.planning.analysis.field_initializers import asked_by_parents, early_use
from isodesm.planning.analysis.signatures import takes_undeclared
from isodesm.planning.analysis.sources import Sources
from isodesm.planning.model.decision import Decision, Place, Spot
from isodesm.planning.model.refusal import Reason, Refusal
from isodesm.planning.text.constructor_visibility import is_kept_back, keeps_one_object
from isodesm.planning.text.sections import section_at
from isodesm.planning.text.syntax import Syntax

WAYS = 3
"""Constructors that set the fields, each in its own way, up to which each is handed what the class takes."""


_SERIALISED = frozenset(
    "Serializable Externalizable ISerializable DataContract writeObject readObject __sleep __wakeup __serialize __unserialize "
    "__getstate__ __setstate__ __reduce__ __reduce_ex__ XmlRoot XmlType XmlElement XmlAttribute XmlIgnore DataMember "
    "NonSerialized JsonSerializable jsonSerialize".split()
)
"""Bases, marks and members by which a class, or one of its members, says that its objects are written out."""
_BOUND_TO_CLASS = re.compile(rb"\b(?:private|protected|public|readonly)\s[^()$]{0,400}+\$|&\s*+\$|\(\s*+\(|self::|static::")
"""What no other constructor can repeat of a list of parameters: fields, references, what only its class knows."""


_NOTHING = re.compile(r"\b(?:null|default)\b|->|=>|::")


def _does_not_parse(codebase: Codebase, number: int) -> bool:
    """Whether some of a class was left out when it was read, so that nobody can say what would be changed there."""
    file = codebase.symbols.file_of[number]
    lines = [each.line for each in codebase.symbols.files[file].trouble if each.line]
    if not lines:
        return False
    text, (start, end) = codebase.text(file), codebase.symbols.types[number].body
    first = text.count(b"\n", 0, start) + 1
    last = first + text.count(b"\n", start, end)
    return len(lines) >= TROUBLE_LIMIT or any(first <= each <= last for each in lines)


def of_class(sources: Sources, number: int) -> Refusal | None:
    """Why a class can take no dependency; None where it can."""
    for check in (_of_file, _of_kind, _of_constructors, _of_language, _of_source):
        if refusal := check(sources, number):
            return refusal
    return None


def _own_constructors(sources: Sources, number: int) -> list[Member]:
    return [member for member in sources.symbols.types[number].members if member.kind == "constructor"]


def _of_file(sources: Sources, number: int) -> Refusal | None:
    """Why nothing of the file of a class can be changed."""
    encoding = sources.symbols.files[sources.symbols.file_of[number]].encoding
    if encoding not in ("utf-8", "utf-8-sig", "ascii"):
        return Refusal(Reason.ENCODING, encoding=encoding)
    return Refusal(Reason.DOES_NOT_PARSE) if _does_not_parse(sources.codebase, number) else None


def _of_kind(sources: Sources, number: int) -> Refusal | None:
    """Why a type is none that takes dependencies."""
    declared = sources.symbols.types[number]
    if declared.kind == "module":
        return Refusal(Reason.OUTSIDE_CLASSES)
    if declared.kind != "class":
        return Refusal(Reason.NO_CLASS, kind=f"{'an' if declared.kind[0] in 'aeiou' else 'a'} {declared.kind}")
    if declared.outer_member >= 0 or not declared.name:
        return Refusal(Reason.LOCAL_CLASS)
    return Refusal(Reason.SERIALIZED) if _is_serialised(sources.codebase, number) else None


def _of_constructors(sources: Sources, number: int) -> Refusal | None:
    """Why the constructors of a class can't be changed together."""
    codebase, own = sources.codebase, _own_constructors(sources, number)
    if any(codebase.symbols.part_of_member(number, member) != number for member in own):
        return Refusal(Reason.CONSTRUCTORS_IN_PARTS)
    if own and all(member.is_private for member in own) and not codebase.shared.own_instances(number):
        return Refusal(Reason.ONLY_ITSELF_CREATES)
    if sources.language(number).constructors_no_less_open and keeps_one_object(codebase, number):
        if _is_kept_back_below(codebase, number):
            return Refusal(Reason.CLOSED_BELOW)
    ways = len([member for member in own if not delegates(codebase, number, member)])
    return Refusal(Reason.SEVERAL_CONSTRUCTORS) if ways > (WAYS if sources.language(number).overloads else 1) else None


def _of_language(sources: Sources, number: int) -> Refusal | None:
    """Why the rules of a language keep a constructor from taking more."""
    own, language = _own_constructors(sources, number), sources.language(number)
    annotations = sources.symbols.types[number].modifiers.annotations
    makers = sources.symbols.dialect(number).field_makers & {each.name.rpartition(".")[2] for each in annotations}
    if not own and makers and not sources.is_made_of_fields(number):
        return Refusal(Reason.CONSTRUCTOR_FROM_LIBRARY)
    counted = (each.variadic for each in own[0].parameters) if own and language.variadic_blocks else ()
    if any(counted) or any(takes_undeclared(sources, number, each) for each in own):
        return Refusal(Reason.ANY_NUMBER_OF_ARGUMENTS)
    heir = _silent_heir(sources, number) if language.subclass_may_skip_constructor else ""
    return Refusal(Reason.SUBCLASS_PASSES_BY, name=heir) if heir else None


def _of_source(sources: Sources, number: int) -> Refusal | None:
    """Why nothing can be added to the declaration of a class as it is written."""
    own, declared = _own_constructors(sources, number), sources.symbols.types[number]
    syntax = sources.syntax(sources.symbols.file_of[number])
    node = syntax.type_node(declared)
    body = node.child_by_field_name("body") if node is not None else None
    if body is None:
        return Refusal(Reason.DECLARATION_LOST)
    inside = section_at(syntax.traits, syntax.text, body.start_byte)
    if any(section_at(syntax.traits, syntax.text, each.place.start) != inside for each in own):
        return Refusal(Reason.CONSTRUCTOR_UNDER_CONDITION)
    return None if own else _inherited(sources, number)


def _is_kept_back_below(codebase: Codebase, number: int) -> bool:
    """Whether a subclass has a constructor that not everybody may call: it may be no less open than the one above."""
    below = (m for each in codebase.roles.implementers.get(number, ()) for m in codebase.symbols.types[each].members)
    return any(m.kind == "constructor" and is_kept_back(m) for m in below)


def _is_serialised(codebase: Codebase, number: int) -> bool:
    """Whether a class says that its objects are stored or sent, field by field."""
    for each in codebase.roles.ancestors(number):
        declared = codebase.symbols.types[each]
        said = {typetext.head(name).rpartition(".")[2] for name in (*declared.implements, *declared.extends)}
        marked = (declared.modifiers, *(member.modifiers for member in declared.members))
        annotations = {annotation.name.rpartition(".")[2] for each in marked for annotation in each.annotations}
        if _SERIALISED & (said | annotations | {member.name for member in declared.members}):
            return True
    return False


def _silent_heir(sources: Sources, number: int) -> str:
    """A subclass whose constructor passes by that of its parent; '' where there is none."""
    codebase = sources.codebase
    word = re.compile(
        rb"parent::__construct|super\s*\(|" + re.escape(codebase.symbols.types[number].name).encode() + rb"\.__init__"
    )
    for each in codebase.roles.implementers.get(number, ()):
        for member in codebase.symbols.types[each].members:
            body = (
                codebase.text(codebase.symbols.file_of[each])[slice(*member.body)]
                if member.kind == "constructor"
                else b"super("
            )
            if not word.search(body):
                return codebase.symbols.types[each].name
    return ""


def _inherited(sources: Sources, number: int) -> Refusal | None:
    """Why a constructor can't simply be added: in some languages it would hide an inherited one."""
    codebase, language = sources.codebase, sources.language(number)
    silent = not language.parent_call and not language.overloads
    bases = codebase.roles.ancestors(number)[1:]
    for each in bases:
        constructor = next((m for m in codebase.symbols.types[each].members if m.kind == "constructor"), None)
        if constructor is not None and (constructor.parameters or silent):
            if silent or not _can_pass_on(sources, number, each, constructor):
                return Refusal(Reason.INHERITS_CONSTRUCTOR, name=codebase.symbols.types[each].name)
    if language.inherits_constructors:
        outside = (base for each in (number, *bases) for base in codebase.roles.external_bases.get(each, ()))
        if name := next((base for base in outside if not _plain(base)), ""):
            return Refusal(Reason.INHERITS_OF_LIBRARY, name=name)
    return None


def _can_pass_on(sources: Sources, number: int, base: int, constructor: Member) -> bool:
    """Whether a constructor can be added that takes what the inherited one does and forwards it."""
    language, codebase = sources.language(number), sources.codebase
    if language.forwards_any_arguments:
        return True
    head = codebase.text(codebase.symbols.file_of[base])[slice(*constructor.whole)].partition(b"{")[0]
    plain = not any(each.variadic for each in constructor.parameters) and not _BOUND_TO_CLASS.search(head.partition(b"(")[2])
    return language.forwards_plain_parameters and plain and not constructor.is_private


def _plain(base: str) -> bool:
    """Whether a base from outside has no constructor of its own."""
    return base.rpartition(".")[2] in ("object", "ABC", "Protocol", "Generic")


def _is_handed_over(sources: Sources, number: int, spot: Spot) -> bool:
    """Whether an expression stands among the arguments by which a constructor hands over to another one of its class: there is
    no object yet, and what its class is handed goes to the other one."""
    self_word = sources.symbols.dialect(number).self_word
    return any(
        site.kind == "delegation" and site.text == self_word and site.place.start <= spot.span[0] < site.place.end
        for site in sources.codebase.content(spot.file).sites
    )


def of_spot(sources: Sources, number: int, spot: Spot) -> Refusal | None:
    """Why what a class is handed does not reach an expression in it; None where it may."""
    member = spot.member
    if member is None:
        return Refusal(Reason.IN_CLASS_HEAD)
    if member.is_static or member.kind in ("static", "constant"):
        return Refusal(Reason.STATIC_CODE)
    if member.kind == "instance":
        return Refusal(Reason.INITIALIZER_BLOCK)
    if member.kind == "constructor" and _is_handed_over(sources, number, spot):
        return Refusal(Reason.CREATED_BY_DELEGATION)
    if sources.symbols.files[spot.file].generated:
        return Refusal(Reason.GENERATED_CODE)
    if spot.file != sources.symbols.file_of[number] and member.kind not in ("method", "property"):
        return Refusal(Reason.FIELD_OF_ANOTHER_PART)
    return None


def _is_conditional(sources: Sources, decision: Decision, place: Place, syntax: Syntax) -> bool:
    """Whether the field that a place fills, or what it is about, is there under a condition only: the constructor is always."""
    if not syntax.traits.conditional_compilation:
        return False
    number, target, symbols = decision.source, decision.target, sources.symbols
    part = symbols.types[symbols.part_of_member(number, place.member)] if place.member is not None else symbols.types[number]
    always = section_at(syntax.traits, syntax.text, part.body[0])
    fields = [each for each in part.members if each.kind == "field" and each.name == place.field and each.whole != (0, 0)]
    if any(section_at(syntax.traits, syntax.text, each.place.start) != always for each in fields):
        return section_at(syntax.traits, syntax.text, place.span[0]) != always
    if target < 0 or section_at(syntax.traits, syntax.text, place.span[0]) == always:
        return False
    there = sources.codebase.text(symbols.file_of[target])
    return section_at(syntax.traits, there, symbols.types[target].place.start) != ()


def of_place(sources: Sources, decision: Decision, place: Place) -> Refusal | None:
    """Why a place can't be loosened; None where it can."""
    member = place.member
    if reason := of_spot(sources, decision.source, place):
        return reason
    assert member is not None
    syntax = sources.syntax(place.file)
    node = syntax.at(*place.span)
    if (node.start_byte, node.end_byte) != place.span and place.site.kind != "name" and place.finding.kind != "ambient-state":
        return Refusal(Reason.EXPRESSION_LOST)
    if _is_conditional(sources, decision, place, syntax):
        return Refusal(Reason.COMPILED_UNDER_CONDITION)
    if "method_reference" in (node.type, node.parent.type if node.parent is not None else None):
        return Refusal(Reason.CONSTRUCTOR_REFERENCE)
    if member.kind == "field":
        if member.whole == (0, 0) or syntax.declarator(node) is None:
            return Refusal(Reason.NESTED_IN_FIELD)
        if _shares_declaration(syntax.declarator(node)):
            return Refusal(Reason.DECLARED_TOGETHER)
        return early_use(sources, decision.source, member.name)
    if syntax.traits.functions_rebind_this and syntax.has_own_self(node, syntax.member_node(member)):
        return Refusal(Reason.ANOTHER_THIS)
    parent_first = syntax.traits.super_call_first or syntax.traits.overloads
    if parent_first and member.kind != "constructor" and member.name in asked_by_parents(sources.codebase, decision.source):
        return Refusal(Reason.PARENT_NEEDS_EARLY)
    if syntax.traits.keyword_arguments and not member.parameters and member.kind == "constructor":
        return None
    if _is_resource(node):
        return Refusal(Reason.CLOSED_WHERE_CREATED)
    return None


def of_several(sources: Sources, decision: Decision, *, depends: bool) -> Refusal | None:
    """Why a class that can be made in several ways can't take what it decides on in each of them; None where it can."""
    number = decision.source
    if not sources.has_several_constructors(number):
        return None
    filled = {
        (id(place.member), place.field)
        for place in decision.places
        if place.member is not None and place.member.kind == "constructor"
    }
    ways = {id(each) for each in sources.constructors(number)}
    fields = {field for _, field in filled}
    same = not filled or (len(fields) == 1 and {each for each, _ in filled} == ways)
    return Refusal(Reason.SEVERAL_CONSTRUCTORS) if depends or not same or _passes_nothing(sources.codebase, number) else None


def too_much(sources: Sources, number: int, taken: int, more: int = 1) -> Refusal | None:
    """Why a class that takes some dependencies by steps should not take `more`; None where it may."""
    codebase = sources.codebase
    own = codebase.wiring.injections.of_constructor(number) if sources.constructor(number) is not None else ()
    services = sum(1 for each in own if each.target >= 0 and codebase.roles.name(each.target) not in DATA)
    most = codebase.settings.limits.most_dependencies
    if services + taken + more <= most:
        return None
    return Refusal(Reason.TOO_MANY_DEPENDENCIES, most=most)


def _passes_nothing(codebase: Codebase, number: int) -> bool:
    """Whether somebody makes a class with a `null` or a function, which constructors of several types would take."""
    family = {number, *codebase.roles.implementers.get(number, ())}
    table = codebase.bonds
    made = [(table.file[row], table.site[row]) for row in table.rows_of_kind("creation") if table.target[row] == number]
    sites = [codebase.content(file).sites[site] for file, site in made if site >= 0]
    for each in family:
        file = codebase.symbols.file_of[each]
        local = each - codebase.symbols.first[file]
        sites += [site for site in codebase.content(file).sites if site.kind == "delegation" and site.type == local]
    return any(_NOTHING.search(site.arguments) for site in sites)


def _shares_declaration(declarator: object) -> bool:
    around, kind = declarator.parent, declarator.type  # type: ignore[attr-defined]
    return sum(1 for child in around.named_children if child.type == kind) > 1 and around.type != "class_body"


def _is_resource(node: object) -> bool:
    """Whether a value is opened for a block and closed behind it."""
    parent = node.parent  # type: ignore[attr-defined]
    while parent is not None and parent.type in (
        "equals_value_clause",
        "variable_declarator",
        "variable_declaration",
        "as_pattern",
    ):
        parent = parent.parent
    return parent is not None and parent.type in ("resource", "using_statement", "with_item")


def _is_private(sources: Sources, number: int) -> bool:
    """Whether a type inside another, or one of those that it is inside, is known to the class around it alone."""
    symbols, language = sources.symbols, sources.language(number)
    while (outer := symbols.outer(number)) >= 0 and not symbols.is_module(outer):
        said = {"private", "protected", "internal", "public"}.intersection(symbols.types[number].modifiers.words)
        silent = language.nested_types_private and not said and symbols.types[outer].kind != "interface"
        if silent or "private" in said or (language.nested_types_private and said == {"protected"}):
            return True
        number = outer
    return False


def inner_class_in(sources: Sources, source: int, text: str) -> str:
    """An inner class that a text creates, and that is bound to an object of a class which is not made yet where the text goes;
    '' for none."""
    if not sources.language(source).inner_classes_bound:
        return ""
    line, file = sources.codebase.roles.ancestors(source), sources.symbols.file_of[source]
    made = set(re.findall(r"\bnew\s++(\w++)", text))
    for number in range(sources.symbols.first[file], sources.symbols.first[file] + len(sources.symbols.files[file].types)):
        declared = sources.symbols.types[number]
        if declared.name in made and sources.symbols.outer(number) in line and declared.kind == "class":
            if "static" not in declared.modifiers.words:
                return declared.name
    return ""


def bound_to_owner(sources: Sources, target: int) -> Refusal | None:
    """Why nobody but its owner can create a target; None where others can."""
    declared, language = sources.symbols.types[target], sources.language(target)
    if declared.outer < 0 or not language.nested_types_hidden:
        return None
    outer = sources.symbols.types[sources.symbols.outer(target)]
    if outer.kind == "module":
        return None
    if _is_private(sources, target):
        return Refusal(Reason.PRIVATE_TO_OUTER)
    bound = declared.kind == "class" == outer.kind and "static" not in declared.modifiers.words
    return Refusal(Reason.INNER_CLASS) if bound and language.inner_classes_bound else None
