"""What a writer is: how one language spells the things that steps put into code."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from isodesm.planning.model.code import Adapter, FactoryClass, Interface, Need, Signature, Table, Typed

OLD_CONSTRUCTOR = "Keeps callers compiling until they hand in the dependencies themselves."
"""What stands above a constructor that only hands over to the one which takes everything."""


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
    maker: Callable[[FactoryClass], str] | None = None
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
