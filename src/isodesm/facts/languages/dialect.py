"""What a dialect is: the facts about a language that a query can't say, with defaults that hold for most."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field

from isodesm.facts.records import Import, Modifiers, Parameter

NAME_CHAIN = re.compile(r"[\\$]?+[^\W\d][\w$\\]*+(?:\s*+\.\s*+(?:[$#]++|[^\W\d])[\w$]*+)*+$")
"""A chain of plain names: `a.b.c`, `$a.b`, `Name\\Space\\Type.field`."""


def plain_chain(text: str) -> str:
    """`text` if it is a chain of names joined by dots, else ''."""
    return text if NAME_CHAIN.match(text) else ""


def same_member(kind: str, name: str, modifiers: Modifiers, owner: str) -> tuple[str, Modifiers]:
    """For languages whose grammar tells what kind of member a declaration is."""
    return kind, modifiers


def same_name(kind: str, name: str) -> tuple[str, str]:
    """For languages in which all members have plain names."""
    return kind, name


def no_modifiers(text: str) -> Modifiers:
    """For languages whose modifiers are captured as decorators."""
    return Modifiers()


@dataclass(frozen=True, slots=True, kw_only=True)
class Dialect:
    """One language. Functions take text as written; `grammar` takes the file's suffix and gives tree-sitter's pointer."""

    name: str
    title: str
    suffixes: tuple[str, ...]
    grammar: Callable[[str], object]
    read_import: Callable[[str], tuple[Import, ...]]
    count_statements: Callable[[bytes], int]
    simple_statements: frozenset[str]
    """Nodes of statements that hold no other ones, but for those that end a body."""
    read_modifiers: Callable[[str], Modifiers] = no_modifiers
    read_bases: Callable[[str, str], tuple[tuple[str, ...], tuple[str, ...]]]
    """The superclasses and the interfaces that a list of bases names, for a type of a kind."""
    read_throws: Callable[[str], tuple[str, ...]] = lambda text: ()
    read_chain: Callable[[str], str] = plain_chain
    """An expression as a chain of names joined by dots; '' where it is none."""
    read_name: Callable[[str], str] = str
    """The name of a declared member or parameter without signs."""
    name_member: Callable[[str, str], tuple[str, str]] = same_name
    """Kind and name of a member by those captured."""
    refine_member: Callable[[str, str, Modifiers, str], tuple[str, Modifiers]] = same_member
    """Kind and modifiers of a member by its kind, name and modifiers as captured, and the kind of type it is in."""
    promotes: Callable[[Parameter], bool] = lambda parameter: False
    """Whether a constructor's parameter declares a field as well."""

    readings: Callable[[bytes], Iterable[bytes]] = lambda text: ()
    """Other texts to parse, of the same length and lines, when a text does not parse as it stands."""
    generated: tuple[str, ...] = ()
    """Ends of names of files that tools write."""
    not_source: tuple[str, ...] = ()
    """Names, or ends of names, of files of the language that declare nothing to read."""
    primitives: frozenset[str] = frozenset()
    inferred: frozenset[str] = frozenset()
    """Words in the place of a type that leave it to the initialiser."""
    keyword_types: dict[str, str] = field(default_factory=dict)
    """Keywords that are short for a type of the standard library, whose static members they give."""
    name_operators: frozenset[str] = frozenset()
    """What looks like a call but only names its argument."""
    global_state: re.Pattern[bytes] | None = None
    """Names of state that belongs to no class, where they are known by their spelling."""
    global_objects: frozenset[str] = frozenset()
    """Objects of the host whose members are global variables."""
    partial_types: bool = False
    """Whether a type may be declared in several parts."""
    self_word: str = "this"
    parent_word: str = "super"
    self_types: frozenset[str] = frozenset()
    """Words that name the enclosing type in the place of a type: PHP's `self` and the like."""
    parent_type: str = ""
    unnamed_type: str = ""
    """What a type declared without a name is called."""
    dotted_modules: bool = False
    """Whether modules are named by dotted names (else by paths)."""
    module_separator: str = "."
    """Between the name of a module and that of a type in it."""
    separator: str = "."
    """Between the parts of a qualified name."""
    style: str = "packages"
    """How names are found: `packages` (Java), `namespaces` (C#, PHP) or `modules` (TypeScript, Python)."""
    ignores_case: bool = False
    """Whether type names are found without regard to case."""
    implicit_self: bool = True
    """Whether a bare name may mean a member of the enclosing type."""
    has_module: bool = False
    """Whether code may stand outside all types; a type of kind `module` then holds it."""
    calls_create: bool = False
    """Whether a creation is written as a call of the class."""
    self_parameter: bool = False
    """Whether a method's first parameter is the object, or the class, that it is called on."""
    functions_in_path: bool = False
    """Whether the qualified name of a local class has the names of the functions around it."""
    field_makers: frozenset[str] = frozenset()
    """Decorators and bases that turn what is assigned in a class's body into fields of its objects."""
    abstract_bases: re.Pattern[str] | None = None
    """What in the list of bases says that a class is abstract, where no modifier does."""
    type_remark: re.Pattern[bytes] | None = None
    """What gives an assignment its type in a remark behind it, the type as its group."""
    leading_modifiers: bool = False
    """Whether modifiers stand between the start of a declaration and its name without a node of their own."""
    flat_paths: bool = False
    """Whether the path of a type is its name alone, wherever it stands."""
    assigned_fields: bool = False
    """Whether assigning to a member of the object itself declares a field."""
    head_is_outside: bool = False
    """Whether what is written in a function's head runs in the scope around it."""
    class_words: tuple[str, ...] = ()
    """Words that stand for the class before a static member of it."""
    remark: str = "//"
    """What starts a remark that ends with its line."""
    fences: dict[str, str] = field(default_factory=dict)
    """Suffix of a file, without its dot, to the word that tells renderers of text what a block of code is."""
    exports_by_word: bool = False
    """Whether a module offers to others only what a word before it says."""
    replaceable_modules: bool = False
    """Whether a test can put another module in the place of one that is imported."""
    compiled_suffixes: tuple[str, ...] = ()
    """Suffixes of files that may have been compiled from others of the language."""
    project_usings: bool = False
    """Whether a project file may import name spaces for all files below it."""
    registers_in_arrays: bool = False
    """Whether entries of arrays register services; definition files then register the classes below a folder."""
    scans_leave_code: bool = False
    """Whether a call that scans names what no reader of one file can follow."""
    function_values: frozenset[str] = field(default_factory=frozenset)
    """Kinds of node that make a field whose value they are a method."""
