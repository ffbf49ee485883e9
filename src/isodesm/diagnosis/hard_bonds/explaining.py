"""Puts a verdict into words: what stands there, why it matters here, what would loosen it."""

from __future__ import annotations

from functools import cached_property

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.hard_bonds.cases import Case
from isodesm.diagnosis.hard_bonds.creations import is_helper_of_owner
from isodesm.diagnosis.hard_bonds.seams import handed_already, is_at_seam
from isodesm.diagnosis.hard_bonds.sharing import shared_behind
from isodesm.diagnosis.hard_bonds.usage import Usage
from isodesm.diagnosis.shared.chains import Chains
from isodesm.diagnosis.shared.findings import Finding, Related
from isodesm.diagnosis.shared.spans import span_of
from isodesm.facts import typetext
from isodesm.inference.effect_kinds import EFFECT_WORDS
from isodesm.inference.resolution import Service
from isodesm.linking.bonds import CONTEXTS, IN_LOOP, KIND_NUMBER, RUNTIME
from isodesm.linking.symbols import simple_name

CALL = KIND_NUMBER["call"]
MANY_PLACES = 3
"""Creating places from which their number is worth a word."""


PATCHED = "a test has to patch it by its path, for the whole process, and a rename breaks that unseen."
"""What it costs to stand something in where attributes of modules can be replaced."""


