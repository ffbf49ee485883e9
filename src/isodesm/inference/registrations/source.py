"""One source file as registrations are read from it: its sites, its syntax, and what classes its expressions mean."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from functools import cached_property
from typing import Any, NamedTuple

from isodesm.catalogue.containers import ContainerRules
from isodesm.facts import typetext
from isodesm.facts.records import FileSites, Place, Site
from isodesm.facts.trees import Tree
from isodesm.linking.bonds import UNKNOWN
from isodesm.linking.hierarchy import Hierarchy
from isodesm.linking.member_values import Scope
from isodesm.linking.values import Chain, FileValues

CONTAINER_LIKE = re.compile(
    r"container|services?$|builder|binder|kernel|provider|registr|injector|config|app$|ioc|context", re.I
)
"""Names of variables in which a container is kept, where their type is not known."""
_CALLS = frozenset(
    (
        "method_invocation",
        "invocation_expression",
        "call_expression",
        "member_call_expression",
        "nullsafe_member_call_expression",
        "scoped_call_expression",
        "function_call_expression",
        "call",
    )
)
_CREATIONS = frozenset(("object_creation_expression", "new_expression", "implicit_object_creation_expression"))
_FUNCTION = re.compile(r"lambda|arrow_function|anonymous_function|function_expression")
_AROUND = frozenset(
    ("parenthesized_expression", "ternary_expression", "conditional_expression", "await_expression", "as_expression")
)
_CHOICES = frozenset(("ternary_expression", "conditional_expression", "switch_expression", "match_expression"))
_LITERALS = frozenset(("class_literal", "typeof_expression", "class_constant_access_expression"))
_STRINGS = frozenset(("string", "string_literal", "encapsed_string", "template_string", "verbatim_string_literal"))


class Argument(NamedTuple):
    """An argument of a call: its expression, and its name where it is given by name."""

    node: Any
    name: str = ""


class Made(NamedTuple):
    """A class that an expression may give; `alias` says that another registration makes it."""

    name: str
    alias: bool = False


class Source:
    """Answers about one file."""

    def __init__(self, hierarchy: Hierarchy, file: int, content: FileSites, text: Callable[[int], bytes]) -> None:
        self.hierarchy, self.symbols, self.file = hierarchy, hierarchy.symbols, file
        self.facts, self.content, self._text = self.symbols.files[file], content, text
        self.values = FileValues(hierarchy, file, content)
        self.is_modular = self.values.names.dialect.style == "modules"

    @cached_property
    def tree(self) -> Tree:
        """The syntax of the file."""
        return Tree(self.facts.language, self.facts.path, self.text)

    @cached_property
    def text(self) -> bytes:
        """The text of the file in UTF-8."""
        return self._text(self.file)

    def node_of(self, site: Site) -> Any:
        """The syntax of a site."""
        return self.tree.at(site.place.start, site.place.end)

    def place(self, line: int, column: int) -> dict[str, Any]:
        """The fields of a registration that say where it stands."""
        return {"file": self.facts.path, "line": line, "column": column}

    def place_of(self, node: Any) -> dict[str, Any]:
        """The place of a node; columns count characters."""
        start = self.tree.text.rfind(b"\n", 0, node.start_byte) + 1
        column = len(self.tree.text[start : node.start_byte].decode("utf-8", "replace")) + 1
        return self.place(node.start_point[0] + 1, column)

    def name_of(self, target: int) -> str:
        """The qualified name of a type, in the tree or not; '' for an unknown one."""
        if target == UNKNOWN:
            return ""
        return self.symbols.names[target] if target >= 0 else self.hierarchy.externals.strings[-1 - target]

    def names_of(self, target: int) -> list[str]:
        """The qualified name of a type, and those of its own bases, in the tree or not."""
        bases = self.hierarchy.bases(target) if target >= 0 else ()
        return [self.name_of(target), *(self.name_of(each) for each, _ in bases)]

    def scope_at(self, at: int) -> Scope:
        """The type and member that hold a byte of the file."""
        best = Scope(self.file, 0 if self.facts.types else -1, -1)
        size = len(self.tree.text) + 1
        for local, declared in enumerate(self.facts.types):
            start, end = declared.body if declared.kind != "module" else (0, len(self.tree.text) + 1)
            if start <= at < end and end - start <= size:
                size = end - start
                inside = (i for i, m in enumerate(declared.members) if m.whole[0] <= at < m.whole[1])
                best = Scope(self.file, local, next(inside, -1))
        return best

    # --- calls ------------------------------------------------------------------------------

    def listed(self, call: Any) -> list[Any]:
        """What stands between the brackets of a call or creation."""
        listed = call.child_by_field_name("arguments")
        if listed is None:
            listed = next((each for each in call.named_children if each.type == "arguments"), None)
        return list(listed.named_children) if listed else []

    def arguments(self, call: Any) -> list[Argument]:
        """The arguments of a call or creation."""
        return [each for child in self.listed(call) for each in self._argument(child)]

    def _argument(self, child: Any) -> Iterator[Argument]:
        if "comment" in child.type:
            return
        if child.type == "keyword_argument":
            yield Argument(child.child_by_field_name("value"), self.tree.of(child.child_by_field_name("name")))
        elif child.type == "argument":
            name = child.child_by_field_name("name")
            inner = [each for each in child.named_children if each != name and each.type not in ("name_colon", "comment")]
            if inner:
                yield Argument(inner[-1], self.tree.of(name) if name is not None else "")
        else:
            yield Argument(child)

    def called(self, call: Any) -> tuple[str, str]:
        """The simple name of what is called, and its type arguments with their brackets."""
        named = call.child_by_field_name("name")
        function = call.child_by_field_name("function")
        if named is None and function is not None:
            for field in ("name", "property", "attribute"):
                named = named if named is not None else function.child_by_field_name(field)
            named = named if named is not None else function
        text = self.tree.of(named) if named is not None else ""
        simple = re.match(r"[\w$]+", text)
        generics = call.child_by_field_name("type_arguments")
        given = text[simple.end() :].strip() if simple else ""
        if generics is not None:
            given = self.tree.of(generics)
        return simple.group() if simple else text, given

    def chained(self, node: Any) -> Iterator[Any]:
        """The calls made on what a node gives, one on the other; a choice in brackets passes them on to both its sides."""
        while (above := node.parent) is not None:
            if above.type in _CALLS and above.child_by_field_name("object") == node:
                yield above
                node = above
            elif above.parent is not None and above.parent.type in _CALLS and self._is_function(above, node):
                yield above.parent
                node = above.parent
            elif above.type in _AROUND:
                node = above
            else:
                return

    @staticmethod
    def _is_function(above: Any, node: Any) -> bool:
        function = above.parent.child_by_field_name("function")
        return function is not None and function == above and above.named_children[0] == node

    def is_told(self, site: Site, rules: ContainerRules) -> bool:
        """Whether what a call is made on can be a container of the family: its type is one, or nothing is known of it and
        its name says so. Families with words of their own need no such proof."""
        if rules.always or not rules.imports or site.kind == "creation" or site.receiver >= 0 or site.name in rules.lists:
            return True
        text = site.text.replace("->", ".").replace("$", "").lstrip("\\")
        if not text:
            return True
        chain = self.values.chain(site.text, site)
        target = chain.value.target if chain.value.target != UNKNOWN else chain.base
        if target == UNKNOWN:
            last = text.rpartition(".")[2]
            return last in rules.list_holders or CONTAINER_LIKE.search(last) is not None or len(last) <= 2
        names = self.names_of(target)
        return any(each.startswith(rules.imports) for each in names) or (
            target >= 0 and CONTAINER_LIKE.search(names[0]) is not None
        )

    # --- classes ----------------------------------------------------------------------------

    def type_named(self, text: str, at: int) -> str:
        """The qualified name of a type text at a byte of the file."""
        return self.name_of(self.values.of_text(text, self.scope_at(at)).target)

    def class_in(self, node: Any) -> str:
        """The class that an expression stands for: a literal of it, or the class itself; '' for anything else."""
        text = self.tree.of(node)
        if node.type in _LITERALS or text.endswith((".class", "::class")):
            inner = re.match(r"(?:typeof\s*\()?\s*([\w.\\$<>, ]+?)\s*(?:\)|\.class|::class)$", text)
            return self.type_named(inner.group(1), node.start_byte) if inner else ""
        if not self.is_modular or not re.fullmatch(r"[\w.$]+(?:<.*>)?", text):
            return ""
        name = text.partition("<")[0]
        if self.values.variable(name.partition(".")[0], node.start_byte) is not None:
            return ""
        chain = self.chain_at(name, node)
        is_class = chain.base != UNKNOWN and not chain.field and not (chain.base >= 0 and self.symbols.is_module(chain.base))
        return self.name_of(chain.base) if is_class else ""

    def chain_at(self, text: str, node: Any) -> Chain:
        """What a dotted chain of names means where a node stands."""
        scope = self.scope_at(node.start_byte)
        place = Place(node.start_byte, node.end_byte, node.start_point[0] + 1, 1)
        return self.values.chain(text, Site("name", text, place, max(scope.local, 0), scope.member))

    def given_by(self, number: int, method: str) -> str:
        """The class that a method, or a function of a module, says to give; '' where it says none of the tree."""
        members = self.symbols.types[number].members if number >= 0 else ()
        found = next((each.type for each in members if each.kind == "method" and each.name == method), "")
        hierarchy, symbols = self.hierarchy, self.symbols
        file = symbols.file_of[number] if found else -1
        target = hierarchy.file(file).resolve(typetext.head(found), number - symbols.first[file], -1) if found else -1
        return symbols.names[target] if target >= 0 else ""

    def default_lifetime(self, rules: ContainerRules) -> str:
        """The lifetime that an option of a container in this file gives to what says none; '' for that of the call."""
        if not rules.default_scope or rules.default_scope.encode() not in self.text:
            return ""
        found = re.search(rf"\b{rules.default_scope}\s*:\s*[\"']?(?:\w+\.)*(\w+)".encode(), self.text)
        return rules.lifetimes.get(found[1].decode(), "") if found else ""

    def created_in(self, node: Any) -> str:
        """The class of a creation; '' for another expression."""
        if node.type in _CREATIONS:
            named = node.child_by_field_name("type") or node.child_by_field_name("constructor")
            named = named or next((each for each in node.named_children if each.type in ("name", "qualified_name")), None)
            return self.type_named(self.tree.of(named), node.start_byte) if named is not None else ""
        if node.type == "call" and self.values.names.dialect.calls_create:
            return self.class_in(node.child_by_field_name("function"))
        return ""

    def is_function(self, node: Any) -> bool:
        """Whether an expression is a function."""
        return _FUNCTION.search(node.type) is not None or node.type == "method_reference"

    def is_choice(self, node: Any) -> bool:
        """Whether an expression gives one of several others."""
        return node.type in _CHOICES

    def is_text(self, node: Any) -> bool:
        """Whether an expression is a text."""
        return node.type in _STRINGS

    def words_in(self, node: Any) -> list[str]:
        """The words of an expression, those of nested functions aside."""
        return [] if self.is_function(node) else re.findall(r"\w+", self.tree.of(node))

    # --- what functions make ----------------------------------------------------------------

    def made_by(self, node: Any, depth: int = 0) -> list[Made]:
        """The classes whose objects an expression or function may give, each once, in order."""
        found: dict[Made, None] = {}
        for result in self._results(node, depth):
            if made := self.created_in(result):
                found[Made(made)] = None
            elif handed := self._handed_on(result):
                found[Made(handed, True)] = None
            elif self.is_choice(node) and (named := self.class_in(result)):
                found[Made(named)] = None
        return list(found)

    def returned(self, declaration: Any) -> Iterator[Any]:
        """The expressions that a declared method gives back."""
        body = declaration.child_by_field_name("body")
        if body is None or body.type not in ("block", "statement_block", "compound_statement"):
            yield from () if body is None else (body,)
            return
        for each in _within(body, "return_statement"):
            if each.named_children:
                yield each.named_children[0]

    def _handed_on(self, node: Any) -> str:
        """The class that a call asks a container for by a class in its arguments or type arguments."""
        if node.type not in _CALLS:
            return ""
        _, generics = self.called(node)
        given = typetext.arguments(generics) if generics else ()
        if len(given) == 1:
            return self.type_named(given[0], node.start_byte)
        arguments = self.arguments(node)
        return self.class_in(arguments[0].node) if len(arguments) == 1 else ""

    def _results(self, node: Any, depth: int) -> Iterator[Any]:
        """The expressions that an expression or function may give."""
        if node is None or depth > 8:
            return
        if self.is_function(node):
            yield from self._of_function(node, depth)
            return
        kind = node.type
        if kind in ("ternary_expression", "conditional_expression"):
            yes = node.child_by_field_name("consequence") or node.child_by_field_name("body")
            no = node.child_by_field_name("alternative")
            if yes is None and len(node.named_children) == 3:  # value if condition else other
                yes, no = node.named_children[0], node.named_children[2]
            for each in (yes, no):
                yield from self._results(each, depth + 1)
        elif kind in ("switch_expression", "match_expression"):
            for arm in _arms(node):
                yield from self._results(arm, depth + 1)
        elif kind in ("parenthesized_expression", "await_expression", "as_expression", "cast_expression", "await"):
            inner = node.child_by_field_name("value") or (
                node.named_children[-1] if kind == "cast_expression" else node.named_children[0]
            )
            yield from self._results(inner, depth + 1)
        elif kind == "binary_expression" and re.search(r"\?\?|\|\|", self.tree.of(node)):
            for each in node.named_children:
                yield from self._results(each, depth + 1)
        elif kind in ("identifier", "variable_name"):
            given = list(self._of_variable(node, depth))
            yield from given or (node,)
        else:
            yield node

    def _of_function(self, node: Any, depth: int) -> Iterator[Any]:
        if node.type == "method_reference":
            yield node
            return
        body = node.child_by_field_name("body") or node.named_children[-1]
        if body.type in ("block", "statement_block", "compound_statement"):
            for each in _within(body, "return_statement", "yield_statement"):
                if each.named_children:
                    yield from self._results(each.named_children[0], depth + 1)
        else:
            yield from self._results(body, depth + 1)

    def _of_variable(self, node: Any, depth: int) -> Iterator[Any]:
        """What a local variable of the same function was given."""
        name, around = self.tree.of(node), node.parent
        while around.parent is not None and around.type not in (
            "block",
            "statement_block",
            "compound_statement",
            "program",
            "module",
        ):
            around = around.parent
        for each in _within(around, "variable_declarator", "assignment_expression", "assignment"):
            left = each.child_by_field_name("name") or each.child_by_field_name("left")
            if each.start_byte < node.start_byte and left is not None and self.tree.of(left) == name:
                given = each.child_by_field_name("value") or each.child_by_field_name("right") or each.named_children[-1]
                if given != left:
                    yield from self._results(given, depth + 1)


def _arms(node: Any) -> Iterator[Any]:
    """What the arms of a switch or match give."""
    for each in _within(
        node, "switch_expression_arm", "match_conditional_expression", "match_default_expression", "switch_rule"
    ):
        inner = each.child_by_field_name("return_expression") or each.named_children[-1]
        inner = inner.named_children[0] if inner.type == "expression_statement" else inner
        if inner.type == "block":
            for given in _within(inner, "yield_statement"):
                yield given.named_children[0]
        else:
            yield inner


def _within(node: Any, *kinds: str) -> Iterator[Any]:
    """The nodes of some kinds below a node, in order; functions inside are not entered."""
    for child in node.named_children:
        if child.type in kinds:
            yield child
        elif not _FUNCTION.search(child.type):
            yield from _within(child, *kinds)
