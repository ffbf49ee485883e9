"""The bonds of a tree as columns of integers: millions of them fit in memory."""

from __future__ import annotations

from array import array
from collections.abc import Iterator, Sequence
from heapq import merge

import msgspec

KINDS = (
    "extends",
    "implements",
    "field",
    "parameter",
    "return",
    "local",
    "generic",
    "annotation",
    "throws",
    "catch",
    "cast",
    "call",
    "creation",
    "static-call",
    "static-field",
    "lookup",
)
OWN_CALL = len(KINDS)
"""Kind number of a call that stays inside its class or hierarchy: no bond, but effects travel over it."""
ASKED = len(KINDS) + 3
"""Kind number of reading a property of another class whose body then runs: no bond, for it may as well hold a value, but
effects travel over it."""
WRITE, STATE = len(KINDS) + 1, len(KINDS) + 2
"""Kind numbers of writing a static field, a variable of a module or a global one, and of reading such a variable: no bonds
by themselves, but together they show state that is shared by everybody."""
KIND_NUMBER = {kind: number for number, kind in enumerate(KINDS)}
CONTEXTS = (
    "",
    "constructor",
    "field-initializer",
    "method",
    "module",
    "parameter-default",
    "static-initializer",
    "deferred-default",
)
DEFAULTS = ("parameter-default", "deferred-default")
"""Contexts of what stands for a parameter that was left out; of the latter a function is handed on that works it out."""
CONTEXT_NUMBER = {context: number for number, context in enumerate(CONTEXTS)}

AMBIGUOUS, IN_LOOP, RUNTIME, BY_NAME, ARGUMENTS, ANONYMOUS = 1, 2, 4, 8, 16, 32
AT_SEAM, WITH_CLOCK, INTO_GIVEN, DEFERRED, SEVERAL = 64, 128, 256, 512, 1024
"""Flags: two candidates were equally good; inside a loop; arguments known only at run time; guessed from the name;
has arguments; creates an anonymous subclass; supplies the default of a bridging constructor; is passed a clock, by the name
of it, and so reads that and not the time of day; prints into what it was given; is left to a function that is handed on; has
two arguments or more."""

COLUMNS = (
    "source",
    "inner",
    "target",
    "kind",
    "file",
    "line",
    "column",
    "member",
    "source_member",
    "callee",
    "text",
    "context",
    "flags",
    "site",
)


_CREATION = KINDS.index("creation")
_OF_MEMBERS = frozenset(KINDS.index(kind) for kind in ("call", "static-call", "static-field", "lookup"))


class Bond(msgspec.Struct, frozen=True):
    """One bond with its names spelt out, as `export bonds` writes it; `target_member` is the member that is called, read or
    looked up, `<init>` for a creation, '' for a bond to the type alone."""

    source: str
    member: str
    kind: str
    target: str
    target_member: str
    external: bool
    ambiguous: bool
    text: str
    context: str
    file: str
    line: int
    column: int


UNKNOWN = -(2**31)
"""No type; far below any external number, and it fits a 32-bit column."""


class Names:
    """Strings under numbers, in order of first use."""

    def __init__(self) -> None:
        self.strings: list[str] = []
        self._numbers: dict[str, int] = {}

    def number(self, text: str) -> int:
        found = self._numbers.get(text)
        if found is None:
            found = self._numbers[text] = len(self.strings)
            self.strings.append(text)
        return found


