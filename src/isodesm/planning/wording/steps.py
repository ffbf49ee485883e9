"""What the steps say that write types, wire, register and remove: title, reason, what tests gain, hazards, how to check."""

from __future__ import annotations

from collections.abc import Sequence

from isodesm.inference.effect_kinds import EFFECT_WORDS
from isodesm.planning.model.step import StepText

RUNS = "The code compiles and behaves as before."


def quoted(names: Sequence[str]) -> str:
    """Names as code, in a list."""
    return ", ".join(f"`{each}`" for each in names)


# --- types that are written ----------------------------------------------------------------


def interface_extracted(
    interface: str, target: str, members: Sequence[str], users: int, remarks: Sequence[str], hazards: tuple[str, ...]
) -> StepText:
    """An interface for a class."""
    callers = "its one user calls" if users <= 1 else f"its {users} users call"
    return StepText(
        title=f"Extract interface {interface} from {target}",
        why_now=f"Constructors can ask for `{interface}` once it is there; it has what {callers}: {quoted(members)}. "
        + " ".join(remarks),
        hazards=hazards,
    )


def lives_beside(target: str) -> str:
    """Where an interface lives: with its class."""
    return f"It lives beside `{target}`."


def lives_with_users(layer: str) -> str:
    """Where an interface lives: with its users."""
    return f"It lives in the {layer} layer with its users, so that the dependency turns round."


def lives_in(folder: str) -> str:
    """Where an interface lives: with its kind."""
    return f"It lives in `{folder}`, where this codebase keeps such things."


def named_as(seen: int, interfaces: int) -> str:
    """How the name of an interface came about."""
    return f"Named as {seen} of {interfaces} interfaces here are."


NAMED_AS_LANGUAGE = "Named as interfaces of this language are."
NAME_SUGGESTED = "The name is a suggestion: take a better one where the domain has it."


def may_be_several(parts: Sequence[tuple[Sequence[str], Sequence[str]]]) -> str:
    """A word on parts, as (members, users), that no user shares: they may become interfaces of their own."""
    shown = " and ".join(f"{quoted(members)} (for {', '.join(users)})" for members, users in parts)
    return f"Its users share no member, so it may as well be {len(parts)} interfaces: {shown}."


def fields_visible(fields: Sequence[str]) -> str:
    """What an interface can't offer."""
    return f"fields {', '.join(fields)} are visible outside; an interface can't offer them"


def interface_extended(member: str, interface: str, target: str) -> StepText:
    """A member that an interface of the codebase lacked."""
    return StepText(
        title=f"Add {member} to {interface}, for {target}",
        why_now=f"`{interface}` has all that is asked of `{target}` but `{member}`, and `{target}` alone "
        "implements it: one member more is less than a second abstraction.",
        hazards=("implementers outside this tree, and doubles that tests make of it, must follow",),
    )


def asks_by_interface(interface: str, target: str, users: Sequence[str], kept: Sequence[str]) -> StepText:
    """Consumers that ask for an interface in the place of its class."""
    shown = ", ".join(users[:3]) + (f" and {len(users) - 3} more" if len(users) > 3 else "")
    needing = f"{quoted(kept[:4])} {'needs' if len(kept) == 1 else 'need'}"
    still = f" {needing} the class itself, or a container that knows only that: this stays." if kept else ""
    return StepText(
        title=f"Let {shown} ask for {interface}",
        why_now=f"{quoted(users[:3])}{' and others' if len(users) > 3 else ''} "
        f"{'uses' if len(users) == 1 else 'use'} only what `{interface}` offers of the `{target}` handed in.{still}",
        frees=tuple(f"a test of `{each}` can pass its own `{interface}`" for each in users[:3]),
    )


def static_class_wrapped(target: str, interface: str, adapter: str, users: int, members: Sequence[str]) -> StepText:
    """An adapter in the place of a static class."""
    return StepText(
        title=f"Give {target} an object that stands for it: {interface}, {adapter}",
        why_now=f"What `{target}` does is called on the class itself, so that no test can put anything in its place. "
        f"Constructors can ask for `{interface}` once it is there; it has what {users} "
        f"class{'' if users == 1 else 'es'} of this plan call{'s' if users == 1 else ''}: {quoted(members)}. "
        f"`{adapter}` passes each call on to `{target}`, which stays as it is.",
    )


def factory_interface_written(factory: str, made: str, target: str) -> StepText:
    """The interface of a factory."""
    return StepText(
        title=f"Write {factory}, which makes a {made}",
        why_now=f"`{target}` is made from what is known only where it is made, and no function type of the language takes "
        f"that. Constructors can ask for a `{factory}` once it is there; `{target}::new` is one.",
    )


