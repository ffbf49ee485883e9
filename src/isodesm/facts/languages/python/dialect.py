"""What a query can't say about Python: imports, bases, and which function is what kind of member."""

from __future__ import annotations

import re
from functools import lru_cache

from isodesm.facts import noise
from isodesm.facts.languages.dialect import Dialect
from isodesm.facts.records import Import, Modifiers
from isodesm.facts.typetext import split_top

_COMMENT = re.compile(r"#[^\n]*|\\\n")
_FROM = re.compile(r"from\s++(\.*+)(?:\s*+(?!import\b)([\w.]++))?+\s*+import\b\s*+\(?+(.*)$", re.DOTALL)
_PROPERTIES = ("property", "cached_property", "reify", "abstractproperty")
_STATICS = ("staticmethod", "classmethod", "classonlymethod")


@lru_cache(maxsize=4096)
def read_import(text: str) -> tuple[Import, ...]:
    """The names that one import statement binds, relative dots kept in front of the module."""
    text = _COMMENT.sub(" ", text).strip()
    if found := _FROM.match(text):
        dots, module, names = found.groups("")
        name = dots + module
        return tuple(_taken(name, part) for part in split_top(" ".join(names.rstrip().removesuffix(")").split())))
    return tuple(_module(part) for part in split_top(" ".join(text.removeprefix("import").split())))


def _taken(module: str, part: str) -> Import:
    member, _, alias = part.partition(" as ")
    if member == "*":
        return Import(name=module, wildcard=True)
    return Import(name=module, member=member.strip(), alias=(alias or member).strip())


def _module(part: str) -> Import:
    """`import a.b` binds `a`; `import a.b as c` binds `c` to `a.b`."""
    name, _, alias = part.partition(" as ")
    name = name.strip()
    return (
        Import(name=name, alias=alias.strip()) if alias else Import(name=name.partition(".")[0], alias=name.partition(".")[0])
    )


def read_bases(text: str, kind: str) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The bases in the brackets behind a class's name; keyword arguments are none."""
    if len(text) < 3:
        return (), ()
    parts = split_top(" ".join(_COMMENT.sub(" ", text[1:-1]).split()))
    return tuple(part for part in parts if not re.match(r"\*|\w+\s*=[^=]", part)), ()


def refine_member(kind: str, name: str, modifiers: Modifiers, owner: str) -> tuple[str, Modifiers]:
    """Constructors, properties and static methods by name and decorators."""
    if kind != "method":
        return kind, modifiers
    decorators = [each.name.rpartition(".")[2] for each in modifiers.annotations]
    words = []
    if owner == "module" or name == "__new__" or any(word in each.lower() for each in decorators for word in _STATICS):
        words.append("static")
    if "abstractmethod" in decorators:
        words.append("abstract")
    if name.startswith("_") and not name.endswith("__"):
        words.append("private")
    if owner != "module" and name == "__init__":
        kind = "constructor"
    elif any(each in _PROPERTIES for each in decorators):
        kind = "property"
    return kind, Modifiers(words=tuple(words), annotations=modifiers.annotations)


_STRINGS = re.compile(
    noise.any_of(noise.TRIPLE, noise.TRIPLE_SINGLE, noise.QUOTED, noise.SINGLE, noise.HASH).encode(),
    re.DOTALL,
)
_HEADER = re.compile(
    rb"^[ \t]*(?:if|elif|else|for|while|try|except|finally|with|def|class|async|match|case|@|[)\]}])", re.MULTILINE
)


def count_statements(body: bytes) -> int:
    """Lines that begin a simple statement, near enough: continuation lines in brackets are not told apart."""
    if b"'" in body or b'"' in body or b"#" in body:
        body = _STRINGS.sub(b"''", body)
    lines = sum(1 for line in body.splitlines() if line.strip() not in (b"", b"''", b"pass"))
    return max(lines - len(_HEADER.findall(body)), 0)


def grammar(suffix: str) -> object:
    """The compiled grammar, for tree-sitter."""
    import tree_sitter_python

    return tree_sitter_python.language()


DIALECT = Dialect(
    name="python",
    title="Python",
    suffixes=(".py", ".pyw"),
    fences={"py": "python"},
    remark="#",
    class_words=("cls",),
    replaceable_modules=True,
    grammar=grammar,
    read_import=read_import,
    read_bases=read_bases,
    refine_member=refine_member,
    count_statements=count_statements,
    simple_statements=frozenset("expression_statement".split()),
    primitives=frozenset("int float str bytes bool complex None object Any Self list dict set tuple frozenset".split()),
    field_makers=frozenset("dataclass define frozen mutable attrs NamedTuple TypedDict BaseModel Struct s dataclasses".split()),
    abstract_bases=re.compile(r"\b(?:ABC|ABCMeta|Protocol)\b"),
    self_word="self",
    parent_word="super",
    style="modules",
    implicit_self=False,
    has_module=True,
    calls_create=True,
    type_remark=re.compile(rb"[^\S\n]*#\s*type:\s*(?!ignore\b)([^#\n]+)"),
    self_parameter=True,
    functions_in_path=True,
    assigned_fields=True,
    head_is_outside=True,
    dotted_modules=True,
)
