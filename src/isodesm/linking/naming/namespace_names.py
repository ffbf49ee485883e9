"""Names in namespaces: the namespaces around, aliases, namespaces in use; or, where names are complete, aliases only."""

from __future__ import annotations

from isodesm.facts import typetext
from isodesm.facts.records import DeclaredType, Import
from isodesm.linking.bonds import UNKNOWN
from isodesm.linking.naming.names import NO_PREFIX, FileNames, Prefix, TypeTree


class NamespaceNames(FileNames):
    """One file of a language whose types live in namespaces that files open and use."""

    def __init__(self, hierarchy: TypeTree, number: int) -> None:
        super().__init__(hierarchy, number)
        self.aliases: dict[str, list[Import]] = {}
        for each in (*self.facts.imports, *self._global_imports()):
            if each.wildcard:
                self.wildcards.append(each)
            elif not each.static:
                self.aliases.setdefault(each.alias.lower() if self.dialect.ignores_case else each.alias, []).append(each)
        self.climbs = self.dialect.separator == "."
        """Whether the namespaces around are searched, and whole namespaces are used; else names are made complete."""
        self._candidates: dict[str, tuple[str, ...]] = {}

    def _global_imports(self) -> list[Import]:
        folder = self.facts.path.rpartition("/")[0] + "/"
        return [
            each
            for home, each in self.hierarchy.imports_everywhere(self.facts.language)
            if folder.startswith(home) and each not in self.facts.imports
        ]

    # --- simple names -------------------------------------------------------------------------

    def look_up(self, name: str, space: str) -> int:
        if not self.climbs:
            full = self._complete(name, space)
            target = self.find(full)
            return target if target != UNKNOWN else self.hierarchy.external(full)
        for around in self._around(space):
            if (target := self.find(f"{around}.{name}" if around else name)) != UNKNOWN:
                return target
        for each in self.aliases.get(name, ()):
            targets = (self.qualified(f"{around}.{each.name}" if around else each.name) for around in self._around(space))
            target = next((found for found in targets if found != UNKNOWN), UNKNOWN)
            return target if target != UNKNOWN else self.hierarchy.external(each.name)
        for used in self._used(space):
            if (target := self.find(f"{used}.{name}")) != UNKNOWN:
                return target
        known = self.symbols.catalogues.known_types(self.facts.language)
        for used in self._used(space):
            if f"{used}.{name}" in known:
                return self.hierarchy.external(f"{used}.{name}")
        return UNKNOWN

    def _around(self, space: str) -> tuple[str, ...]:
        """A namespace and those around it, innermost first, the nameless one last."""
        parts = space.split(".") if space else []
        return tuple(".".join(parts[:end]) for end in range(len(parts), -1, -1))

    def _used(self, space: str) -> tuple[str, ...]:
        """Namespaces, and types with static members, that are in use, under each full name that they may have."""
        found = self._candidates.get(space)
        if found is None:
            names = []
            for each in self.wildcards:
                name = each.name.removeprefix("global.")
                names += [f"{around}.{name}" if around else name for around in self._around(space)]
            found = self._candidates[space] = tuple(
                name
                for name in dict.fromkeys(names)
                if name in self.symbols.packages or name in self.by_name or any(name == each.name for each in self.wildcards)
            )
        return found

    def _complete(self, name: str, space: str) -> str:
        """A name of a language where each is either complete or relative to an alias or the namespace."""
        if name.startswith("\\"):
            return name[1:]
        first, _, rest = name.partition("\\")
        if first.lower() == "namespace":
            return f"{space}\\{rest}" if space else rest
        found = self.aliases.get(first.lower(), ())
        if found:
            alias = found[-1].name if len(found) == 1 else self._alias_in(found, space)
            return f"{alias}\\{rest}" if rest else alias
        return f"{space}\\{name}" if space else name

    def _alias_in(self, found: list[Import], space: str) -> str:
        """Of several aliases of one name, the one in the part of the file that opens the namespace."""
        starts = [each.place.start for each in self.facts.types if each.space == space and each.kind != "module"]
        for each in reversed(found):
            if each.within == (0, 0) or any(each.within[0] <= start < each.within[1] for start in starts):
                return each.name
        return found[0].name

    def best_known(self, name: str) -> str:
        outside = [each.name for each in self.wildcards if not each.static and each.name not in self.symbols.packages]
        return f"{outside[0]}.{name}" if len(outside) == 1 else name

    def resolve_type(self, text: str, local: int, member: int = -1) -> int:
        target = super().resolve_type(text, local, member)
        if target < 0 or not self.climbs:
            return target
        arity = len(typetext.arguments(text)) if "<" in text else 0
        if arity == self._arity(target):
            return target
        same = self.by_name.get(self.symbols.names[target], ())
        fitting = next((each for each in same if self._arity(each) == arity), None)
        if fitting is not None:
            return fitting
        return self.hierarchy.external(typetext.head(text)) if arity else target

    def _arity(self, number: int) -> int:
        generics = self.symbols.types[number].generics
        return len(typetext.type_parameters(generics)) if generics else 0

    # --- dotted names -------------------------------------------------------------------------

    def qualified(self, name: str) -> int:
        return self.find(name.removeprefix("global."))

    def dotted(self, name: str, local: int) -> int:
        """A dotted name that begins with a namespace, whole or relative to one around or in use."""
        space = self.facts.types[local].space if local >= 0 else ""
        first, _, rest = name.partition(".")
        for each in self.aliases.get(first, ()):
            return self.qualified(f"{each.name}.{rest}")
        for around in (*self._around(space), *self._used(space)):
            if (target := self.qualified(f"{around}.{name}" if around else name)) != UNKNOWN:
                return target
        return UNKNOWN

    def external_dotted(self, name: str) -> str:
        first, _, rest = name.partition(".")
        for each in self.aliases.get(first, ()):
            return f"{each.name}.{rest}"
        return name

    def type_prefix(self, parts: list[str], local: int, member: int, at: int = -1) -> Prefix:
        if parts[0] in self.dialect.keyword_types:
            return self.step_chain(self.hierarchy.external(self.dialect.keyword_types[parts[0]]), parts, 1)
        target = self._simple(parts[0], local, member, guess=False)
        if target == UNKNOWN and self.climbs:
            found = self._namespace_prefix(parts, local)
            if found.target != UNKNOWN:
                return found
            target = self.is_type(parts[0], local, member)
        return NO_PREFIX if target == UNKNOWN else self.step_chain(target, parts, 1)

    def _namespace_prefix(self, parts: list[str], local: int) -> Prefix:
        """A chain that begins with names of namespaces, one of the tree or one in use from outside."""
        declared: DeclaredType | None = self.facts.types[local] if local >= 0 else None
        space = declared.space if declared else ""
        if parts[0] == "global":
            parts = parts[1:]
        for around in (*self._around(space), *(each for each in self._used(space) if each in self.symbols.packages)):
            base = f"{around}." if around else ""
            if base + parts[0] not in self.symbols.packages:
                continue
            for end in range(2, len(parts) + 1):
                target = self.find(base + ".".join(parts[:end]))
                if target != UNKNOWN:
                    return self.step_chain(target, parts, end)
        known = self.symbols.catalogues.known_types(self.facts.language)
        for end in range(2, len(parts) + 1):
            if ".".join(parts[:end]) in known:
                return Prefix(self.hierarchy.external(".".join(parts[:end])), tuple(parts[end:]))
        return NO_PREFIX
