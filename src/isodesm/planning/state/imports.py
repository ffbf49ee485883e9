"""Imports that the code of a draft lacks, and those that nothing needs any more."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable, Iterator
from functools import partial
from itertools import groupby
from typing import Any

from isodesm.codebase.model import Codebase
from isodesm.linking.remembering import remembered
from isodesm.planning.analysis.names_in_code import EVERYTHING, is_bound, needs_of_text, settled_needs
from isodesm.planning.language.typescript import relative
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.code import Need
from isodesm.planning.model.dependency import Dependency
from isodesm.planning.state.draft import Draft
from isodesm.planning.text.amendments import amended
from isodesm.planning.text.import_order import ImportPlace, place_of
from isodesm.planning.text.insertions import IMPORTS, imported
from isodesm.planning.text.module_style import style_of, styled
from isodesm.planning.text.syntax import Syntax

_WORD = re.compile(rb"[A-Za-z_]\w*")
_TAKEN = re.compile(r"((?:import(?: type)? \{ ?)|from \S+ import )([\w, ]+?)((?: ?\} from .+)?)")
"""A line that takes names out of a module: what stands in front of the names, they, and what stands behind."""
_LISTS = frozenset(("named_imports", "namespace_use_group", "import_clause"))
_CLAUSES = frozenset(
    (
        "namespace_use_clause",
        "namespace_use_group_clause",
        "import_specifier",
        "aliased_import",
        "dotted_name",
        "identifier",
        "scoped_identifier",
    )
)


def amendments_of(draft: Draft, file: int) -> list[Amendment]:
    """All changes of one file, those of its imports last."""
    own = draft.amendments(file)
    return [*own, *without_idle(draft.sources.syntax(file), own, missing_imports(draft, file))]


def without_idle(syntax: Syntax, amendments: Iterable[Amendment], added: Iterable[Amendment]) -> Iterator[Amendment]:
    """The amendments that add imports, and those that drop the imports of names which other amendments took the last use of."""
    own, added = list(amendments), list(added)
    gone = {word for each in own for word in _WORD.findall(syntax.text[each.start : each.end])}
    if gone:
        text = amended(syntax.text, own)
        for word in sorted(gone):
            if len(re.findall(rb"\b%s\b" % word, text)) == 1 and (found := _import_of(syntax, word.decode())):
                span, clause = found
                said = f"`{word.decode()}` is no longer imported"
                front, behind = ([each for each in added if each.start == edge] for edge in span)
                beside = [each for each in added if clause[0] <= each.start <= clause[1] and _is_one_of_several(each)]
                if beside:  # others of the same module come in its place
                    added = [each for each in added if each not in beside]
                    new = ", ".join(each.text.strip(", \r\n\t") for each in beside)
                    yield Amendment(*clause, IMPORTS, new, f"{'; '.join(each.action for each in beside)}; {said}")
                elif not front and not behind:
                    yield Amendment(*_line(syntax, span), IMPORTS, "", said)
                else:  # new imports come in its place
                    added = [each for each in added if each not in (*front, *behind)]
                    new = "".join(each.text for each in front) + "".join(each.text for each in behind).lstrip()
                    actions = "; ".join(each.action for each in (*front, *behind))
                    yield Amendment(*span, IMPORTS, new.strip(), f"{actions}; {said}")
    yield from added


def _is_one_of_several(added: Amendment) -> bool:
    """Whether what is added is a further name in an import that stands there."""
    text = added.text.strip()
    return text.startswith(",") or text.endswith(",")


def _import_of(syntax: Syntax, name: str) -> tuple[tuple[int, int], tuple[int, int]] | None:
    """The span of the import that binds a name, and that of the name in it: the whole statement where it binds nothing else;
    None where there is none."""
    for node in syntax.imports():
        clauses = list(_clauses(node))
        bound = [_bound(syntax, clause) for clause in clauses]
        if name not in bound:
            continue
        clause = clauses[bound.index(name)]
        own = (clause.start_byte, clause.end_byte)
        if len(clauses) == 1:
            return (node.start_byte, node.end_byte), own
        after, before = clause.next_sibling, clause.prev_sibling
        if after is not None and after.type == ",":
            rest = syntax.text[after.end_byte :]
            return (own[0], after.end_byte + len(rest) - len(rest.lstrip())), own
        return ((before.start_byte, own[1]), own) if before is not None and before.type == "," else None
    return None


def _clauses(node: Any) -> Iterator[Any]:
    """The parts of an import that bind a name each; none of one that binds all there is."""
    source = node.child_by_field_name("module_name")
    for child in node.named_children:
        if child.type in _LISTS:
            yield from _clauses(child)
        elif child.type in _CLAUSES and child != source:
            yield child
        elif child.type in ("asterisk", "wildcard_import", "namespace_import"):
            return


def _bound(syntax: Syntax, clause: Any) -> str:
    alias = clause.child_by_field_name("alias")
    text = syntax.of(alias if alias is not None else clause)
    if clause.type == "dotted_name" and alias is None and clause.parent.type == "import_statement" and "." in text:
        return ""  # binds the package at its front, which others may need
    return re.split(r"[.\\\s]", text.strip())[-1]


def _line(syntax: Syntax, span: tuple[int, int]) -> tuple[int, int]:
    """A span with the line around it, where it has that for itself."""
    start, end = syntax.text.rfind(b"\n", 0, span[0]) + 1, syntax.text.find(b"\n", span[1])
    end = end if end >= 0 else len(syntax.text) - 1
    alone = not syntax.text[start : span[0]].strip() and not syntax.text[span[1] : end].strip(b" \t\r;")
    return (start, end + 1) if alone else span


def missing_imports(draft: Draft, file: int) -> Iterator[Amendment]:
    """Imports that the changes of a file need and that it lacks."""
    needs = _unbound(draft, file)
    if not needs:
        return
    missing, syntax = sorted(needs, key=lambda each: (each.home, each.name)), draft.sources.syntax(file)
    placed: dict[ImportPlace | None, dict[str, str]] = defaultdict(dict)
    for home, found in groupby(missing, key=lambda each: each.home):
        group = list(found)
        if taken := _taken_too(draft, file, group):
            yield from taken
            continue
        lines = import_lines(draft, file, group, syntax.path)
        for line in lines:
            names = [each.name for each in group if len(lines) == 1 or re.search(rf"\b{re.escape(each.name)}\b", line)]
            said = ", ".join(f"`{home if name == EVERYTHING else name}`" for name in dict.fromkeys(names))
            placed[place_of(syntax, line, partial(_is_of_tree, draft))].setdefault(line, said)
    for place, said_of in placed.items():
        action = f"imports {', '.join(said_of.values())}"
        if place is None:
            yield imported(syntax, list(said_of), action)
        else:
            margin = syntax.indent_at(place.at)
            end = syntax.line_end * (2 if place.apart else 1)
            parts = [f"{end}{margin}{each}" if place.behind else f"{each}{syntax.line_end}{margin}" for each in said_of]
            tail = f"{syntax.line_end}{margin}" if place.apart and not place.behind else ""
            yield Amendment(place.at, place.at, IMPORTS, "".join(parts) + tail, action)


def _unbound(draft: Draft, file: int) -> set[Need]:
    """What the changes of a file name and it has not, each name once."""
    language = draft.sources.language_of_file(file)
    named = (need for need in _needs(draft, file) if need.home or language.names_global_types)
    needs = {need for need in named if not is_bound(draft.sources.codebase, file, need)}
    twice = {each.name for each in needs if each.home in language.twin_modules[:1]}
    return {each for each in needs if each.home not in language.twin_modules[1:] or each.name not in twice}


def _taken_too(draft: Draft, file: int, needs: list[Need]) -> list[Amendment]:
    """Further names in an import that takes others out of the same module already, in their order; [] where none does."""
    syntax = draft.sources.syntax(file)
    if any(
        each.whole or each.member or _is_only_type(draft, each, draft.sources.language_of_file(file).suffix) for each in needs
    ):
        return []
    taken = next((own for node in syntax.root.named_children if (own := _names_taken(draft, file, node, needs[0].home))), [])
    if not taken:
        return []
    known = [syntax.of(each) for each in taken]
    apart = syntax.line_of(taken[-1].start_byte) != syntax.line_of(taken[0].parent.start_byte)
    gap = f",{syntax.line_end}{syntax.indent_at(taken[-1].start_byte)}" if apart else ", "
    found = []
    for each in sorted(each.name for each in needs):
        behind = next((node for node in taken if syntax.of(node) > each), None) if known == sorted(known) else None
        at, text = (behind.start_byte, f"{each}{gap}") if behind is not None else (taken[-1].end_byte, f"{gap}{each}")
        found.append(Amendment(at, at, IMPORTS, text, f"imports `{each}`"))
    return found


def _names_taken(draft: Draft, file: int, node: Any, home: str) -> list[Any]:
    """The names that a statement takes out of a module, if it is that of an import which can take further ones."""
    syntax, path = draft.sources.syntax(file), draft.sources.symbols.files[file].path
    if node.type == "import_from_statement":
        module = node.child_by_field_name("module_name")
        return node.children_by_field_name("name") if module is not None and syntax.of(module) == home else []
    source = node.child_by_field_name("source") if node.type == "import_statement" else None
    if not syntax.traits.styled_imports or source is None or syntax.of(source).strip("\"'") != relative(home, path):
        return []
    clause = next((each for each in node.named_children if each.type == "import_clause"), None)
    taken = next((each for each in clause.named_children if each.type == "named_imports"), None) if clause else None
    return taken.named_children if taken is not None and not any(each.type == "type" for each in node.children) else []


def _is_of_tree(draft: Draft, name: str) -> bool:
    """Whether a dotted name is that of a module of the tree."""
    return name.partition(".")[0] in _roots(draft.sources.codebase)


@remembered
def _roots(codebase: Codebase) -> frozenset[str]:
    """What dotted names of modules of the tree begin with."""
    modules = next((each for each in codebase.symbols.modules.values() if each.dotted), None)
    return frozenset(each.partition(".")[0] for each in modules.by_name) if modules is not None else frozenset()


def import_lines(draft: Draft, file: int, needs: Iterable[Need], path: str) -> list[str]:
    """The imports of some names for a file at `path`, in the style of another."""
    language = draft.sources.language_of_file(file)
    if not language.styled_imports:
        return [language.import_line(each, path) for each in needs]
    style = style_of(draft.sources.codebase, file)
    if any(draft.sources.symbols.file_of[number] == file for number, _ in draft.state.tokens):  # a type in a marked constructor
        style = style._replace(types_apart=True)
    lines = [
        styled(
            language.import_line(each, path),
            style,
            only_type=_is_only_type(draft, each, draft.sources.language_of_file(file).suffix),
        )
        for each in needs
    ]
    return _together(lines)


def _together(lines: Iterable[str]) -> list[str]:
    """Lines that take names out of modules, those of one module joined, in order of their first name."""
    found: dict[tuple[str, str], list[str]] = {}
    for line in lines:
        parts = _TAKEN.fullmatch(line)
        found.setdefault((parts[1], parts[3]) if parts else (line, ""), []).append(parts[2] if parts else "")
    return [f"{head}{', '.join(dict.fromkeys(names))}{tail}" for (head, tail), names in found.items()]


def _is_only_type(draft: Draft, need: Need, suffix: str) -> bool:
    """Whether a name of a module is that of an interface."""
    home, symbols = need.home.removeprefix("/"), draft.sources.symbols
    if text := draft.state.new_files.get(f"{home}{suffix}"):
        return f"export interface {need.name}" in text
    file = next((each.by_path.get(home, -1) for each in symbols.modules.values() if not each.dotted), -1)
    return file >= 0 and any(each.kind == "interface" and each.name == need.name for each in symbols.files[file].types)


def _needs(draft: Draft, file: int) -> Iterator[Need]:
    """What the changes of a file name."""
    symbols = draft.sources.symbols
    first = symbols.first[file]
    yield from draft.state.named.get(file, ())
    for number in range(first, first + len(symbols.files[file].types)):
        given = draft.state.dependencies_of(number)
        for each in given:
            yield from _needs_of_dependency(draft, number, each, file)
        inherited = draft.sources.inherited(number) if given else None
        if inherited is not None and draft.sources.language(number).forwards_plain_parameters:  # they are repeated there
            home, types = symbols.file_of[inherited[0]], " ".join(each.type for each in inherited[1].parameters)
            yield from needs_of_text(draft.sources.codebase, home, inherited[0] - symbols.first[home], types)
        for each in draft.state.dependencies_of(symbols.whole.get(number, number)):
            if any(home == file for home, _ in each.elsewhere):
                yield from each.value_needs
    for number in sorted({*draft.state.wired, *draft.state.retired}):
        if any(home == file for home, _ in draft.arguments.sites_supplied(number)):
            yield from _needs_of_wiring(draft, number, file, set())


def _needs_of_dependency(draft: Draft, number: int, given: Dependency, file: int) -> Iterator[Need]:
    """What a class names of a dependency: its type, its token, and while it may be left out what stands for it."""
    state = draft.state
    if draft.sources.language(number).typed:
        yield from given.typed.needs
        yield from given.place_needs
    if (token := draft.arguments.marked_by(number, given)) is not None:
        yield from token.needs
    if state.keeps_legacy(number) or draft.sources.delegating_constructors(number):  # those pass it on
        if draft.sources.is_made_of_fields(number):
            yield Need("field", "dataclasses")
        yield from given.default.needs
        for made in given.default.makes:
            if made in state.retired:
                yield from _needs_of_wiring(draft, made, file, set())
    if number in state.legacy and 0 <= given.default.file != file:  # taken from another part of the class
        local = draft.sources.symbols.local_in(number, given.default.file)
        yield from needs_of_text(draft.sources.codebase, given.default.file, local, given.default.text)


def _needs_of_wiring(draft: Draft, number: int, file: int, seen: set[int]) -> Iterator[Need]:
    seen.add(number)
    for each in draft.state.dependencies_of(number):
        yield from each.default.needs
        if each.default.file >= 0:
            local = draft.sources.symbols.local_in(each.owner, each.default.file)
            named = needs_of_text(draft.sources.codebase, each.default.file, local, each.default.text)
            yield from settled_needs(named, (*each.typed.needs, *each.default.needs))
        for made in each.default.makes:
            if made in draft.state.wired | draft.state.retired and made not in seen:
                yield from _needs_of_wiring(draft, made, file, seen)
