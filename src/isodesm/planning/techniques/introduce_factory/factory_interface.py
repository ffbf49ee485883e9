"""A maker of one's own, a kind of introduce-factory: an interface with the parameters of a constructor, where no function type
of the language has them: too many, numbers that it would widen, or an error that has to be declared."""

from __future__ import annotations

import msgspec

from isodesm.facts.records import Member
from isodesm.planning.analysis.decisions import Decision
from isodesm.planning.analysis.homes import Abstraction
from isodesm.planning.analysis.names_in_code import home_of, need_of_type, needs_of_text
from isodesm.planning.language import Interface, Need, Signature, Typed
from isodesm.planning.model.dependency import Supply
from isodesm.planning.model.step import Step, step_id
from isodesm.planning.planner.projection import Projection
from isodesm.planning.state.context import Workshop
from isodesm.planning.state.injection import Wanted
from isodesm.planning.state.recorder import Recorder
from isodesm.planning.techniques.extract_interface.interface import imports_of
from isodesm.planning.techniques.give_instance.static_gateway import free_type_name
from isodesm.planning.techniques.new_files import plan_new_files
from isodesm.planning.techniques.proposal import Proposal

NAME = "introduce-factory"
FUNCTION = "make"


class MakerOf(msgspec.Struct, frozen=True):
    """An interface whose one method makes an object of a class (`number`): its name, where it lives, the method."""

    number: int
    name: str
    path: str
    home: str
    signature: Signature
    needs: tuple[Need, ...]

    @property
    def effect(self) -> str:
        """What tells it apart from others of its class."""
        return "maker"


def propose_maker(
    shop: Workshop, decision: Decision, constructor: Member, parameters: list[tuple[str, str]], abstraction: Abstraction
) -> Proposal | str:
    """The proposal to hand in a maker with some parameters, as (type, name); why there can be none."""
    target, declared = decision.target, shop.symbols.types[decision.target]
    writer = shop.draft.writer(decision.source)
    file = shop.symbols.file_of[target]
    listed = ", ".join(f"{kind} {name}" for kind, name in parameters)
    throws = f" throws {', '.join(constructor.throws)}" if constructor.throws else ""
    signature = Signature(FUNCTION, listed, abstraction.name, throws=throws)
    known = shop.makers.get(target)
    if known is not None and known.signature != signature:
        return "is made in several ways, each of which would need a maker of its own: write a factory by hand"
    name = known.name if known is not None else free_type_name(shop, target, f"{declared.name}Maker")
    home = home_of(shop.codebase, target)
    path = f"{shop.path(target).rpartition('/')[0]}/{writer.file_name(name)}".lstrip("/")
    if (shop.codebase.root / path).exists():
        return f"`{path}` is there already: write a factory by hand"
    local = target - shop.symbols.first[file]
    taken = needs_of_text(shop.codebase, file, local, " ".join([*(kind for kind, _ in parameters), *constructor.throws]))
    maker = MakerOf(target, name, path, home, signature, (*taken, *abstraction.typed.needs))
    need = need_of_type(shop.codebase, target)
    given = Supply(f"{declared.path}::new", decision.places[0].file, needs=(need,), arity=len(parameters))
    wanted = Wanted(
        Typed(name, (Need(name, home),)),
        f"new{declared.name}",
        given,
        use=f"{{field}}.{FUNCTION}({{arguments}})",
        concrete=declared.name if abstraction.name != declared.path else "",
        makes=abstraction.typed,
    )
    return Proposal(NAME, decision, wanted, f"maker of {abstraction.name}", abstraction, gateway=maker)


def maker_id(shop: Workshop, maker: MakerOf) -> str:
    """The id of the step that writes a maker."""
    return step_id(NAME, shop.symbols.names[maker.number], maker.name)


def plan_maker_of(shop: Workshop, recorder: Recorder, state: Projection, maker: MakerOf) -> Step:
    """The step that writes the interface. Nothing that is there changes."""
    name = shop.name(maker.number)
    return plan_new_files(
        shop,
        recorder,
        state,
        maker.number,
        lambda: _write(shop, maker),
        id=maker_id(shop, maker),
        technique=NAME,
        title=f"Write {maker.name}, which makes a {maker.signature.result}",
        why=f"`{name}` is made from what is known only where it is made, and no function type of the language takes that. "
        f"Constructors can ask for a `{maker.name}` once it is there; `{name}::new` is one.",
        named={maker.path: maker.name},
    )


def _write(shop: Workshop, maker: MakerOf) -> None:
    writer, file = shop.draft.writer(maker.number), shop.symbols.file_of[maker.number]
    interface = Interface(
        maker.name,
        shop.name(maker.number),
        maker.home,
        "",
        (maker.signature,),
        imports_of(shop, maker.number, maker.home, maker.path, set(maker.needs)),
        shop.codebase.text(file).decode("utf-8", "replace"),
        said=f"Makes objects of {shop.name(maker.number)}.",
    )
    shop.draft.new_file(maker.path, writer.interface(interface), file)
    shop.around.add((maker.number, maker.effect))
    shop.makers[maker.number] = maker
