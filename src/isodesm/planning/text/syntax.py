"""The syntax of one source file, parsed when a plan has to change it: where its heads, parameters, bodies and imports are.

Grammars agree on the names of the fields asked for here (`name`, `type`, `value`, `parameters`, `body`); what they call
their nodes differently is in the sets below.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator
from typing import Any, NamedTuple

from isodesm.facts.records import DeclaredType, Member
from isodesm.facts.trees import Tree
from isodesm.planning.language import language_named

_FUNCTIONS_WITH_OWN_SELF = frozenset(("function_declaration", "function_expression", "function", "generator_function"))
_CLOSURES = frozenset(
    ("lambda", "lambda_expression", "arrow_function", "anonymous_function", "anonymous_function_creation_expression")
)
_HANDLERS = frozenset(("catch_clause", "except_clause", "except_group_clause"))
_BASES = {
    "implements": frozenset(("super_interfaces", "implements_clause", "class_interface_clause", "extends_interfaces")),
    "all": frozenset(("base_list", "argument_list")),
}
_IMPORTS = frozenset(
    (
        "import_declaration",
        "using_directive",
        "import_statement",
        "import_from_statement",
        "namespace_use_declaration",
        "future_import_statement",
    )
)
_HEADS = frozenset(
    ("package_declaration", "namespace_definition", "php_tag", "file_scoped_namespace_declaration", "declare_statement")
)


class Span(NamedTuple):
    """Bytes `start` to `end` (exclusive) of a file."""

    start: int
    end: int


class Part(NamedTuple):
    """A part of a list that the grammar has no node for; it answers as one."""

    start_byte: int
    end_byte: int
    type: str


def _parts(listed: Any) -> Iterator[Any]:
    """What stands between the commas of a list, comments left out: mostly a node each."""
    group: list[Any] = []
    for child in [*listed.children[1:-1], None]:
        if child is None or child.type == ",":
            if group:
                yield group[0] if len(group) == 1 else Part(group[0].start_byte, group[-1].end_byte, group[0].type)
            group = []
        elif "comment" not in child.type:
            group.append(child)


class Syntax(Tree):
    """One file: its text in UTF-8 and its syntax tree."""

    def __init__(self, language: str, path: str, text: bytes) -> None:
        super().__init__(language, path, text)
        self.traits = language_named(language)
        self.line_end = "\r\n" if b"\r\n" in text else "\n"

    def indent_at(self, at: int) -> str:
        """The white space in front of the line that holds byte `at`."""
        start = self.text.rfind(b"\n", 0, at) + 1
        line = self.text[start : self.text.find(b"\n", at) if b"\n" in self.text[at:] else len(self.text)].decode(
            "utf-8", "replace"
        )
        return line[: len(line) - len(line.lstrip())]

    def separator(self, entry: Any, opening: Any) -> str:
        """What comes between an entry and one more behind it: a line end, too, where the entry is below the list's opening."""
        apart = self.line_of(entry.start_byte) != self.line_of(opening.start_byte)
        return f",{self.line_end}{self.indent_at(entry.start_byte)}" if apart else ", "

    def line_of(self, at: int) -> int:
        """The number of the line that holds byte `at`, counted from 1."""
        return self.text.count(b"\n", 0, at) + 1

    # --- types ----------------------------------------------------------------------------

    def type_node(self, declared: DeclaredType) -> Any:
        """The declaration of a type."""
        node = self.root.descendant_for_byte_range(declared.place.start, declared.place.start)
        while node is not None and not (
            node.child_by_field_name("body") is not None
            and node.child_by_field_name("name") is not None
            and self.of(node.child_by_field_name("name")) == declared.name
        ):
            node = node.parent
        return node

    def member_margin(self, declared: DeclaredType) -> str:
        """The white space in front of the members of a type."""
        starts = [member.whole[0] for member in declared.members if member.whole != (0, 0)]
        margin = next((found for at in starts if (found := self.indent_at(at))), "")
        return margin or self.indent_at(self.type_node(declared).start_byte) + "    "

    def head_parameters(self, declared: DeclaredType) -> tuple[Any, list[Any]]:
        """The bracketed list of parameters in the head of a class, and what stands in it, comments left out."""
        node = next(child for child in self.type_node(declared).children if child.type == "parameter_list")
        return node, list(_parts(node))

    def bases(self, node: Any) -> tuple[Any, bool] | None:
        """The list of bases of a type that a further one goes into, and whether it is one of interfaces only; None without."""
        heritage = [each for around in node.children if around.type == "class_heritage" for each in around.children]
        for child in [*node.children, *heritage]:
            if child.type in _BASES["implements"]:
                return child, True
            if child.type in _BASES["all"] and child.type != "parameter_list":
                return child, False
        return None

    # --- members --------------------------------------------------------------------------

    def member_node(self, member: Member) -> Any:
        """The declaration of a member that has parameters or a body, decorators left off."""
        node = self.at(*member.whole)
        if node.type == "decorated_definition":
            node = node.child_by_field_name("definition")
        while (
            node.child_by_field_name("parameters") is None
            and node.parent is not None
            and node.parent.start_byte >= member.whole[0] - 1
        ):
            node = node.parent
        return node

    def parameters(self, member: Member) -> tuple[Any, list[Any]]:
        """The bracketed list of a member's parameters, and what stands in it, comments left out."""
        node = self.member_node(member).child_by_field_name("parameters")
        return node, list(_parts(node))

    def annotations(self, member: Member) -> list[Any]:
        """The annotations in front of a member, where they are part of it."""
        around = next((child for child in self.member_node(member).children if child.type == "modifiers"), None)
        return (
            [child for child in around.children if child.type in ("marker_annotation", "annotation")]
            if around is not None
            else []
        )

    def body(self, member: Member) -> Any:
        """The body of a member; None where it has none."""
        return self.member_node(member).child_by_field_name("body")

    def statements(self, body: Any) -> list[Any]:
        """The statements of a body, comments left out."""
        return [child for child in body.named_children if "comment" not in child.type]

    # --- places ---------------------------------------------------------------------------

    def declarator(self, value: Any) -> Any:
        """What declares the variable or field that a value is the first one of; None for a value used otherwise."""
        node, parent = value, value.parent
        while parent is not None and parent.type in ("equals_value_clause", "parenthesized_expression"):
            node, parent = parent, parent.parent
        if parent is None or parent.child_by_field_name("name") is None and not parent.type.endswith("declarator"):
            return None
        is_value = any(child == node for child in parent.children[1:])
        return (
            parent
            if is_value and parent.type in ("variable_declarator", "public_field_definition", "property_element")
            else None
        )

    def declared_type(self, declarator: Any) -> Any:
        """The node of the type that a declarator's variable is declared with; None where none is written."""
        own = declarator.child_by_field_name("type")
        if own is not None:
            return own.named_children[0] if own.type == "type_annotation" and own.named_children else own
        around = declarator.parent
        return around.child_by_field_name("type") if around is not None else None

    def has_own_self(self, node: Any, within: Any) -> bool:
        """Whether between a place and the member around it stands a function that has a `this` of its own, or none."""
        parent = node.parent
        while parent is not None and parent != within:
            if parent.type in _FUNCTIONS_WITH_OWN_SELF:
                return True
            if parent.type in ("anonymous_function", "arrow_function") and any(
                child.type == "static_modifier" for child in parent.children
            ):
                return True
            parent = parent.parent
        return False

    def closed_in(self, node: Any, within: Any) -> bool:
        """Whether between a place and the function around it stands one that knows nothing of that one's variables, or is
        declared there by a name."""
        named = ("function_definition", "function_declaration", "local_function_statement", "class_definition", "class_body")
        parent = node.parent
        while parent is not None and parent != within:
            if parent.type in named or parent.type in ("anonymous_function", "anonymous_function_creation_expression"):
                return True
            parent = parent.parent
        return False

    def is_caught(self, node: Any, within: Any) -> bool:
        """Whether the member around a place handles what goes wrong there itself, and a function inside it does not run it."""
        while node.parent is not None and node != within:
            around = node.parent
            if around.type in _FUNCTIONS_WITH_OWN_SELF or around.type in _CLOSURES:
                return False
            if around.type.startswith("try") and around.child_by_field_name("body") == node:
                return any(each.type in _HANDLERS for each in around.children)
            node = around
        return False

    def around(self, line: int, column: int, types: Collection[str]) -> Any:
        """The innermost node of some types that holds a place, given by line and column from 1 on; None where none does."""
        at = (line - 1, max(column - 1, 0))
        node = self.root.descendant_for_point_range(at, at)
        while node is not None and node.type not in types:
            node = node.parent
        return node

    def arguments(self, creation: Any) -> tuple[Any, list[Any]] | None:
        """The bracketed list of a creation's arguments, and what stands in it; None where it has no brackets."""
        node = creation.child_by_field_name("arguments")
        if node is None:
            node = next((child for child in creation.children if child.type in ("arguments", "argument_list")), None)
        return (node, [child for child in node.named_children if "comment" not in child.type]) if node is not None else None

    # --- imports --------------------------------------------------------------------------

    def imports(self) -> Iterator[Any]:
        """The imports of the file, in order."""
        return (node for node in self._top_nodes() if node.type in _IMPORTS)

    def import_place(self) -> tuple[int, bool]:
        """Where a further import goes: behind the last one, or where the first belongs; and whether there is one already."""
        last = head = None
        for node in self._top_nodes():
            if node.type in _IMPORTS:
                last = node
            elif node.type in _HEADS and last is None:
                head = node
        if last is not None:
            return self._behind(last), True
        if head is not None:
            body = head.child_by_field_name("body")
            return (body.start_byte + 1, False) if body is not None else (self._behind(head), False)
        return self._first_line(), False

    def import_margin(self) -> str:
        """The white space in front of the last import, which may go on over lines with a margin of their own."""
        starts = [node.start_byte for node in self._top_nodes() if node.type in _IMPORTS]
        return self.indent_at(starts[-1]) if starts else ""

    def _behind(self, node: Any) -> int:
        """The end of a node without the line end that some grammars count in."""
        start: int = node.start_byte
        return start + len(self.text[start : node.end_byte].rstrip())

    def _top_nodes(self) -> Iterator[Any]:
        for node in self.root.children:
            yield node
            body = node.child_by_field_name("body")
            if node.type in ("namespace_declaration", "namespace_definition") and body is not None:
                yield from body.children

    def _first_line(self) -> int:
        """Behind leading comments and the text that documents a module."""
        at = 0
        for node in self.root.children:
            if node.type == "comment" or (
                node.type == "expression_statement" and node.named_children and node.named_children[0].type == "string"
            ):
                at = node.end_byte
                continue
            break
        return at
