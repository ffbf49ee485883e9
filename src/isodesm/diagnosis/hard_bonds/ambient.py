"""State that belongs to nobody: static and module-level variables that are set after start-up, superglobals."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

from isodesm.diagnosis.hard_bonds.adapters import Adapters
from isodesm.diagnosis.hard_bonds.roots import Roots
from isodesm.diagnosis.hard_bonds.states import States
from isodesm.diagnosis.shared.findings import Finding
from isodesm.diagnosis.shared.reporting import Report, Words
from isodesm.inference.shared_state import Key
from isodesm.inference.state_uses import Use
from isodesm.linking.bonds import AT_SEAM

REQUEST = frozenset(("$_GET", "$_POST", "$_REQUEST", "$_COOKIE", "$_FILES", "$_SERVER", "$_SESSION"))
"""What a boundary class is there to read."""
SHOWN = 20
"""Uses of something cross-cutting that are listed; beyond that the list says nothing more."""
NAMED = 3
"""Writers that are named."""


def ambient_state(
    report: Report, states: States, roots: Roots, adapters: Adapters, taken: frozenset[int] = frozenset()
) -> Iterator[Finding]:
    """`ambient-state`: one finding for each class that uses such a state, at the first place, with all others.

    `taken` are rows that another finding speaks of already, say because the state is a shared instance.
    """
    is_open = frozenset(states.open)
    for number, uses in sorted(states.chatter.items()):
        if uses:
            yield _chatter(report, states, number, uses)
    said: set[int] = set(taken)
    for key in sorted(states.uses):
        uses = states.uses[key]
        if key not in is_open:
            if key[0] >= 0 and key[0] not in states.chatter and states.is_kept_by_own_class(key):
                yield _finding(report, states, key, uses[0], uses, "own-state")
            continue  # of the others all is said, once for the whole codebase
        by_source: dict[int, list[Use]] = defaultdict(list)
        for use in uses:
            if use.source != key[0] and use.row not in said and report.is_production(use.source):
                by_source[use.source].append(use)
        said.update(use.row for own in by_source.values() for use in own)  # a member that touches many states is one use
        for source, own in sorted((source, _each_place_once(report, uses)) for source, uses in by_source.items()):
            first = next((use for use in own if use.writes), own[0])
            excuse = _excuse_of(report, key, source, own, roots, adapters)
            yield _finding(report, states, key, first, own, excuse or _excuse(report, source, "" if first.through else key[1]))


def _excuse_of(report: Report, key: Key, source: int, own: list[Use], roots: Roots, adapters: Adapters) -> str:
    """Why nobody minds the uses of a state by one class, whatever they are; '' where that is not known."""
    texts = report.codebase.text_lookups.members
    if all((key[0], use.through) in texts for use in own):
        return "cross-cutting"
    if all(map(roots.covers, (use.row for use in own))):
        return "composition-root"
    return "adapter" if adapters.passes_on(source, key[0]) else ""


def _chatter(report: Report, states: States, number: int, uses: list[Use]) -> Finding:
    """One note for the whole tree about something cross-cutting whose state can change, at its head."""
    name, users = report.name(number), len({use.source for use in uses})
    return report.finding(
        "ambient-state",
        "note",
        number,
        report.at_type(number),
        Words(
            f"`{name}` keeps state that the whole program shares, "
            f"and {users} {'class uses' if users == 1 else 'classes use'} it.",
            "It is cross-cutting, so each of them is left in peace; what it is set to still goes from one test to the next.",
            f"Set back what `{name}` keeps at the end of a test, and hand it in where a test must see what it was told.",
        ),
        target=number,
        why=[f"{users}-users"],
        related=list(dict.fromkeys(report.at_row(use.row).related("uses it") for use in uses))[:SHOWN],
        key="cross-cutting",
    )


def _each_place_once(report: Report, uses: list[Use]) -> list[Use]:
    """Uses in order of place; of a write and a read at one place the write."""
    table = report.codebase.bonds
    found: dict[tuple[int, int, int], Use] = {}
    for use in sorted(uses, key=lambda use: not use.writes):
        found.setdefault((table.file[use.row], table.line[use.row], table.column[use.row]), use)
    return [found[place] for place in sorted(found)]


def _excuse(report: Report, source: int, name: str) -> str:
    role = report.codebase.roles.name(source)
    if role == "composition-root":
        return "composition-root"
    at_boundary = role == "presentation" or report.symbols.is_module(source)
    return "boundary" if name in REQUEST and at_boundary else ""


def _finding(report: Report, states: States, key: Key, first: Use, uses: list[Use], excuse: str) -> Finding:
    target, variable = key
    source = report.name(first.source)
    shown = variable if target < 0 else f"{report.name(target)}.{variable}"
    writes = any(use.writes for use in uses)
    through = f" through `{report.codebase.bonds.text_of('text', first.row)}.{first.through}`" if first.through else ""
    at_seam = all(report.codebase.bonds.flags[use.row] & AT_SEAM for use in uses)  # only the default of a parameter
    again = [
        report.at_row(use.row).related("changes it here" if use.writes else "reads it here") for use in uses if use != first
    ]
    return report.finding(
        "ambient-state",
        "note" if at_seam or _is_lent(report, states, key, first) else "warning",
        first.source,
        report.at_row(first.row),
        Words(
            f"`{source}` {'changes' if writes else 'reads'} `{shown}`{through}, which belongs to the whole program.",
            f"{_said_of_writers(report, states, key, first)}; what `{source}` does depends on who ran before, "
            "and tests can't run side by side.",
            f"Hand the value of `{shown}` to `{source}` where it is made, and keep the state with the composition root.",
        ),
        member=report.codebase.bonds.text_of("member", first.row),
        target=max(target, -1),
        target_name=shown if target < 0 else report.symbols.names[target],
        why=["written" if writes else "read", f"{len(states.users(key) | {first.source})}-users"],
        key=variable,
        related=again,
        excuse=excuse,
        row=first.row,
        places=1 + len(again),
    )


def _is_lent(report: Report, states: States, key: Key, first: Use) -> bool:
    """Whether nobody but a class beside its keeper uses a static field: between the two of them it is hardly the whole
    program's."""
    keeper = key[0]
    if keeper < 0 or first.through or report.symbols.is_module(keeper) or states.users(key) - {keeper} != {first.source}:
        return False
    symbols = report.symbols
    one, other = (symbols.files[symbols.file_of[each]] for each in (keeper, first.source))
    return one.path.rpartition("/")[0] == other.path.rpartition("/")[0]


def _said_of_writers(report: Report, states: States, key: Key, first: Use) -> str:
    """Who changes a state beside the class that a finding is about, or that nobody else does."""
    sources, own = states.writers(key), report.name(first.source)
    writers = sorted({report.name(each) for each in sources if each != first.source} - {own})
    if writers:
        named = ", ".join(f"`{each}`" for each in writers[:NAMED])
        return f"It is changed from {named}" + (" as well" if first.source in sources else "")
    if first.source in sources:
        return f"`{own}` changes it for everybody"
    if key[1] in REQUEST:
        return "It comes with the request"
    if key[0] >= 0 and states.is_set_by_keeper(key):
        return f"`{report.name(key[0])}` changes it"
    return "Nothing here says what it holds"
