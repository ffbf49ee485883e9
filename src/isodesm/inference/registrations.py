"""What containers are told: registrations read from calls, annotations, decorator metadata and definition files.

Facts only; whether they fit together is for the diagnosis to say.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping

import msgspec

from isodesm.catalogue import RegistrationRules
from isodesm.facts import typetext
from isodesm.facts.definitions import Definition
from isodesm.facts.records import Annotation, DeclaredType, FileSites, Site
from isodesm.linking.hierarchy import UNKNOWN, Hierarchy
from isodesm.linking.member_values import Scope
from isodesm.linking.naming.module_names import ModuleNames
from isodesm.linking.symbols import simple_name
from isodesm.linking.values import FileValues

_METADATA_KEY = re.compile(r"[\"']?(\w+)[\"']?\s*:\s*")
_MADE = re.compile(r"\bnew\s+([\w.\\]+)")
_MADE_BY_CALL = re.compile(r"(?<![\w.])((?:\w+\.)*[A-Z]\w*)\(")
"""What a function makes: with a word for it, or by calling a class."""
_LIST = re.compile(r"[\"']?(\w+)[\"']?\s*[:=]\s*\[")


class Registration(msgspec.Struct, frozen=True, omit_defaults=True):
    """One statement that tells a container what serves what, and for how long.

    `abstraction` and `implementation` are qualified names ('' where none is named), `lifetime` is `singleton`, `scoped`,
    `transient` or '' where nothing says so. `how`: `call`, `annotation`, `method`, `metadata`, `definition`. `scope` is the
    class, module or file that holds the registration, where it holds for a part only. `id` is a key that is no type. An
    `alias` stands for what its implementation is registered as, and lives as long as that.
    """

    abstraction: str
    implementation: str
    lifetime: str
    how: str
    file: str
    line: int
    column: int
    scope: str = ""
    id: str = ""
    factory: bool = False
    arguments: tuple[str, ...] = ()
    alias: bool = False


def find_registrations(
    hierarchy: Hierarchy,
    content: Callable[[int], FileSites],
    definitions: tuple[Definition, ...],
    offers: Mapping[int, Mapping[int, str]],
) -> tuple[Registration, ...]:
    """Every registration of the tree, in order of file and place.

    `content(file)` gives the sites of a file, `offers` by file and site the calls that put something into a home-made
    registry, with the lifetime it has there.
    """
    found: list[Registration] = []
    symbols = hierarchy.symbols
    for file, facts in enumerate(symbols.files):
        rules = symbols.catalogues.of(facts.language).registrations
        if not rules.is_empty or file in offers:
            found += _Reader(hierarchy, file, content(file), rules, offers.get(file, {})).registrations()
    found += [_of_definition(each) for each in definitions]
    return tuple(sorted(found, key=lambda each: (each.file, each.line, each.column, each.abstraction)))


def _of_definition(given: Definition) -> Registration:
    lifetimes = {"": "singleton", "prototype": "transient", "request": "scoped", "session": "scoped"}
    return Registration(
        abstraction=given.id,
        implementation=given.alias or given.type,
        lifetime=lifetimes.get(given.scope, given.scope),
        how="definition",
        file=given.path,
        line=given.line,
        column=given.column,
        id=given.id,
        factory=bool(given.factory),
        arguments=tuple(each.service or each.value for each in given.arguments),
    )


class _Reader:
    """The registrations of one source file."""

    def __init__(
        self, hierarchy: Hierarchy, file: int, content: FileSites, rules: RegistrationRules, offers: Mapping[int, str]
    ) -> None:
        self.offers = offers
        """Sites that put something into a home-made registry, with its lifetime."""
        self.hierarchy, self.symbols, self.file, self.rules = hierarchy, hierarchy.symbols, file, rules
        self.facts = self.symbols.files[file]
        self.values = FileValues(hierarchy, file, content)
        self.content = content

    def registrations(self) -> Iterator[Registration]:
        yield from self._from_calls()
        for local, declared in enumerate(self.facts.types):
            yield from self._from_type(local, declared)

    def _name(self, target: int) -> str:
        if target == UNKNOWN:
            return ""
        return self.symbols.names[target] if target >= 0 else self.hierarchy.externals.strings[-1 - target]

    def _place(self, line: int, column: int) -> dict[str, object]:
        return {"file": self.facts.path, "line": line, "column": column}

    # --- calls ------------------------------------------------------------------------------

    def _from_calls(self) -> Iterator[Registration]:
        chained: dict[int, list[tuple[int, Site]]] = {}
        for index, site in enumerate(self.content.sites):
            if site.kind == "call" and site.receiver >= 0:
                chained.setdefault(site.receiver, []).append((index, site))
        for index, site in enumerate(self.content.sites):
            known = site.kind == "call" and (site.name in self.rules.calls or index in self.offers)
            if known and (found := self._of_call(index, site, chained)):
                yield found

    def _of_call(self, index: int, site: Site, chained: dict[int, list[tuple[int, Site]]]) -> Registration | None:
        lifetime = self.offers.get(index) or self.rules.calls[site.name]
        types, key, factory = self._named(index, site)
        abstraction, implementation = (types[0], types[-1]) if types else ("", "")
        at, alias = index, False
        followers = chained.get(at, [])
        while followers:
            at, following = followers[0]
            lifetime = self.rules.lifetimes.get(following.name, lifetime)
            named, _, made = self._named(at, following)
            if following.name in self.rules.implementations:
                implementation, factory = named[-1] if named else implementation, factory or made
                alias = following.name in self.rules.aliases
            elif following.name in self.rules.abstractions and named:
                abstraction = named[0]
            lifetime = next(
                (self.rules.lifetimes[n] for n in re.findall(r"\w+", following.arguments) if n in self.rules.lifetimes),
                lifetime,
            )
            followers = chained.get(at, [])
        if not abstraction and (alias or not implementation) and not (key and index in self.offers):
            return None  # nothing is named, or nothing that could be said of it
        lifetime = next(
            (self.rules.lifetimes[n] for n in re.findall(r"\w+", site.arguments) if n in self.rules.lifetimes), lifetime
        )
        return Registration(
            abstraction=abstraction or implementation,
            implementation=implementation,
            lifetime=lifetime,
            how="call",
            id=key,
            factory=factory,
            alias=alias,
            **self._place(site.place.line, site.place.column),
        )

    def _named(self, index: int, site: Site) -> tuple[list[str], str, bool]:
        """The types that a call names, in its type arguments or arguments; a key that is none; whether a function makes it."""
        scope = Scope(self.file, site.type, site.member)
        types = [self._name(self.values.of_text(text, scope).target) for text in typetext.arguments(site.generics)]
        key, factory = "", False
        for part in typetext.split_top(site.arguments):
            function = "=>" in part or "->" in part or part.startswith(("lambda", "function", "fn"))
            if function:
                factory = True
                made = _MADE_BY_CALL.search(part) if self.values.names.dialect.calls_create else _MADE.search(part)
                if made:
                    types.append(self._name(self.values.of_text(made.group(1), scope).target))
            elif part.startswith("new ") and not types and site.name not in self.rules.instances:
                continue  # something handed over, as to any other method of such a name
            elif name := self._class_in(part, site, scope):
                types.append(name)
            elif re.fullmatch(r"[\"'].*[\"']", part) and not key:
                key = part.strip("\"'")
        return [each for each in types if each], key, factory

    def _class_in(self, part: str, site: Site, scope: Scope) -> str:
        """The class that an argument stands for: a class literal, the class itself, or one among its fields."""
        if made := re.match(r"(?:typeof\(|new\s+)?([\w.\\<>]+?)(?:\)|\.class|::class|\(.*\))?$", part):
            name = made.group(1)
            literal = part != name
            if literal and not part.endswith(")") or part.startswith(("typeof", "new ")):
                return self._name(self.values.of_text(name, scope).target)
            if (
                self.values.names.dialect.style == "modules"
                and self.values.variable(name.partition(".")[0], site.place.start) is None
            ):
                chain = self.values.chain(name, site)
                is_class = (
                    chain.base != UNKNOWN and not chain.field and not (chain.base >= 0 and self.symbols.is_module(chain.base))
                )
                return self._name(chain.base) if is_class else ""
        if part.startswith("{"):
            fields = dict(_fields(part))
            for key in self.rules.metadata_implementations:
                if key in fields:
                    return self._class_in(fields[key], site, scope)
        return ""

    # --- annotations and metadata ---------------------------------------------------------------

    def _from_type(self, local: int, declared: DeclaredType) -> Iterator[Registration]:
        own = self._name(self.values.names.type_number(local))
        for annotation in declared.modifiers.annotations:
            simple = simple_name(annotation.name)
            if simple in self.rules.annotations and declared.kind != "interface":
                yield Registration(
                    abstraction=own,
                    implementation=own,
                    how="annotation",
                    lifetime=self._annotated_lifetime(declared, self.rules.annotations[simple]),
                    **self._place(declared.place.line, declared.place.column),
                )
            listed = simple in self.rules.metadata
            for key in self.rules.metadata[simple] if listed else _LIST.findall(annotation.arguments):
                yield from self._from_metadata(annotation, key, local, declared, own, listed)
        for position, member in enumerate(declared.members):
            names = [simple_name(each.name) for each in member.modifiers.annotations]
            found = next((each for each in names if each in self.rules.methods), None)
            if found is not None and member.kind == "method":
                result = self._name(self.values.of_text(member.type, Scope(self.file, local, position)).target)
                yield Registration(
                    abstraction=result,
                    implementation="",
                    lifetime=self.rules.methods[found],
                    how="method",
                    scope=own,
                    factory=True,
                    **self._place(member.place.line, member.place.column),
                )

    def _annotated_lifetime(self, declared: DeclaredType, usual: str) -> str:
        for annotation in declared.modifiers.annotations:
            for word in (simple_name(annotation.name), *re.findall(r"\w+", annotation.arguments)):
                if word in self.rules.lifetimes:
                    return self.rules.lifetimes[word]
        return usual

    def _from_metadata(
        self, annotation: Annotation, key: str, local: int, declared: DeclaredType, own: str, listed: bool
    ) -> Iterator[Registration]:
        """Entries of a list of providers: a class, or a token with what serves it.

        An annotation that no catalogue lists counts for the classes in its lists that the constructor takes.
        """
        names = self.values.names
        taken = {typetext.head(p.type) for m in declared.members if m.kind == "constructor" for p in m.parameters}
        for found in _LIST.finditer(annotation.arguments):
            if found.group(1) != key:
                continue
            inside = annotation.arguments[found.end() :]
            for entry in typetext.split_top(inside[: _closing(inside)]):
                fields = dict(_fields(entry)) if entry.startswith("{") else {}
                token = fields.get("provide", entry)
                served = next((fields[each] for each in self.rules.metadata_implementations if each in fields), token)
                if token.startswith(("...", "[")) or (not listed and token not in taken) or not isinstance(names, ModuleNames):
                    continue
                yield Registration(
                    abstraction=self._bound_name(token),
                    implementation=self._bound_name(served),
                    how="metadata",
                    scope=own,
                    lifetime="singleton",
                    factory="useFactory" in fields,
                    alias=not fields.keys().isdisjoint(self.rules.aliases),
                    **self._place(declared.place.line, declared.place.column),
                )

    def _bound_name(self, text: str) -> str:
        if not re.fullmatch(r"[\w.$]+", text):
            return text.strip("\"'")
        prefix = self.values.names.type_prefix(text.split("."), -1, -1)
        return self._name(prefix.target) if prefix.target != UNKNOWN and not prefix.rest else text


def _fields(text: str) -> Iterator[tuple[str, str]]:
    """Name and value of each entry of an object literal."""
    for part in typetext.split_top(text.strip()[1:-1]):
        if found := _METADATA_KEY.match(part):
            yield found.group(1), part[found.end() :].strip()


def _closing(text: str) -> int:
    """Index of the bracket that closes a list whose opening one stands in front of `text`."""
    depth = 1
    for index, char in enumerate(text):
        depth += (char in "[({") - (char in "])}")
        if depth == 0:
            return index
    return len(text)
