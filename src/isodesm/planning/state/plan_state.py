"""What a plan has come to so far, as a value: each change gives the next one, and to undo is to keep the one before."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any, TypeVar

import msgspec

from isodesm.planning.model.abstraction import Abstraction
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.code import Need
from isodesm.planning.model.decision import Decision
from isodesm.planning.model.dependency import Dependency, Forwarding, Token
from isodesm.planning.model.gateways import FactoryInterface, StaticGateway
from isodesm.planning.model.proposal import Proposal
from isodesm.planning.model.step import Written

_DECLARED = re.compile(
    r"(?m)^[ \t]*+(?:(?:public|export|abstract|internal|final|sealed)[ \t]++)*+(?:class|interface)[ \t]++(\w++)"
)
"""A type in a new file, as all languages with types declare it."""
Key = TypeVar("Key")
Value = TypeVar("Value")


class PlanState(msgspec.Struct, frozen=True, kw_only=True):
    """All that steps have noted. Types and files go by their numbers; no mapping in it is ever changed in place."""

    # --- constructors ---------------------------------------------------------------------
    dependencies: Mapping[int, tuple[Dependency, ...]] = {}
    """Class to what its constructor takes by now, in that order."""
    legacy: frozenset[int] = frozenset()
    """Classes whose callers may still leave dependencies out: by a legacy constructor, or by defaults."""
    retired: frozenset[int] = frozenset()
    """Those of them that have lost it again."""
    wired: frozenset[int] = frozenset()
    """Classes that the composition roots inject everything into."""
    forwarding: Mapping[int, tuple[Forwarding, ...]] = {}
    """Class to the places that forward what it takes to it."""
    removed_parameters: Mapping[int, int] = {}
    """Class to the place of the parameter that its constructor takes no more."""
    out_of_reach: frozenset[int] = frozenset()
    """Classes of which the composition roots can't name the dependencies."""
    proposals: Mapping[tuple[int, str], Proposal] = {}
    """Class and name of a dependency to the proposal that led to it."""

    asked: Mapping[Decision, frozenset[str]] = {}
    """Decisions that come of steps to the members that they ask of their targets."""

    # --- types that steps have written ----------------------------------------------------
    interfaces: Mapping[int, Abstraction] = {}
    """Class to the interface that a step has extracted from it, or given the member that it lacked."""
    adapters: Mapping[int, StaticGateway] = {}
    """Static class to the adapter in its place."""
    factories: Mapping[int, FactoryInterface] = {}
    """Class to the interface of its factory."""
    beside: frozenset[tuple[int, str]] = frozenset()
    """Class and purpose of what has been written beside it."""
    internal_names: frozenset[str] = frozenset()
    """Names of written types that only their own assembly knows."""

    # --- containers -----------------------------------------------------------------------
    registered: frozenset[int] = frozenset()
    """Classes that steps have registered in code."""
    service_ids: Mapping[int, str] = {}
    """Class to the id under which a step has defined it."""
    service_aliases: frozenset[str] = frozenset()
    """Names of interfaces under which steps have made services known."""
    injected: frozenset[tuple[int, str]] = frozenset()
    """Class and name of what its container injects, for that is registered."""
    container_factories: frozenset[int] = frozenset()
    """Classes for which a step has written a factory that their definitions name."""
    old_annotations: Mapping[int, str] = {}
    """Class to the annotation by which a container knows the constructor that it goes on calling."""
    new_annotations: Mapping[int, str] = {}
    """Class to the annotation that its new constructor bears."""
    tokens: Mapping[tuple[int, str], Token] = {}
    """Class and name of a dependency to the name by which its container may be given that."""

    # --- files ----------------------------------------------------------------------------
    edits: Mapping[int, tuple[Amendment, ...]] = {}
    """File to amendments that belong to no constructor: bases, visibility, registrations."""
    named: Mapping[int, frozenset[Need]] = {}
    """File to what those name."""
    new_files: Mapping[str, str] = {}
    new_types: frozenset[str] = frozenset()
    """Names of the types in those."""
    contents: Mapping[str, bytes] = {}
    """Path of each file that is no source, a definition file or a list of sources, to its bytes by now."""
    remarks: tuple[tuple[str, str], ...] = ()
    """What was said of changes of such files, with their paths, in order."""
    shown: Mapping[int, tuple[Amendment, ...]] = {}
    """File to its amendments as the last step that touched it left them."""
    written: tuple[Written, ...] = ()
    """The files of the attempt at hand, as they were and as they became."""

    def dependencies_of(self, number: int) -> tuple[Dependency, ...]:
        """What the constructor of a class takes by now that it did not take before the plan."""
        return self.dependencies.get(number, ())

    def forwarding_to(self, number: int) -> tuple[Forwarding, ...]:
        """The places that forward what a class takes to it."""
        return self.forwarding.get(number, ())

    def keeps_legacy(self, number: int) -> bool:
        """Whether callers of a class may leave out what it takes."""
        return number in self.legacy and number not in self.retired

    # --- the next one ---------------------------------------------------------------------

    def _with(self, **changes: Any) -> PlanState:
        return msgspec.structs.replace(self, **changes)

    def with_dependency(self, given: Dependency) -> PlanState:
        """The state in which a constructor takes one thing more."""
        return self.with_dependencies(given.owner, (*self.dependencies_of(given.owner), given))

    def with_dependencies(self, number: int, given: tuple[Dependency, ...]) -> PlanState:
        """The state in which a constructor takes these."""
        return self._with(dependencies=put(self.dependencies, number, given))

    def with_legacy(self, number: int) -> PlanState:
        """The state in which a class keeps working for callers that leave things out."""
        return self._with(legacy=self.legacy | {number})

    def with_wired(self, *numbers: int) -> PlanState:
        """The state in which composition roots inject everything into some classes."""
        return self._with(wired=self.wired.union(numbers))

    def with_retired(self, number: int) -> PlanState:
        """The state in which a class has lost its legacy constructor."""
        return self._with(retired=self.retired | {number})

    def with_forwarding(self, number: int, *added: Forwarding) -> PlanState:
        """The state in which further places forward what a class takes."""
        return self._with(forwarding=put(self.forwarding, number, (*self.forwarding_to(number), *added)))

    def without_parameter(self, number: int, index: int) -> PlanState:
        """The state in which a constructor has lost one of its own parameters."""
        return self._with(removed_parameters=put(self.removed_parameters, number, index))

    def with_out_of_reach(self, number: int) -> PlanState:
        """The state in which it is known that roots can't name what a class takes."""
        return self._with(out_of_reach=self.out_of_reach | {number})

    def with_proposal(self, number: int, name: str, proposal: Proposal) -> PlanState:
        """The state in which it is known what led to a dependency."""
        return self._with(proposals=put(self.proposals, (number, name), proposal))

    def with_asked(self, decision: Decision, names: frozenset[str]) -> PlanState:
        """The state in which a further class asks for members of a target."""
        return self._with(asked=put(self.asked, decision, names))

    def with_interface(self, target: int, abstraction: Abstraction) -> PlanState:
        """The state in which an interface for a class is written."""
        return self._with(interfaces=put(self.interfaces, target, abstraction))

    def with_adapter(self, target: int, gateway: StaticGateway) -> PlanState:
        """The state in which an adapter for a static class is written."""
        return self._with(adapters=put(self.adapters, target, gateway))

    def with_factory(self, number: int, factory: FactoryInterface) -> PlanState:
        """The state in which the interface of a factory is written."""
        return self._with(factories=put(self.factories, number, factory))

    def with_beside(self, number: int, purpose: str) -> PlanState:
        """The state in which something is written beside a class."""
        return self._with(beside=self.beside | {(number, purpose)})

    def with_internal_names(self, *names: str) -> PlanState:
        """The state in which some written types are known to their own assembly only."""
        return self._with(internal_names=self.internal_names.union(names))

    def with_registered(self, number: int) -> PlanState:
        """The state in which a class is registered."""
        return self._with(registered=self.registered | {number})

    def with_service_id(self, number: int, id: str) -> PlanState:
        """The state in which a class is defined under an id."""
        return self._with(service_ids=put(self.service_ids, number, id))

    def with_service_alias(self, name: str) -> PlanState:
        """The state in which a service has a further name."""
        return self._with(service_aliases=self.service_aliases | {name})

    def with_injected(self, number: int, *names: str) -> PlanState:
        """The state in which a container injects some dependencies of a class."""
        return self._with(injected=self.injected.union((number, name) for name in names))

    def with_container_factory(self, number: int) -> PlanState:
        """The state in which a container creates a class by a factory."""
        return self._with(container_factories=self.container_factories | {number})

    def with_old_annotation(self, number: int, name: str) -> PlanState:
        """The state in which an annotation goes to a legacy constructor."""
        return self._with(old_annotations=put(self.old_annotations, number, name))

    def with_new_annotation(self, number: int, name: str) -> PlanState:
        """The state in which a new constructor bears an annotation."""
        return self._with(new_annotations=put(self.new_annotations, number, name))

    def with_token(self, number: int, name: str, token: Token) -> PlanState:
        """The state in which a dependency has a name for its container."""
        return self._with(tokens=put(self.tokens, (number, name), token))

    def with_edits(self, file: int, *added: Amendment) -> PlanState:
        """The state with further amendments of a file."""
        return self._with(edits=put(self.edits, file, (*self.edits.get(file, ()), *added)))

    def with_names(self, file: int, *needs: Need) -> PlanState:
        """The state in which a file names more."""
        return self._with(named=put(self.named, file, self.named.get(file, frozenset()).union(needs)))

    def with_new_file(self, path: str, text: str) -> PlanState:
        """The state with a further file."""
        return self._with(new_files=put(self.new_files, path, text), new_types=self.new_types.union(_DECLARED.findall(text)))

    def with_content(self, path: str, content: bytes, *remarks: str) -> PlanState:
        """The state in which a file that is no source holds something else; what is said of that."""
        said = ((path, each) for each in remarks)
        return self._with(contents=put(self.contents, path, content), remarks=(*self.remarks, *said))

    def with_shown(self, shown: Mapping[int, tuple[Amendment, ...]], written: tuple[Written, ...]) -> PlanState:
        """The state in which some files stand as a step shows them."""
        return self._with(shown={**self.shown, **shown}, written=(*self.written, *written))

    def for_attempt(self) -> PlanState:
        """The same, with nothing written so far."""
        return self._with(written=())


def put(known: Mapping[Key, Value], key: Key, value: Value) -> dict[Key, Value]:
    """A mapping with one more entry, or another one."""
    return {**known, key: value}
