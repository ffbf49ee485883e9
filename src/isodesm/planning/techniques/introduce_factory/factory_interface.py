"""A maker of one's own, a kind of introduce-factory: an interface with the parameters of a constructor, where no function type
of the language has them: too many, numbers that it would widen, or an error that has to be declared."""

from __future__ import annotations

from isodesm.facts.records import Member
from isodesm.planning.analysis.file_names import path_beside
from isodesm.planning.analysis.names_in_code import home_of, need_of_type, needs_of_text
from isodesm.planning.model.abstraction import Abstraction
from isodesm.planning.model.code import Interface, Need, Signature, Typed
from isodesm.planning.model.decision import Decision
from isodesm.planning.model.dependency import DefaultExpression
from isodesm.planning.model.gateways import FactoryInterface
from isodesm.planning.model.proposal import Proposal, WantedDependency
from isodesm.planning.model.refusal import Reason, Refusal
from isodesm.planning.model.step import PlannedStep, TechniqueName, step_id
from isodesm.planning.state.context import PlanContext
from isodesm.planning.techniques.extract_interface.interface import imports_of, visibility_of
from isodesm.planning.techniques.give_instance.static_gateway import free_type_name
from isodesm.planning.techniques.new_files import new_files
from isodesm.planning.wording import code as remarks
from isodesm.planning.wording import steps as wording
from isodesm.planning.wording.injection import factory_of

NAME = TechniqueName.INTRODUCE_FACTORY
FUNCTION = "make"


def propose_factory(
    context: PlanContext, decision: Decision, constructor: Member, parameters: list[tuple[str, str]], abstraction: Abstraction
) -> Proposal | Refusal | None:
    """The proposal to hand in a maker with some parameters, as (type, name); why there can be none."""
    target, declared = decision.target, context.symbols.types[decision.target]
    file = context.symbols.file_of[target]
    listed = ", ".join(f"{kind} {name}" for kind, name in parameters)
    throws = f" throws {', '.join(constructor.throws)}" if constructor.throws else ""
    signature = Signature(FUNCTION, listed, abstraction.name, throws=throws)
    known = context.state.factories.get(target)
    if known is not None and known.signature != signature:
        return Refusal(Reason.SEVERAL_FACTORIES)
    name = known.name if known is not None else free_type_name(context, target, f"{declared.name}Maker")
    home = home_of(context.codebase, target)
    path = path_beside(context.sources, target, name)
    if context.codebase.has_file(path):
        return Refusal(Reason.FACTORY_FILE_EXISTS, path=path)
    local = target - context.symbols.first[file]
    taken = needs_of_text(context.codebase, file, local, " ".join([*(kind for kind, _ in parameters), *constructor.throws]))
    maker = FactoryInterface(target, name, path, home, signature, (*taken, *abstraction.typed.needs))
    need = need_of_type(context.codebase, target)
    given = DefaultExpression(f"{declared.path}::new", decision.places[0].file, needs=(need,), arity=len(parameters))
    wanted = WantedDependency(
        Typed(name, (Need(name, home),)),
        f"new{declared.name}",
        given,
        use=f"{{field}}.{FUNCTION}({{arguments}})",
        concrete=declared.name if abstraction.name != declared.path else "",
        makes=abstraction.typed,
    )
    return Proposal(NAME, decision, wanted, factory_of(abstraction.name), abstraction, gateway=maker)


def factory_id(context: PlanContext, maker: FactoryInterface) -> str:
    """The id of the step that writes a maker."""
    return step_id(NAME, context.symbols.names[maker.number], maker.name)


def plan_factory_interface(context: PlanContext, factory: FactoryInterface) -> PlannedStep:
    """The step that writes the interface. Nothing that is there changes."""
    text = wording.factory_interface_written(factory.name, factory.signature.result, context.name(factory.number))
    id, named = factory_id(context, factory), {factory.path: factory.name}
    return new_files(context, factory.number, id, NAME, text, named, lambda: _write(context, factory))


def _write(context: PlanContext, maker: FactoryInterface) -> None:
    language, file = context.sources.language(maker.number), context.symbols.file_of[maker.number]
    visibility = visibility_of(context, maker.number, [maker.signature])
    if visibility == "internal":
        context.state = context.state.with_internal_names(maker.name)
    interface = Interface(
        maker.name,
        context.name(maker.number),
        maker.home,
        "",
        (maker.signature,),
        imports_of(context, maker.number, maker.home, maker.path, set(maker.needs)),
        context.codebase.text(file).decode("utf-8", "replace"),
        visibility,
        purpose=remarks.factory_of(context.name(maker.number)),
    )
    context.add_file(maker.path, language.interface(interface), file)
    context.state = context.state.with_beside(maker.number, maker.effect).with_factory(maker.number, maker)