def outside_wrapped(source: str, interface: str, adapter: str, calls: Sequence[str]) -> StepText:
    """A gateway around what a class calls outside the codebase."""
    return StepText(
        title=f"Put a gateway around what {source} calls outside: {interface}, {adapter}",
        why_now=f"`{source}` reaches outside by itself, in the midst of what it decides. `{adapter}` does what it "
        f"calls there ({quoted(calls)}); `{interface}` is what its constructor can ask for once it is there.",
    )


def data_moved(owner: str, holder: str, field: str) -> StepText:
    """A class that keeps a table of data."""
    return StepText(
        title=f"Give the data of {owner} a class of its own: {holder}",
        why_now=f"`{owner}` keeps a table of data in `{field}`, which nobody else can use, and no test can do "
        f"without. `{holder}` has the same lines; it lives beside `{owner}` until you know a better place.",
        hazards=("both have the data until the next step",),
    )


def rules_moved(owner: str, holder: str, names: Sequence[str]) -> StepText:
    """A class with rules that stood in a boundary class."""
    return StepText(
        title=f"Give the rules of {owner} a class of their own: {holder}",
        why_now=f"`{owner}` works out {quoted(names)} with nothing of the request, so that only a request can test it. "
        f"`{holder}` has the same lines, and `{owner}` asks it.",
        frees=tuple(f"a test can ask `{holder}` for `{each}`, without a request" for each in names),
    )


def container_factory_written(factory: str, made: str, held: Sequence[str]) -> StepText:
    """A factory that a definition file names."""
    return StepText(
        title=f"Let {factory} make {made} for the container",
        why_now=f"A definition file can't hold what `{made}` takes: {quoted(held)}. `{factory}` makes it with that; "
        f"the definition names `{factory}`, and its arguments stay. "
        f"So `{made}` itself need not know any more where they come from.",
        frees=(f"`{made}` names none of the classes it works with any more",),
        hazards=("code outside this tree may make this class by the constructor as it was",),
        check=f"The container makes `{made}` as before.",
    )


# --- callers -------------------------------------------------------------------------------


def forwarded(caller: str, made: str, added: Sequence[str], *, keeps_legacy: bool, overloads: bool) -> StepText:
    """A caller that takes what another class needs, and forwards it."""
    takes = f"It takes {' and '.join(f'`{each}`' for each in added)} for that" if added else "It has all of that"
    own = "old constructor stays" if overloads else "default stays"
    old = f" Its own {own} for those who make it." if keeps_legacy else ""
    by = "by its old constructor, which names" if overloads else "without what that takes, so that its defaults name"
    return StepText(
        title=f"Let {caller} pass on what {made} takes",
        why_now=f"`{caller}` makes `{made}` {by} concrete classes. {takes}.{old}",
        frees=(f"a test of `{caller}` decides what `{made}` works with",) if added else (),
        check=RUNS,
    )


def wired(number: str, roots: Sequence[str], below: Sequence[str], hazards: tuple[str, ...], *, overloads: bool) -> StepText:
    """Composition roots that inject everything into a class."""
    what = "the old constructors lose" if overloads else "the defaults lose"
    with_it = f", and with it {', '.join(below)}" if below else ""
    return StepText(
        title=f"Wire {number} in {', '.join(roots[:2])}",
        why_now=f"`{roots[0]}` is where objects are put together: one place shows what `{number}` runs with{with_it}, "
        f"and {what} their last production caller.",
        hazards=hazards,
        check="The program starts and does what it did.",
    )


def could_be_shared(target: str, owner: str, others: Sequence[str]) -> str:
    """What several classes are injected an object of their own of."""
    return f"`{target}` could be one object for {owner} and {', '.join(others)}: as before, each gets its own"


def legacy_removed(name: str, *, overloads: bool) -> StepText:
    """A legacy constructor, or the defaults in its place, that nobody needs any more."""
    what, old = ("constructor", "old constructor") if overloads else ("default", "defaults")
    compiled = "The code compiles, which shows that nobody calls it."
    return StepText(
        title=f"Retire the {old} of {name}",
        why_now=f"Every place that makes `{name}` passes what it takes: the {what} that still names concrete classes "
        "has no caller left.",
        frees=(f"`{name}` names none of the classes it works with any more",),
        hazards=(f"code outside this tree may {'call' if overloads else 'count on'} the {old}",),
        check=compiled if overloads else f"Every place that makes `{name}` passes all that it takes; the tests pass.",
    )