class Explainer:
    """Makes findings out of rows; their ids are given later, to all of them in order of place."""

    def __init__(self, codebase: Codebase, usage: Usage) -> None:
        self.codebase, self.usage = codebase, usage
        self.chains = Chains(codebase)

    def finding(self, case: Case, kind: str, level: str) -> Finding:
        """The finding of kind and level that a bond makes."""
        effects = (
            case.effects
            if kind != "service-lookup" or case.external
            else case.codebase.effects.through(case.source, case.target)
        )
        return msgspec.structs.replace(
            self.bare(case, kind),
            level=level,
            why=self._tags(case, kind, level, effects),
            remedy=self._remedy(case, kind),
            reason=self._reason(case, kind, level, effects),
            crossing=case.crossing,
            effects=effects,
            chain=case.chain,
            related=self._related(case, kind, effects),
        )

    def bare(self, case: Case, kind: str, excuse: str = "") -> Finding:
        """What stands at a place, without grounds and remedies: what has an excuse needs none."""
        symbols, row = self.codebase.symbols, case.row
        source, member = symbols.names[case.source], self.codebase.bonds.text_of("member", row)
        text, place = self.codebase.text(case.file), case.site.place
        span = span_of(text, place.start, self._end_of_head(case, text), case.line)
        return Finding(
            id="\x1f".join((kind, source, member, case.target_name, case.callee or case.text)),
            kind=kind,
            level="note",
            message=self._what(case, kind),
            source=source,
            member=member,
            target=case.target_name,
            file=case.facts.path,
            line=case.line,
            column=case.column,
            end_line=case.line,
            end_column=case.column + span.end_column - span.column,
            snippet=span.snippet,
            why=(),
            remedy="",
            layer=self.codebase.layers.name(case.source),
            external=case.external,
            excuse=excuse,
            source_number=case.source,
            target_number=max(case.target, -1),
            row=row,
        )

    def _related(self, case: Case, kind: str, effects: tuple[str, ...]) -> tuple[Related, ...]:
        """Where the chain to the effect ends, and where a container is told to make the same class."""
        found: list[Related] = []
        if effects and not case.external and not case.direct_effect:
            held = case.target if kind == "hard-wired-creation" or case.shared_type < 0 else case.shared_type
            row, table = self.codebase.effects.use_behind(held, effects[0]), self.codebase.bonds
            if row >= 0:
                path = self.codebase.symbols.files[table.file[row]].path
                found.append(Related(path, table.line[row], f"reaches {EFFECT_WORDS[effects[0]]} here"))
        if kind == "hard-wired-creation" and (service := self._managed.get(case.target)) is not None:
            found.append(Related(service.registration.file, service.registration.line, "is registered with a container here"))
        return tuple(found)

    @cached_property
    def _managed(self) -> dict[int, Service]:
        """Classes that a container is told to make, with the first place that says so."""
        return {number: services[0] for number, services in self.codebase.wiring.by_implementation.items()}

    def _end_of_head(self, case: Case, text: bytes) -> int:
        """Where a creation's class body or a call's arguments begin to be too long to mark."""
        place = case.site.place
        if case.site.anonymous >= 0:
            brace = text.find(b"{", place.start, place.end)
            return brace if brace > 0 else place.end
        return place.end

    # --- words ----------------------------------------------------------------------------

    def _where(self, case: Case) -> str:
        name = case.source_type.name
        context = CONTEXTS[self.codebase.bonds.context[case.row]]
        member = case.member
        if context == "field-initializer" and member is not None:
            return f"Field `{name}.{member.name}`"
        if context == "constructor":
            return f"The constructor of `{name}`"
        if member is not None and member.kind == "method":
            return f"`{name}.{member.name}`"
        return f"{'Module' if case.symbols.is_module(case.source) else 'Class'} `{name}`"

    def _what(self, case: Case, kind: str) -> str:
        where, target = self._where(case), simple_name(case.target_name)
        if kind == "hard-wired-creation":
            return f"{where} creates `{target}` itself."
        if kind == "static-singleton":
            through = f"`{case.text}`, made by its module" if case.is_module_instance() else f"`{target}.{case.callee}`"
            held = self.codebase.symbols.types[case.shared_type].name if case.shared_type >= 0 else target
            return f"{where} fetches the shared `{held}` through {through}."
        if kind == "service-lookup":
            return f"{where} looks up {self._looked_up(case)}."
        return f"{where} calls `{case.callee if case.is_built_in else f'{target}.{case.callee}'}` directly."

    def _looked_up(self, case: Case) -> str:
        if not case.callee:
            return f"what serves `{simple_name(case.target_name)}`, by calling the interface"
        call = f"`{case.site.text + '.' if case.site.text else ''}{case.callee}`"
        named = case.text != simple_name(case.target_name)
        return f"`{simple_name(case.target_name)}` through {call}" if named else f"a dependency through {call}"

    def _reason(self, case: Case, kind: str, level: str, effects: tuple[str, ...]) -> str:
        """Why the bond matters here, the gravest ground first."""
        name = case.source_type.name
        if kind in ("hard-wired-creation", "service-lookup") and is_at_seam(case):
            member = case.member
            in_head = member is not None and case.site.place.start < member.body[0]
            at_import = self._is_patchable(case) and case.context == "parameter-default" and in_head
            made = " It is made once, for everybody, when the module is imported." if at_import else ""
            return f"A constructor of `{name}` takes it already; this is only the default, so a test can get round it.{made}"
        if effects:
            chain = f" ({' → '.join(case.chain)})" if len(case.chain) > 2 else ""
            words = " and ".join(EFFECT_WORDS[effect] for effect in effects[:2])
            return f"It reaches {words}{chain}, {self._test_of(case)}"
        if behind := shared_behind(case):
            way = " → ".join((f"{simple_name(case.target_name)}.{case.callee}", *behind))
            return f"It goes to what the whole program shares ({way}); all tests of `{name}` share that, too."
        if case.crossing:
            inner, _, outer = case.crossing.partition("→")
            return f"{'An' if inner[:1] in 'aeiou' else 'A'} {inner} class decides on a class of the outer layer {outer}."
        if kind == "service-lookup":
            return f"What `{name}` needs does not show in its constructor, and fails only at run time."
        if kind == "static-singleton":
            return self._reason_to_share(case)
        return self._reason_to_make(case, level)

    def _reason_to_share(self, case: Case) -> str:
        name, held = case.source_type.name, case.shared_type
        if held >= 0 and case.codebase.own_changes.of(held):
            return f"All tests of `{name}` share that one object and what earlier tests left in it."
        return f"All tests of `{name}` get that one object, and none can be given another."

    def _reason_to_make(self, case: Case, level: str) -> str:
        name = case.source_type.name
        if case.other_implementations:
            shown = ", ".join(f"`{self.codebase.symbols.types[each].name}`" for each in case.other_implementations[:2])
            return f"There are other implementations ({shown}), and this place has chosen one."
        if level == "note" and is_helper_of_owner(case):
            return f"It is handed `{name}` itself, so nobody could make it beforehand."
        partners = ", ".join(case.collaborators[:3])
        ground = f"works with {partners}" if partners else case.roles[case.target].evidence[0].reason
        if level == "note":
            return f"Little more speaks for a service than that `{simple_name(case.target_name)}` {ground}."
        if self._is_patchable(case):
            return f"`{simple_name(case.target_name)}` {ground}; {PATCHED}"
        return f"`{simple_name(case.target_name)}` {ground}, and `{name}` brings all of it along."

    def _test_of(self, case: Case) -> str:
        """What a test of the source would have to do: nothing helps where names are bound when the code is compiled."""
        subject = "the module" if case.symbols.is_module(case.source) else f"`{case.source_type.name}`"
        if self._is_patchable(case):
            return f"and {PATCHED}"
        if case.symbols.dialect(case.source).replaceable_modules:
            return f"and a test of {subject} has to replace a whole module to stand something else in."
        return f"and nobody can hand {subject} something else."

    def _is_patchable(self, case: Case) -> bool:
        """Whether a test may replace what a name means in a module while the program runs."""
        return case.symbols.dialect(case.source).self_parameter

    def _remedy(self, case: Case, kind: str) -> str:
        target = simple_name(case.target_name)
        if instead := self._without_constructor(case, kind):
            return instead
        if kind == "static-effect":
            called = case.callee if case.is_built_in else f"{target}.{case.callee}"
            return f"Put `{called}` behind an object of your own, and take that through the constructor."
        if given := handed_already(case):
            return (
                f"Use `{given.name}`, the `{simple_name(typetext.head(given.text))}` that the constructor of "
                f"`{case.source_type.name}` takes already; if it has to be another object, take that beside it."
            )
        if kind == "service-lookup":
            return "Take what is looked up through the constructor, and let the composition root look it up."
        if case.external:
            return f"Put `{target}` behind an object of your own, and take that through the constructor."
        abstraction = self._abstraction(case)
        if kind == "static-singleton":
            return f"Take {abstraction} through the constructor; the accessor may stay until its last user is gone."
        built_once = case.member is not None and case.member.kind in ("constructor", "field")
        if case.flags & RUNTIME and not built_once:
            return f"Take a factory for {abstraction} through the constructor, since its arguments are known only here."
        return f"Take {abstraction} through the constructor, and let the composition root create it."

    def _without_constructor(self, case: Case, kind: str) -> str:
        """What can be done where no constructor can take anything; '' where one can."""
        target = f"`{simple_name(case.target_name)}`"
        what = f"the {target}" if kind == "hard-wired-creation" else f"what {target} gives"
        member = case.member
        if case.symbols.is_module(case.source):
            if member is not None and member.kind == "method":
                return f"Let `{member.name}` take {what} as a parameter, and let its callers pass it."
            return "Make it in the function that starts the program, and pass it on from there."
        if case.source_type.kind in ("enum", "interface", "annotation"):
            return f"Move that out of the {case.source_type.kind}: who uses the constant can be handed {what}."
        if member is not None and member.is_static and member.kind == "method":
            return f"Let `{member.name}` take {what} as a parameter, or make it a method of an object that is handed it."
        if member is not None and member.is_static:
            return f"Keep {what} in an object that is made where the program starts, and hand that in."
        return ""

    def _abstraction(self, case: Case) -> str:
        """What a constructor should ask for: an interface of the target that has what is used, or one to be extracted."""
        for base in case.roles.ancestors(case.target)[1:]:
            if self.codebase.symbols.types[base].kind == "interface" and self._has_what_is_used(case, base):
                return f"its interface `{self.codebase.symbols.types[base].name}`"
        return f"an interface extracted from `{case.target_type.name}`"

    def _has_what_is_used(self, case: Case, base: int) -> bool:
        """Whether an interface declares every member that the source calls on the target."""
        table = self.codebase.bonds
        called = {
            table.text_of("callee", row)
            for row in table.rows_of_source(case.source)
            if table.kind[row] == CALL and table.target[row] == case.target
        }
        line = case.roles.ancestors(base)
        return all(any(name in case.symbols.members(each) for each in line) for name in called if name)

    # --- tags -----------------------------------------------------------------------------

    def _tags(self, case: Case, kind: str, level: str, effects: tuple[str, ...]) -> tuple[str, ...]:
        tags = [f"reaches-{effect}" for effect in effects]
        if case.crossing:
            tags.append(f"crosses {case.crossing}")
        if kind == "hard-wired-creation" and not case.external:
            tags += self._creation_tags(case)
        if kind == "static-singleton" and self._has_mutable_state(case):
            tags.append("mutable-state")
        if case.flags & IN_LOOP:
            tags.append("in-loop")
        if kind == "hard-wired-creation" and case.flags & RUNTIME:
            tags.append("runtime-arguments")
        if kind in ("hard-wired-creation", "service-lookup") and is_at_seam(case):
            tags.append("default-of-seam")
        return tuple(tags)

    def _creation_tags(self, case: Case) -> list[str]:
        tags = []
        if others := len(case.other_implementations):
            tags.append(f"{others}-other-implementation" + ("s" if others > 1 else ""))
        if (depth := self.chains.depth(case.target)) >= 2:
            tags.append(f"deep-chain-{depth}")
        if case.target in self._managed:
            tags.append("managed-elsewhere")
        if (places := self.usage.places[case.target]) >= MANY_PLACES:
            tags.append(f"created-in-{places}-places")
        if case.member is not None and case.member.kind == "field" and "final" in case.member.modifiers.words:
            tags.append("final-field")
        return tags

    def _has_mutable_state(self, case: Case) -> bool:
        return any(
            member.kind == "field" and not member.is_static and "final" not in member.modifiers.words
            for member in case.target_type.members
        )
