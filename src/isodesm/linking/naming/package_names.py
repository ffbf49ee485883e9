"""Names in packages: single import, same package, static import, wildcard import, implicit package."""

from __future__ import annotations

from isodesm.facts.records import Import
from isodesm.linking.bonds import UNKNOWN
from isodesm.linking.naming.names import NO_PREFIX, FileNames, Prefix, TypeTree


class PackageNames(FileNames):
    """One file of a language whose files belong to packages and import types one by one or by package."""

    def __init__(self, hierarchy: TypeTree, number: int) -> None:
        super().__init__(hierarchy, number)
        self.single: dict[str, Import] = {}
        self._dotted: dict[str, int] = {}
        for each in self.facts.imports:
            if each.wildcard:
                self.wildcards.append(each)
            elif each.static:
                self.static.setdefault(each.alias, []).append(each)
            else:
                self.single[each.alias] = each

    def look_up(self, name: str, space: str) -> int:
        """In the language's own order."""
        if name in self.single:
            target = self.qualified(self.single[name].name)
            return target if target != UNKNOWN else self.hierarchy.external(self.single[name].name)
        package = self.facts.package
        if (target := self.find(f"{package}.{name}" if package else name)) != UNKNOWN:
            return target
        for each in self.static.get(name, ()):
            if (target := self.qualified(each.name)) != UNKNOWN:
                return target
        implicit = self.catalogue.implicit.package
        for each in (*self.wildcards, Import(name=implicit, wildcard=True)):
            if (target := self._below(each.name, name)) != UNKNOWN:
                return target
        known = self.symbols.catalogues.known_types(self.facts.language)
        candidates = [f"{each.name}.{name}" for each in self.wildcards if not each.static]
        for qualified in (f"{implicit}.{name}", *candidates):
            if qualified in known:
                return self.hierarchy.external(qualified)
        return UNKNOWN

    def _below(self, container: str, name: str) -> int:
        """The type `name` in a package, or as a member of the type, called `container`."""
        if (target := self.find(f"{container}.{name}")) != UNKNOWN:
            return target
        if container not in self.symbols.packages or container in self.by_name:
            outer = self.qualified(container)
            if outer >= 0:
                return self.hierarchy.member_type(outer, name)
        return UNKNOWN

    def best_known(self, name: str) -> str:
        """The only package that is imported whole from outside, if there is just one."""
        outside = [each.name for each in self.wildcards if not each.static and each.name not in self.symbols.packages]
        return f"{outside[0]}.{name}" if len(outside) == 1 else name

    def qualified(self, name: str) -> int:
        found = self._dotted.get(name)
        if found is None:
            found = self.find(name)
            if found == UNKNOWN:
                container, _, last = name.rpartition(".")
                if container and "." in container and container not in self.symbols.packages:
                    outer = self.qualified(container)
                    found = self.hierarchy.member_type(outer, last) if outer >= 0 else UNKNOWN
                elif container in self.by_name:
                    found = self.hierarchy.member_type(self.find(container), last)
            self._dotted[name] = found
        return found

    def type_prefix(self, parts: list[str], local: int, member: int, at: int = -1) -> Prefix:
        target = self.is_type(parts[0], local, member)
        used = 1
        if target == UNKNOWN:
            target, used = self._package_prefix(parts)
            if target == UNKNOWN:
                return NO_PREFIX
        return self.step_chain(target, parts, used)

    def _package_prefix(self, parts: list[str]) -> tuple[int, int]:
        for end in range(2, len(parts) + 1):
            name = ".".join(parts[:end])
            if name in self.by_name:
                return self.qualified(name), end
            if all(part.islower() for part in parts[: end - 1]) and parts[end - 1][:1].isupper():
                return self.hierarchy.external(name), end
        return UNKNOWN, 0
