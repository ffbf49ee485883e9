"""What one source file says, as immutable records.

Terms: a *declared type* is a class, interface, enum, record or the like; a *member* belongs to one;
a *site* is a place that names or uses another type. Offsets are bytes of the UTF-8 text that was parsed;
lines and columns count from 1, columns in characters.
"""

from __future__ import annotations

import hashlib

import msgspec


def digest_of(content: bytes) -> str:
    """What tells the content of a file from any other: BLAKE2b, 16 bytes in hexadecimal digits."""
    return hashlib.blake2b(content, digest_size=16).hexdigest()


class Place(msgspec.Struct, frozen=True, array_like=True, gc=False):
    """A span of the source: bytes `start` to `end` (exclusive), beginning at `line`, `column`."""

    start: int
    end: int
    line: int
    column: int


class Import(msgspec.Struct, frozen=True, gc=False, omit_defaults=True):
    """One import: `name` as written; `alias` is the name it has in this file ('' for a wildcard).

    Of a module, `member` is the name that is taken out of it ('' for the module itself). `exported` says that the name
    is handed on and not bound here, `everywhere` that all files of the project see it, and `within` gives the bytes of
    the part of the file that does ((0, 0): all of it).
    """

    name: str
    alias: str = ""
    static: bool = False
    wildcard: bool = False
    member: str = ""
    exported: bool = False
    everywhere: bool = False
    within: tuple[int, int] = (0, 0)


class Annotation(msgspec.Struct, frozen=True, gc=False):
    """An annotation, attribute or decorator with its argument text, brackets left off."""

    name: str
    arguments: str = ""


class Modifiers(msgspec.Struct, frozen=True, gc=False):
    """Keywords before a declaration, in source order, and its annotations.

    Beside the language's own: `default` for what a module hands out as its default, `held` for a function that is the
    value of a field.
    """

    words: tuple[str, ...] = ()
    annotations: tuple[Annotation, ...] = ()


class Parameter(msgspec.Struct, frozen=True, gc=False, omit_defaults=True):
    """A parameter of a constructor, method or record header; `type` is the text as written."""

    name: str
    type: str
    modifiers: Modifiers = Modifiers()
    variadic: bool = False
    default: str = ""
    """The default value as written, cut at a limit."""


class Member(msgspec.Struct, frozen=True, gc=False, omit_defaults=True):
    """A field, constant, constructor, method or initialiser of a declared type.

    kind: `field`, `constant` (of an enum), `component` (of a record header), `property` (with accessors of its own),
    `constructor`, `method`, `instance` or `static` (initialisers). Functions outside classes are static methods of
    their module. `type` is the field's or the return type ('' for none);
    `value` the initialiser text of a field, cut at a limit; `statements` counts
    the simple statements and loops of the body, `branches` its loops, conditions, cases, handlers and `&&`, `||`, `?`.
    """

    kind: str
    name: str
    place: Place
    type: str = ""
    modifiers: Modifiers = Modifiers()
    generics: str = ""
    parameters: tuple[Parameter, ...] = ()
    throws: tuple[str, ...] = ()
    value: str = ""
    whole: tuple[int, int] = (0, 0)
    """Bytes of the whole declaration, modifiers included (a field's `place` is its declarator)."""
    body: tuple[int, int] = (0, 0)
    """Bytes of the body; (0, 0) where there is none."""
    statements: int = 0
    branches: int = 0

    @property
    def is_static(self) -> bool:
        return "static" in self.modifiers.words

    @property
    def is_private(self) -> bool:
        return "private" in self.modifiers.words