class BondTable:
    """Columns of equal length, a row a bond, in order of file and place.

    `source` is the innermost named type, `inner` the innermost type (anonymous ones count); `target` is a type number
    when >= 0, else `-1 - n` for external name number n. `member`, `callee` and `text` number strings, `source_member`
    is the index of the member in `source` (-1: its head), `site` the index of the site in its file (-1: none).
    """

    def __init__(self) -> None:
        self.columns = {name: array("i") for name in COLUMNS}
        self.source, self.inner, self.target, self.kind, self.file, self.line, self.column = list(self.columns.values())[:7]
        self.member, self.source_member, self.callee, self.text, self.context, self.flags, self.site = list(
            self.columns.values()
        )[7:]
        self.names = Names()
        self.externals = Names()
        self._rows_by: dict[str, tuple[int, dict[int, array[int]]]] = {}
        """Column to the rows of each of its values, and how many rows there were."""
        self._appends = [self.columns[name].append for name in COLUMNS]

    def __len__(self) -> int:
        return len(self.columns["source"])

    @property
    def size(self) -> int:
        """Bytes that the columns take."""
        return sum(len(column) * column.itemsize for column in self.columns.values())

    def target_member(self, row: int) -> str:
        """The member of the target that a bond is to: what is called or read, `<init>` for a creation, '' for none."""
        kind = self.kind[row]
        if kind == _CREATION:
            return "<init>"
        return self.names.strings[self.callee[row]] if kind in _OF_MEMBERS else ""

    def add(self, row: tuple[int, ...]) -> None:
        """Append one row, its values in the order of COLUMNS."""
        for append, value in zip(self._appends, row, strict=True):
            append(value)

    def add_all(self, rows: list[tuple[int, ...]]) -> None:
        """Append many rows, column by column."""
        if rows:
            for column, values in zip(self.columns.values(), zip(*rows, strict=True), strict=True):
                column.extend(values)

    def external(self, target: int) -> str:
        """The name of an external target."""
        return self.externals.strings[-1 - target]

    def text_of(self, column: str, row: int) -> str:
        """The string in one of the columns `member`, `callee`, `text`."""
        return self.names.strings[self.columns[column][row]]

    def pack(self) -> tuple[dict[str, bytes], list[str], list[str]]:
        """What a worker sends back: columns as bytes, and the two string lists."""
        return {name: column.tobytes() for name, column in self.columns.items()}, self.names.strings, self.externals.strings

    def extend(self, packed: tuple[dict[str, bytes], list[str], list[str]]) -> None:
        """Append the rows of a packed table, its string numbers turned into this table's."""
        columns, names, externals = packed
        fresh = not self.names.strings and not self.externals.strings  # then every string keeps its number
        name_map = [self.names.number(text) for text in names]
        external_map = [-1 - self.externals.number(text) for text in externals]
        for name, content in columns.items():
            column = array("i")
            column.frombytes(content)
            if name in ("member", "callee", "text") and not fresh:
                column = array("i", [name_map[value] for value in column])
            elif name == "target" and not fresh:
                column = array("i", [value if value >= 0 else external_map[-1 - value] for value in column])
            self.columns[name].extend(column)

    def beginning(self, rows: int) -> BondTable:
        """The first rows as a table of their own, which shares the strings with this one."""
        found = BondTable()
        found.names, found.externals = self.names, self.externals
        for name, column in self.columns.items():
            found.columns[name].extend(column[:rows])
        return found

    def rows_of_kind(self, *kinds: str) -> Iterator[int]:
        """The rows of the given kinds, in order."""
        return merge(*(self._rows_with("kind", KIND_NUMBER[kind]) for kind in kinds))

    def rows_of_source(self, source: int) -> list[int]:
        """The rows whose source is the type of that number, in order."""
        return list(self._rows_with("source", source))

    def rows_of_file(self, file: int) -> list[int]:
        """The rows of a file, in order."""
        return list(self._rows_with("file", file))

    def forget_rows(self) -> None:
        """Let go of what answers which rows there are; it is worked out again when somebody asks."""
        self._rows_by.clear()

    def _rows_with(self, column: str, value: int) -> Sequence[int]:
        """The rows with a value in a column, in order; worked out for all values at once, since many are asked for."""
        length, rows = self._rows_by.get(column, (-1, {}))
        if length != len(self):
            rows = {}
            for row, each in enumerate(self.columns[column]):
                found = rows.get(each)
                if found is None:
                    found = rows[each] = array("i")
                found.append(row)
            self._rows_by[column] = (len(self), rows)
        return rows.get(value, ())
