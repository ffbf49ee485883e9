"""Reads one source file: a pure function of language, path and bytes, so it can be cached and run anywhere."""

from __future__ import annotations

import re
from functools import cache
from typing import Any, NamedTuple

from isodesm.facts.assembler import RANK, Assembler, Head
from isodesm.facts.languages import dialect_of, query_text
from isodesm.facts.parsing import grammar_of, parse
from isodesm.facts.records import FileFacts, FileSites, Remark, Trouble, digest_of
from isodesm.facts.surface import surface_of

_REMARK = re.compile(rb"(?<![\w.])isodesm:[ \t]*(accept\b[^\r\n]*)")
_REMARK_END = re.compile(r"(?<!\s)\s*+(?:\*/|-->|#\})\s*+$")
_WORD = re.compile(rb"[\w$\x80-\xff]+")
LAST = 1 << 40
"""Serial number of the first match that comes after all others of the same place."""
HEADER_BYTES = 1500
"""How far into a file a remark that it was generated is looked for."""
PACKED_BYTES, PACKED_LINE = 4_000, 200
"""Bytes of a file, and of its lines on average, beyond which a tool has written it."""
TROUBLE_LIMIT = 5
"""Lines of unparsable code that are named for one file; one more would help nobody."""

_GENERATED = re.compile(
    rb"(?i)@generated\b|<auto-?generated|(?:mechanically|auto(?:matically)?[ -]?) ?generated|"
    rb"generated (?:by|from|file|code)\b.{0,300}?do not (?:edit|modify)|do not (?:edit|modify)\b.{0,200}?generated",
    re.DOTALL,
)


def read_file(language: str, path: str, content: bytes) -> tuple[FileFacts, FileSites]:
    """The facts of one file.

    `path` is relative to the root of the tree, with `/`; it is only carried along. Content that is no valid text,
    or that parses only in part, gives the facts of what could be read, and trouble that says what could not.
    """
    facts, assembler = _read(language, path, content)
    return facts, assembler.content()


def read_packed(language: str, path: str, content: bytes) -> tuple[FileFacts, bytes]:
    """The same, the sites as MessagePack."""
    facts, assembler = _read(language, path, content)
    return facts, assembler.packed_content()


def _read(language: str, path: str, content: bytes) -> tuple[FileFacts, Assembler]:
    text, encoding, trouble = as_utf8(path, content)
    dialect = dialect_of(language)
    suffix = path[path.rfind(".") :]
    root, text, dropped = parse(dialect, suffix, text)
    heads, errors = _heads(language, suffix, root, text)
    if dialect.global_state is not None:
        heads += _global_heads(dialect.global_state, text)
        heads.sort()
    assembler = Assembler(dialect, path, text)
    types = assembler.assemble(heads)
    if errors or dropped or root.has_error:
        trouble += _parse_trouble(path, assembler, [*dropped, *(node.start_byte for node in errors)])
    generated = (
        path.endswith(dialect.generated)
        or _is_packed(text, len(assembler.line_starts))
        or _is_said_generated(text[:HEADER_BYTES])
    )
    facts = FileFacts(
        language=language,
        path=path,
        length=len(content),
        digest=digest_of(content),
        lines=len(assembler.line_starts),
        package=assembler.package,
        imports=tuple(assembler.imports),
        types=types,
        generated=generated,
        encoding=encoding,
        trouble=tuple(trouble),
        remarks=_remarks(text, assembler),
        surface=surface_of(language, assembler.package, assembler.imports, types, generated),
    )
    return facts, assembler


def _is_packed(text: bytes, lines: int) -> bool:
    """Whether a file is a bundle that a tool has packed: hardly any line ends."""
    return len(text) > PACKED_BYTES and len(text) > PACKED_LINE * lines


def _is_said_generated(header: bytes) -> bool:
    return b"generated" in header.lower() and _GENERATED.search(header) is not None


def _global_heads(pattern: re.Pattern[bytes], text: bytes) -> list[Head]:
    """Heads for names of global state, which a query would have to pick out of all variables; those in remarks left out."""
    found: list[Head] = []
    for serial, match in enumerate(pattern.finditer(text)):
        line = text[text.rfind(b"\n", 0, match.start()) + 1 : match.start()].lstrip()
        if not line.startswith((b"*", b"//", b"#", b"/*")):
            found.append((match.start(), -match.end(), RANK["site"], -1 - serial, "site.global", {}))
    return found


