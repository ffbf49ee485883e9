"""The form in which the catalogue says how a family of containers is told what serves what."""

from __future__ import annotations

import msgspec


class ContainerRules(msgspec.Struct, frozen=True, rename="kebab", forbid_unknown_fields=True):
    """The words of one family of containers.

    Lifetimes are `singleton`, `scoped`, `transient` or ''. Names are simple ones, as they stand in calls, marks and object
    literals; those of imports, bases and descriptors are qualified.
    """

    # --- which family, and what it does by itself ---
    imports: tuple[str, ...] = ()
    """Beginnings of imported names that say a tree uses it; one whose words need no such proof is known `always`."""
    always: bool = False
    registers: str = ""
    """What it finds by itself: `marked` classes, `concrete` ones, those of folders that are `listed`, or nothing."""
    fails: str = ""
    """When a missing registration is felt: `start-up`, `first request`, `first use`."""
    decides_by_type: bool = False
    """Whether what is marked serves its abstractions without being named for them, and two of them are refused."""
    collects_repeated: bool = False
    """Whether several registrations of a name make a list."""
    bubbles: bool = False
    """Whether what is handed a shorter-lived object lives as short as that."""
    follows: bool = False
    """Whether what a registration names is made as that is registered itself."""
    proxied: tuple[str, ...] = ()
    """Marks of what is handed in through a stand-in that finds the right object, so that it may be held for longer."""

    # --- calls, and what is chained to them ---
    calls: dict[str, str] = {}
    """Calls that register, with the usual lifetime."""
    instances: tuple[str, ...] = ()
    """Those of all words that take an object, which is shared."""
    implementations: tuple[str, ...] = ()
    abstractions: tuple[str, ...] = ()
    """Chained calls that name what serves, and what is served."""
    factories: tuple[str, ...] = ()
    parents: tuple[str, ...] = ()
    providers: dict[str, str] = {}
    """Chained calls that name a class whose objects make what serves, with the method by which they do."""
    unshared: tuple[str, ...] = ()
    """Chained calls that name what makes it, what it takes over from, and by `false` that each asker gets one of its own."""
    itself: tuple[str, ...] = ()
    interfaces: tuple[str, ...] = ()
    matching: tuple[str, ...] = ()
    """Chained calls by which a class serves itself as well, all that it implements, or what is named like it."""
    default_scope: str = ""
    """The option of a container that says, by one of `lifetimes`, how long what is registered without one lives."""
    lifetimes: dict[str, str] = {}
    """Words of chained calls, arguments and marks that say how long."""
    aliases: tuple[str, ...] = ()
    meant_first: tuple[str, ...] = ()
    """Words by which one name stands for what another is registered as, and those that name this other one first."""
    first: tuple[str, ...] = ()
    replacing: tuple[str, ...] = ()
    lists: tuple[str, ...] = ()
    """Words by which the earlier registration stays, the later one takes its place, or all make a list."""
    lists_apart: bool = False
    """Whether what makes a list serves only those who ask for all of it."""
    list_holders: tuple[str, ...] = ()
    """Members of a container whose calls add to a list."""
    adders: tuple[str, ...] = ()
    mapped: tuple[str, ...] = ()
    """Calls on such a list that add one more to it, and those whose list goes by keys, so that their first class is that of the
    keys."""
    wraps: tuple[str, ...] = ()
    """Calls that put a class around what serves otherwise."""
    keyed: tuple[str, ...] = ()
    keys: tuple[str, ...] = ()
    """Calls that take a key, and chained calls or marks that give one."""
    conditions: tuple[str, ...] = ()
    """Chained calls and marks under which a registration holds only sometimes."""
    asks: tuple[str, ...] = ()
    """Calls that ask whether something is registered: a registration under their opposite gives way."""
    together: tuple[str, ...] = ()
    """Calls all of whose types are served by one object."""
    consumers: tuple[str, ...] = ()
    """Those of them that name for whom."""
    convention: str = ""
    """How it is told of all classes of one pattern at once: code with `{anchor}`, `{receiver}`, `{call}` and `{suffix}`."""
    telling: dict[str, str] = {}
    """How it is told of one class: code with `{receiver}`, `{word}`, `{service}`, `{class}` and `{made}`. `itself` registers a
    class that takes nothing, `serves` one under an abstraction, `made` what code creates, `forwards` what is registered."""
    telling_words: dict[str, str] = {}
    """Lifetimes to the `{word}` in it."""
    scans: dict[str, str] = {}
    """Calls that register what follows a rule."""
    name_ends: tuple[str, ...] = ()
    name_begins: tuple[str, ...] = ()
    of_base: tuple[str, ...] = ()
    """Calls in a rule that ask for the end or the beginning of a name, or for a base."""
    kinds: tuple[str, ...] = ()
    """Calls that give all classes, to be looped over."""
    descriptors: tuple[str, ...] = ()
    """Classes whose objects, or results of whose static methods, are registrations."""
    wrappers: tuple[str, ...] = ()
    """Classes whose objects name in an argument what serves."""
    contextual: tuple[str, ...] = ()
    """The words for whom, what and with what, in this order."""
    makers: tuple[str, ...] = ()
    """Functions around a class in an entry of an object or array."""
    explicit: tuple[str, ...] = ()
    """Those of them whose classes are passed only what the entry says."""
    passes: str = ""
    reference: str = ""
    """The chained call that says it, and code around a class (`{}`) that stands for what serves that."""

    # --- marks, lists and members ---
    delegates: tuple[str, ...] = ()
    """Members of an attribute that stand for a way to get what it makes."""
    default_marks: tuple[str, ...] = ()
    """Words of defaults that name in brackets what is handed in."""
    annotations: dict[str, str] = {}
    """Marks that make the class they are on a service."""
    allowed_by: tuple[str, ...] = ()
    """Marks that only allow what a call says."""
    provides_itself: tuple[str, ...] = ()
    """Words in the arguments of `annotations` without which those register nothing."""
    methods: dict[str, str] = {}
    """Marks of methods whose result is registered."""
    metadata: dict[str, tuple[str, ...]] = {}
    """Marks to their arguments that list providers."""
    parts: tuple[str, ...] = ()
    """Those of them whose lists are made anew with each object of the class."""
    provider_lists: tuple[str, ...] = ()
    """Such arguments, in the calls that start a program."""
    starts: tuple[str, ...] = ()
    metadata_implementations: tuple[str, ...] = ()
    """In an entry of such a list, the words of what serves."""
    list_words: tuple[str, ...] = ()
    properties: dict[str, str] = {}
    """Lists of bindings, as members of provider classes or entries of an array."""
    attributes: dict[str, str] = {}
    bases: tuple[str, ...] = ()
    """Calls in the attributes of a class with such a base that register."""
    offsets: tuple[str, ...] = ()
    """Types of containers whose entries are registrations."""
    facades: tuple[str, ...] = ()
    facade_names: tuple[str, ...] = ()
    """Bases of classes whose static calls go on to a service, and the methods that name it."""
    primary: tuple[str, ...] = ()
    """Marks of the class that is meant where several serve an abstraction."""
    into_methods: bool = False
    """Whether methods that a host calls are handed services, too."""
    handed: tuple[str, ...] = ()
    """Marks of parameters of such methods that are handed in, where not all are."""
    qualifiers: tuple[str, ...] = ()
    """Marks that say, where something is asked for, which one is meant."""
    optional: tuple[str, ...] = ()
    """Marks of what need not be there, or is handed in by hand."""
    asked_by: str = ""
    """Marks, around a class as `{}`, of a parameter that asks for it, where its type alone says nothing."""
    left_out: str = ""
    """Marks, around a name as `{}`, of a parameter that is asked for by that name and may be missing."""
    hands_null: bool = False
    """Whether null is handed in for what is missing, so that a default of the parameter does not come into play."""
    refuses: bool = False
    """Whether it refuses to choose among several that are marked, where nothing decides."""
    fills: tuple[str, ...] = ()
    """Calls that have the members of a given object filled in."""
    needs: tuple[str, ...] = ()
    """Functions that ask for a class in a field, a constructor or a default."""

    @property
    def is_empty(self) -> bool:
        """Whether nothing is registered by any word."""
        return not any(
            (self.calls, self.annotations, self.methods, self.metadata, self.scans, self.descriptors, self.properties)
        ) and not (self.attributes or self.offsets or self.starts)