def taken_by_functions(name: str, functions: Sequence[str], what: str, gone: Sequence[str], *, overloads: bool) -> StepText:
    """Static functions, or those of a module, that take what they called."""
    first = f"{name}.{functions[0]}"
    who = first if len(functions) == 1 else f"{first} and {len(functions) - 1} more"
    old = "by a function of the old form, which passes what stood there" if overloads else "and get what stood there"
    out = f", and keep out {' and '.join(EFFECT_WORDS[each] for each in gone)}" if gone else ""
    return StepText(
        title=f"Let {who} take {what} as a parameter",
        why_now=f"No constructor reaches static code, but a parameter does. Callers that pass none go on as before, {old}.",
        frees=(f"a test of `{first}` can pass its own {what}{out}",),
    )


def taken_at_construction(name: str, what: Sequence[str], found: str, *, by_container: bool) -> StepText:
    """A constructor that takes what arrived late; `found` is what the finding says."""
    listed = " and ".join(f"`{each}`" for each in what)
    who = "its container calls that in the place of filling in fields" if by_container else "all who make it pass it there"
    return StepText(
        title=f"Let {name} take {' and '.join(what)} at construction",
        why_now=f"{found} Its constructor takes {listed} from here on, and {who}.",
        frees=(f"no `{name}` can be made without {listed}",),
        check=RUNS,
    )


# --- containers ----------------------------------------------------------------------------


def registered(name: str, abstraction: str, *, like: bool) -> StepText:
    """A registration in code, `like` others or not."""
    served = "" if name == abstraction else f" as `{abstraction}`"
    told = "; it is told as it is told of others here" if like else ""
    return StepText(
        title=f"Register {name} in the container",
        why_now=f"The container has to have `{name}` before it can hand it in{served}{told}.",
        check="The program starts; `isodesm wiring` shows the registration.",
    )


def defined(name: str, abstraction: str) -> StepText:
    """A definition in the container's own files."""
    return StepText(
        title=f"Define {name} for the container",
        why_now=f"The container finds what it hands in by its definitions: it has to have `{abstraction}` there before a "
        "constructor asks for it.",
        check="The program starts; `isodesm wiring` shows the definition.",
    )


def registered_by_rule(names: Sequence[str], count: int, pattern: str, lifetime: str, missing: str) -> StepText:
    """A rule in the place of many registrations; `missing` says why the step has no code, where it has none."""
    return StepText(
        title=f"Register {count} services of one pattern by a rule",
        why_now=f"{count} registrations ({', '.join(names)} …) follow `{pattern}` with lifetime {lifetime or 'unsaid'}: a "
        "scan or loop can't forget one.",
        hazards=(missing,) if missing else ("a new class of this pattern is registered by itself from here on",),
        check="`isodesm wiring` shows the same registrations.",
    )


def lifetime_shortened(holder: str, captive: str, found: str, places: str, own: Sequence[str]) -> StepText:
    """A holder that lives as long as what it holds; `found` is what the finding says, `own` the fields that it keeps."""
    kept = (f"what `{holder}` keeps ({', '.join(own)}) is no longer shared by all who use it",) if own else ()
    return StepText(
        title=f"Let {holder} live no longer than the {captive} that it holds",
        why_now=f"{found} One lifetime changes. The other way is to hand it a way to get a "
        f"`{captive}` when it needs one: no lifetime changes, but {places} in `{holder}`.",
        hazards=(f"this changes what happens: each `{captive}` comes with a `{holder}` of its own", *kept),
        check="`isodesm wiring` shows no captive here any more; the program starts and does what it should.",
    )


# --- by hand -------------------------------------------------------------------------------

DECISIONS, EFFECT, DATA_AND_LOGIC = "the decisions", "the effect", "data and logic"
_BY_HAND = {
    EFFECT: "move the effect into a gateway of its own, and hand that in",
    DECISIONS: "decide in a member of its own, which takes what was fetched",
    DATA_AND_LOGIC: "move the data and the logic into a service, and hand that in",
}


def to_do(where: str, what: str) -> str:
    """What a person does at a place."""
    return f"`{where}`: {_BY_HAND[what]}"


def moved_by_hand(what: str, name: str, found: str, reason: str, *, mixed: bool) -> StepText:
    """A move that a person has to make; `reason` says why no step makes it ('' where meaning decides)."""
    why = f": {reason}" if reason else "which lines belong together is yours to say"
    return StepText(
        title=f"Move {what} out of {name}",
        why_now=found,
        frees=("the decisions can be tested without the effect",) if mixed else ("the logic can be tested without the view",),
        hazards=(f"this step has no code{why}" if reason else f"{why}: this step has no code",),
        check=RUNS,
    )