def _remarks(text: bytes, assembler: Assembler) -> tuple[Remark, ...]:
    """Remarks to this program, in order of place."""
    if b"isodesm:" not in text:
        return ()
    return tuple(
        Remark(
            assembler.place(match.start(), match.end()).line,
            _REMARK_END.sub("", match.group(1).decode("utf-8", "replace")).strip(),
        )
        for match in _REMARK.finditer(text)
    )


def as_utf8(path: str, content: bytes) -> tuple[bytes, str, list[Trouble]]:
    """`content` as UTF-8 without a byte-order mark, the encoding it was in, and what is to be said about that."""
    for mark, encoding in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16-le"), (b"\xfe\xff", "utf-16-be")):
        if content.startswith(mark):
            text = content[len(mark) :]
            if encoding == "utf-8-sig":
                return text, encoding, []
            return text.decode(encoding, "replace").encode("utf-8", "replace"), encoding, []
    if b"\r" in content and b"\n" not in content:  # line ends that some grammars don't know; offsets stay as they are
        content = content.replace(b"\r", b"\n")
    if content.isascii():
        return content, "utf-8", []
    try:
        content.decode("utf-8")
    except UnicodeDecodeError:
        remark = Trouble(path=path, reason="is not UTF-8; read as Latin-1")
        return content.decode("latin-1").encode("utf-8"), "latin-1", [remark]
    return content, "utf-8", []


class Queries(NamedTuple):
    """What is asked of the files with a suffix, ready to run: the query for facts, that for bare names (None: not asked), and
    for each pattern of the first the name and rank of its head, as far as they are known."""

    facts: Any
    names: Any
    heads: dict[int, tuple[str, int]]


@cache
def queries_of(language: str, suffix: str) -> Queries:
    """Getting them ready costs up to half a second in a language with a large grammar."""
    grammar, names = grammar_of(language, suffix), query_text(language, suffix, "names")
    return Queries(_compiled(grammar, query_text(language, suffix)), _compiled(grammar, names) if names else None, {})


@cache
def _compiled(grammar: Any, text: str) -> Any:
    from tree_sitter import Query

    return Query(grammar, text)


def _heads(language: str, suffix: str, root: Any, text: bytes) -> tuple[list[Head], list[Any]]:
    """Every match of the language's queries, sorted by its head, and the nodes that did not parse."""
    from tree_sitter import QueryCursor

    queries = queries_of(language, suffix)
    head_of_pattern = queries.heads
    heads: list[Head] = []
    errors: list[Any] = []
    for serial, (pattern, parts) in enumerate(QueryCursor(queries.facts).matches(root)):
        if pattern not in head_of_pattern:
            name = next(name for name in parts if "." in name)
            head_of_pattern[pattern] = (name, RANK.get(name.partition(".")[0], -1))
        name, rank = head_of_pattern[pattern]
        node = parts[name][0]
        if rank < 0:
            errors.append(node)
        else:
            start, end = node.byte_range
            heads.append((start, -end, rank, serial, name, parts))
    if queries.names is not None:
        heads += _name_heads(queries.names, root, text, heads)
    heads.sort()
    return heads, errors


def _name_heads(query: Any, root: Any, text: bytes, heads: list[Head]) -> list[Head]:
    """Heads for bare names that an import may have brought in."""
    from tree_sitter import QueryCursor

    imports = (text[start:-back] for start, back, *_, name, _ in heads if name == "file.import")
    imported = {word for each in imports for word in _WORD.findall(each)}
    found: list[Head] = []
    for node in QueryCursor(query).captures(root).get("name", ()) if imported else ():
        start, end = node.byte_range
        if text[start:end] in imported:
            found.append((start, -end, RANK["site"], LAST + len(found), "site.name", {}))
    return found


def _parse_trouble(path: str, assembler: Assembler, offsets: list[int]) -> list[Trouble]:
    lines = sorted({assembler.place(offset, offset).line for offset in offsets}) or [0]
    return [Trouble(path=path, reason="does not parse here; the rest was read", line=line) for line in lines[:TROUBLE_LIMIT]]
