"""move-effect-out: where one member both decides and reaches outside, a person has to cut it in two; the plan says where.

What belongs together is a matter of meaning, so that this technique names places and does not write code.
"""

from __future__ import annotations

from isodesm.diagnosis.shared.findings import Finding
from isodesm.linking.symbols import simple_name
from isodesm.planning.projection import Projection
from isodesm.planning.steps import Balance, Edit, Step, step_id
from isodesm.planning.workshop import Workshop

NAME = "move-effect-out"
KINDS = ("mixed-responsibility", "oversized-boundary")


def plan_move(shop: Workshop, state: Projection, finding: Finding) -> Step:
    """The step for a member that holds both, or for a boundary class that keeps data and logic."""
    name = simple_name(finding.source)
    measures = state.measures(finding.source_number)
    mixed = finding.kind == "mixed-responsibility"
    where = f"`{name}.{finding.member}`" if finding.member and not finding.member.startswith("<") else f"`{name}`"
    action = (
        "move the effect into a gateway of its own, and hand that in"
        if mixed
        else "move the data and the logic into a service, and hand that in"
    )
    places = [Edit(finding.file, finding.line, f"{where}: {action}", by_hand=True)]
    places += [Edit(each.file, each.line, each.message, by_hand=True) for each in finding.related]
    return Step(
        number=0,
        id=step_id(NAME, finding.source, finding.member),
        technique=NAME,
        title=f"Move {'the effect' if mixed else 'data and logic'} out of {name}"
        + (f".{finding.member}" if mixed and finding.member else ""),
        classes=(finding.source,),
        layer=finding.layer,
        why_now=f"{finding.message} {finding.reason}".strip(),
        edits=tuple(places),
        code=(),
        frees=("the decisions can be tested without the effect",) if mixed else ("the logic can be tested without the view",),
        hazards=("which lines belong together is yours to say: this step has no code",),
        check="The code compiles and behaves as before.",
        balance=Balance((), ()),
        before=measures,
        after=measures,
    )
