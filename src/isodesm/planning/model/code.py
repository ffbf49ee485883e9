"""Code that steps write, before a language spells it: names, types, members, and the files that hold them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple


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


class Loading(NamedTuple):
    """What happens when a module is loaded, in languages where an import runs the module at once."""

    imports: frozenset[tuple[str, str]]
    """(module as written, with the dots in front; name taken out of it, '' for the module itself) of each import that runs."""
    for_checkers: frozenset[str] = frozenset()
    """Names that are bound where only type checkers look."""
    asked: Mapping[str, int] = {}
    """Those of them that code asks for as it runs, to how often."""
    in_annotations: frozenset[str] = frozenset()
    """Names that annotations ask for."""


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


class FunctionType(NamedTuple):
    """A function that is injected: its type, the function itself as code, and how it is called with `{field}` and
    `{arguments}`."""

    typed: Typed
    text: str
    use: str


class WrittenConstructor(NamedTuple):
    """A constructor to be written: its class, who may call it, what it takes, and its statements, or what it passes on;
    declared errors, and the margin of members."""

    name: str
    visibility: str
    parameters: Sequence[str]
    body: Sequence[str]
    errors: str
    indent: str


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
    purpose: str = ""
    """What it says of itself, as a sentence."""
    for_checkers: tuple[str, ...] = ()
    """Imports that only its types need, and that the program must not run."""


class AdapterMember(NamedTuple):
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
    members: tuple[AdapterMember, ...]
    imports: tuple[str, ...]
    model: str
    visibility: str = "public"


class FactoryClass(NamedTuple):
    """A class with one function that makes an object: its name, the class of what it makes, where it lives, what the function
    takes, and how it makes it; imports and style as elsewhere."""

    name: str
    made: str
    home: str
    parameters: tuple[str, ...]
    call: str
    imports: tuple[str, ...]
    model: str


class RuleMember(NamedTuple):
    """A method that works something out: its name, its parameters as (type, name), the type of what it gives, the lines that do
    it, without their margin, and the name of what they leave."""

    name: str
    parameters: tuple[tuple[str, str], ...]
    result: str
    lines: tuple[str, ...]
    left: str


class Rules(NamedTuple):
    """A class with the rules of another: its name, whose rules they are, where it lives, its methods; imports and style as
    elsewhere."""

    name: str
    owner: str
    home: str
    members: tuple[RuleMember, ...]
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
