"""What a writer is: how one language spells the things that steps put into code."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import NamedTuple

OLD_CONSTRUCTOR = "Keeps callers compiling until they hand in the dependencies themselves."
"""What stands above a constructor that only hands over to the one which takes everything."""


class Need(NamedTuple):
    """A name that code uses, and the package, namespace or module that it must be imported from ('' for none).

    With `whole` it is the module itself that is named; `member` is what its home calls it, where that is another name.
    """

    name: str
    home: str
    whole: bool = False
    member: str = ""


class Typed(NamedTuple):
    """A type as code, and what it must import."""

    text: str
    needs: tuple[Need, ...] = ()


class Signature(NamedTuple):
    """A member that an interface declares: `parameters` as one text, `docs` as written in front of the member it is taken
    from."""

    name: str
    parameters: str
    result: str
    generics: str = ""
    throws: str = ""
    constraints: str = ""
    docs: str = ""
    kind: str = "method"
    asynchronous: bool = False
    abstract: bool = False
    """Whether it is marked so, as others of its class are."""


class Interface(NamedTuple):
    """An abstraction to be written: its name, what it is of, the package it lives in, and the style of the file it is taken
    from."""

    name: str
    target: str
    home: str
    generics: str
    members: tuple[Signature, ...]
    imports: tuple[str, ...]
    model: str
    """The text of the target's file, whose habits (file-scoped namespaces, strict types, indentation) are taken over."""
    visibility: str = "public"
    """How far it is known, in languages that say so: as far as the class."""
    said: str = ""
    """What it says of itself, where that is not what others ask of the target."""

    @property
    def purpose(self) -> str:
        """What it says of itself, as a sentence."""
        return self.said or f"What the rest of the code asks of {self.target}."


class Passing(NamedTuple):
    """A member of an adapter: how it is declared, and the expression that it passes on to."""

    signature: Signature
    call: str

    @property
    def gives_back(self) -> bool:
        """Whether anything comes back."""
        return self.signature.result not in ("void", "never")

    @property
    def is_set(self) -> bool:
        """Whether it can be set, too."""
        return "set;" in self.signature.parameters


class Adapter(NamedTuple):
    """A class that passes on what an abstraction declares: its name, the name of that, what it passes on to, where it lives,
    its members, and the style of the file that it stands beside."""

    name: str
    interface: str
    target: str
    home: str
    members: tuple[Passing, ...]
    imports: tuple[str, ...]
    model: str
    visibility: str = "public"


class Maker(NamedTuple):
    """A class with one function that makes an object: its name, the class of what it makes, where it lives, what the function
    takes, and how it makes it; imports and style as elsewhere."""

    name: str
    made: str
    home: str
    parameters: tuple[str, ...]
    call: str
    imports: tuple[str, ...]
    model: str


class Table(NamedTuple):
    """A class that keeps the data of another in one field: its name, whose data it is, where it lives, type and name of the
    field, and the data as code; imports and style as elsewhere."""

    name: str
    owner: str
    home: str
    type: str
    field: str
    value: str
    imports: tuple[str, ...]
    model: str


def no_override(indent: str) -> str:
    """For languages that mark no implementing member."""
    return ""


def unchanged(text: str) -> str:
    """For languages of which one level takes what every other does."""
    return text


@dataclass(frozen=True, slots=True, kw_only=True)
class Writer:
    """One language. Names are bare (no sign in front); `indent` is one level, as the file at hand has it."""

    language: str
    overloads: bool
    """Whether a class may have several constructors; else a default of the parameter keeps callers working."""
    use: Callable[[str], str]
    """A field, as a member of its class names it."""
    argument: Callable[[str], str]
    """A parameter, as its own body names it."""
    parameter: Callable[[str, str], str]
    """(type, name) as a parameter."""
    optional: Callable[[str, str, str], tuple[str, str]] = lambda type, name, supply: ("", "")
    """(type, name, supply) to a parameter with a default, and the value that it gives."""
    nullable: Callable[[str, str, str], tuple[str, str]] = lambda type, name, supply: ("", "")
    """The same for one that may be null, in languages whose containers hand that in."""
    field: Callable[[str, str], str]
    """(type, name) to the declaration of a field; '' where assigning declares it."""
    promoted: Callable[[str, str], str] | None = None
    """(type, name) to a parameter that declares a field as well."""
    assignment: Callable[[str, str], str]
    """(name, value) to the statement that fills a field."""
    constructor: Callable[[str, str, Sequence[str], Sequence[str], str, str], str]
    """(class, visibility, parameters, statements, declared errors, indent) to a constructor, first line unindented."""
    delegating: Callable[[str, str, Sequence[str], Sequence[str], str, str], str] | None = None
    """The same with arguments for statements: a constructor that hands over to another one."""
    interface: Callable[[Interface], str]
    """The file of an abstraction."""
    signature: Callable[[Signature, str], list[str]]
    """(member, margin) to its lines in an abstraction."""
    adapter: Callable[[Adapter], str]
    """The file of a class that passes on."""
    file_name: Callable[[str], str]
    """The name of the file that a type of some name lives in."""
    import_line: Callable[[Need, str], str]
    """(need, path of the file that imports) to the line."""
    override: Callable[[str], str] = no_override
    """What goes in front of a member that implements one of an interface."""
    fallback: Callable[[str, str], str] = lambda name, value: f"{name} = {value}"
    """(parameter, what it is or gives way to) to the statement that settles it."""
    implements: str = " implements "
    """Between the name of a class and its first interface."""
    public_members: bool = False
    """Whether implementing members must say that they are public."""
    statement_end: str = ";"
    typed: bool = True
    """Whether types can be written, so that an abstraction has a place."""
    factory: Callable[[str, Sequence[tuple[str, str]], str], tuple[Typed, str, str]] | None = None
    """(class, its parameters as (type, name), abstraction) to the type of a function that makes it, the function itself, and
    how it is called with `{field}` and `{arguments}`."""
    parent_call: str = ""
    """The statement by which a constructor calls its parent's without arguments, where that does not go without saying."""
    supplied: Callable[[str], str] = unchanged
    """An expression that makes or calls something, as a level of the language takes it."""
    named: str = ""
    """(with `{name}` and `{value}`) How an argument is passed by its name, where the language can."""
    table: Callable[[Table], str] | None = None
    """The file of a class that keeps the data of another."""
    of_table: str = "new {name}().{field}"
    """What gives the data of such a class."""
    maker: Callable[[Maker], str] | None = None
    """The file of a class whose `make` a container can call, in languages that have containers which go by files."""
    passing_on: Callable[[Sequence[str], Sequence[str], Sequence[str], int], tuple[list[str], str]] | None = None
    """(parameters of the inherited constructor, their names, further ones, their place) to those of one that takes the place of
    it, and the statement by which it calls that, where a language lets it."""


def joined(parts: Sequence[str], head: str, tail: str, margin: str, indent: str, width: int = 110) -> str:
    """A bracketed list on one line, or where that is too long with an entry a line."""
    line = head + ", ".join(parts) + tail
    if len(margin) + len(line) <= width or not parts:
        return line
    inner = f",\n{margin}{indent}".join(parts)
    return f"{head}\n{margin}{indent}{inner}\n{margin}{tail}"


def indented(lines: Sequence[str], margin: str) -> str:
    """Lines with a margin in front of all but empty ones."""
    return "\n".join(margin + line if line.strip() else "" for line in lines)
