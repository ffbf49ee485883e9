"""Markdown that is more than one table: a class in full, a trace with its sequence diagram."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from isodesm.measures.dossier import Dossier, Place
from isodesm.measures.member_use import MemberUse
from isodesm.queries.trace import Hop, Trace, shown_type


def about_text(it: Dossier) -> bytes:
    """A class as a page for an issue tracker or wiki."""
    if it.asked_member is not None:
        return _member_text(it.asked_member)
    lines = [
        f"# {it.name}",
        "",
        f"`{it.file}:{it.line}` · {it.kind} · role **{it.role or 'unknown'}** · layer **{it.layer or 'none'}**",
        "",
    ]
    if it.measures is not None:
        row = it.measures
        lines += [
            f"Strain {row.strain:g} (rank {row.rank}), fan-in {row.fan_in}, fan-out {row.fan_out}, reach {row.reach}, "
            f"ripple {row.ripple:g}.",
            "",
        ]
    sections: tuple[tuple[str, Iterable[str]], ...] = (
        ("Evidence for its role", it.role_evidence),
        ("More exactly", (it.narrower,) if it.narrower else ()),
        ("Constructor", [f"`{it.constructor}`"] if it.constructor else []),
        ("Needs", (f"`{each.name}`: `{each.type}` – {each.served_by or each.how}" for each in it.needs)),
        ("Made by", (f"{each.by}: {each.what} `{each.file}:{each.line}`" for each in it.made_by)),
        ("Heirs", (f"`{each}`" for each in it.heirs)),
        ("One more touches", map(_place, it.siblings)),
        ("Handed to", map(_place, it.handed_to)),
        ("Creates", map(_place, it.creates)),
        ("Looks up", map(_place, it.looks_up)),
        ("Locked effects", (f"{each.effect}: {' → '.join(each.chain)}" for each in it.locked)),
        ("Keeps a test from having it alone", (each.said for each in it.obstacles)),
        ("Abstractions", (f"`{each.name}`, {each.users} users" for each in it.abstractions)),
        ("Members by users", (f"`{each.name}`: {', '.join(each.users)} ({_counts(each.calls)})" for each in it.members)),
        ("Worth it?", [it.worth] if it.worth else []),
        ("Natural splits", (f"{', '.join(each.members)} – for {', '.join(each.consumers)}" for each in it.splits)),
        ("Tests", (each.name if each.directly else f"{each.name} (by way of another class)" for each in it.tests)),
        ("Changes with", (f"`{each.file}`: {each.together} commits, {each.share:.0%}" for each in it.partners)),
        ("Findings", (f"{each.level} {each.kind} `{each.file}:{each.line}`: {each.message}" for each in it.findings)),
        ("Planning would", it.plan),
    )
    for title, entries in sections:
        if shown := list(entries):
            lines += [f"## {title}", "", *(f"- {each}" for each in shown), ""]
    return "\n".join(lines).encode()


def _member_text(use: MemberUse) -> bytes:
    """What a change of a member touches."""
    lines = [
        f"# {use.name}",
        "",
        f"`{use.signature}`",
        "",
        f"A change touches {use.places} places in {use.files} files, {use.in_tests} of them in tests; callers: "
        f"{_counts(use.callers) or 'none'}.",
        "",
        *(f"- {each.what}: `{each.name}` `{each.file}:{each.line}` {each.by}".rstrip() for each in use.touched),
        "",
    ]
    return "\n".join(lines).encode()


def _counts(given: dict[str, int]) -> str:
    return ", ".join(f"{count} {kind}" for kind, count in given.items())


def _place(place: Place) -> str:
    return f"`{place.name}` `{place.file}:{place.line}` {place.detail}".rstrip()


def trace_text(found: Trace) -> bytes:
    """A trace as a sequence diagram (Mermaid), and as a list with places."""
    start = found.start
    lines = [f"# {start.class_name}.{start.member}", "", "```mermaid", "sequenceDiagram"]
    names = _participants(start)
    lines += [f"    participant {alias} as {label}" for label, alias in names.items()]
    lines += [f"    {each}" for each in _messages(start, names)]
    lines += ["```", "", *_listed(start, 0), ""]
    for each in found.idle:
        lines += [f"Nothing on this way is asked of `{each}`: what was chosen for it changed nothing.", ""]
    if found.hidden:
        lines += [f"{found.hidden} calls on data and helpers are not shown.", ""]
    return "\n".join(lines).encode()


def _simple(name: str) -> str:
    return name.replace("\\", ".").replace("#", ".").rpartition(".")[2]


def _participants(start: Hop) -> dict[str, str]:
    """Label to alias of each class, in order of appearance."""
    names: dict[str, str] = {}
    waiting = [start]
    while waiting:
        hop = waiting.pop(0)
        label = hop.effect or _simple(hop.class_name)
        names.setdefault(label, f"P{len(names)}")
        waiting = [*hop.hops, *waiting]
    return names


def _messages(hop: Hop, names: dict[str, str]) -> Iterator[str]:
    """Calls in order, each followed by what it causes and by what comes back."""
    here = names[_simple(hop.class_name)]
    for each in hop.hops:
        there = names[each.effect or _simple(each.class_name)]
        mark = "-x" if each.hard else "->>"
        yield f"{here}{mark}{there}: {each.member}" + (" (hard)" if each.hard else "")
        yield from _messages(each, names) if each.hops else ()
        if back := shown_type(each.returns):
            yield f"{there}-->>{here}: {back}"


def _listed(hop: Hop, level: int) -> Iterator[str]:
    name = hop.member if hop.effect else f"{_simple(hop.class_name)}.{hop.member}"
    notes = ", ".join(
        each
        for each in (
            hop.effect,
            hop.bound if hop.bound not in ("itself", "effect", "start") else "",
            hop.crossing,
            hop.hard,
            hop.cut,
        )
        if each
    )
    yield f"{'  ' * level}- `{name}`" + (f" – {notes}" if notes else "") + f" (`{hop.file}:{hop.line}`)"
    for each in hop.hops:
        yield from _listed(each, level + 1)