class DeclaredType(msgspec.Struct, frozen=True, gc=False, omit_defaults=True):
    """A declared type. `path` is its name with those of the types around it (`Outer.Inner`).

    kind: `class`, `interface`, `enum`, `record`, `struct`, `trait`, `annotation`, `anonymous`, `module` (which holds
    what stands outside all types of a file). `space` is the namespace it is declared in. `outer` is the index of the type
    around it in `FileFacts.types` (-1: none) and `outer_member` the index of the member it is declared in
    (-1: none, so it is a member type). Bases are type texts as written.
    """

    kind: str
    name: str
    path: str
    place: Place
    space: str = ""
    outer: int = -1
    outer_member: int = -1
    modifiers: Modifiers = Modifiers()
    generics: str = ""
    extends: tuple[str, ...] = ()
    implements: tuple[str, ...] = ()
    body: tuple[int, int] = (0, 0)
    members: tuple[Member, ...] = ()

    @property
    def is_abstract(self) -> bool:
        return self.kind in ("interface", "annotation") or "abstract" in self.modifiers.words


class Local(msgspec.Struct, frozen=True, array_like=True, gc=False):
    """A local variable or parameter, visible in bytes `start` to `end` of its file.

    `type` is '' where none is written; then `site` is the index of the site that initialises it (-1: unknown).
    kind: `element` says that the type is that of the elements of the value, as in a for-each loop; `caught` that it
    is an error being handled; `self` that it is the object that the method is called on, `class` that it is the class.
    `line` is 0 for parameters and what has no written type; `owner` and `member` are the
    indices of the type and member around it.
    """

    name: str
    type: str
    start: int
    end: int
    site: int = -1
    kind: str = ""
    line: int = 0
    column: int = 0
    owner: int = -1
    member: int = -1


class Site(msgspec.Struct, frozen=True, array_like=True, gc=False):
    """A place that names or uses another type.

    kind: `creation`, `call`, `reference`, `access`, `name`, `cast`, `test`, `literal`, `throw`, `assignment`,
    `delegation`, `annotation`, `global` (state that belongs to no class; `name` is `written` where it is assigned).
    `text` is the type named, or for an access, an assignment and a reference
    the dotted chain as written. For a call `text` is the receiver as written ('' for none) and `name` the method;
    `receiver` is the index of the site that is the receiver when that is no plain chain (-1 otherwise).
    `member` is an index into the members of `type`, -1 for the type's own head.
    """

    kind: str
    text: str
    place: Place
    type: int
    member: int
    name: str = ""
    receiver: int = -1
    arguments: str = ""
    """The argument list as written, brackets left off, cut at a limit."""
    context: str = ""
    runtime_arguments: bool = False
    """Whether an argument names a parameter or local of the enclosing member: then injection alone can't do it."""
    in_loop: bool = False
    anonymous: int = -1
    """For a creation with a class body, the index of that anonymous type."""
    generics: str = ""
    """The type arguments of a call as written, with their brackets."""
    inside: int = -1
    """Index of the innermost call, creation or assignment whose arguments or value hold this site (-1: none)."""


class Trouble(msgspec.Struct, frozen=True, gc=False):
    """Something about one file that a reader should know; `line` is 0 where it concerns the whole file."""

    path: str
    reason: str
    line: int = 0


class Remark(msgspec.Struct, frozen=True, gc=False):
    """What a remark in the source says to this program: the text behind `isodesm:`."""

    line: int
    text: str


class FileFacts(msgspec.Struct, frozen=True, gc=False):
    """All of one file but its sites, which travel apart so that they can be decoded one file at a time."""

    language: str
    path: str
    length: int
    digest: str
    lines: int
    package: str = ""
    imports: tuple[Import, ...] = ()
    types: tuple[DeclaredType, ...] = ()
    generated: bool = False
    encoding: str = "utf-8"
    trouble: tuple[Trouble, ...] = ()
    remarks: tuple[Remark, ...] = ()
    surface: str = ""
    """A digest of what other files can see of it."""


class FileSites(msgspec.Struct, frozen=True, gc=False):
    """The sites and locals of one file, in source order."""

    sites: tuple[Site, ...] = ()
    locals: tuple[Local, ...] = ()
