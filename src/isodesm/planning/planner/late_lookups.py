"""What tests replace is looked up as late as before, or the step is left."""

from __future__ import annotations

import re

import msgspec

from isodesm.planning.analysis.replaced_by_tests import replaced_by_a_test
from isodesm.planning.model.proposal import Proposal
from isodesm.planning.model.refusal import Hazard, Reason, Refusal, Risk
from isodesm.planning.state.context import PlanContext

_NAME = re.compile(r"(?<![\w.\"'])[A-Za-z_][\w.]*")


def kept_late(context: PlanContext, proposal: Proposal) -> Proposal | Refusal:
    """A proposal under which a test that replaces something goes on reaching it; else why there is none."""
    source, text = proposal.decision.source, proposal.wanted.default.text
    language = context.sources.language(source)
    if not language.functions_bound_by_name:
        return proposal
    named = ((name, replaced_by_a_test(context.codebase, source, name)) for name in _NAME.findall(text))
    name, found = next(((name, each) for name, each in named if each is not None), ("", None))
    if found is None:
        return proposal
    hazard = Hazard(Risk.KEPT_LATE, name=name, file=found.file, line=found.line)
    others = tuple(each for each in proposal.hazards if each.risk is not Risk.BOUND_AT_CREATION)
    if text.startswith("lambda"):
        return msgspec.structs.replace(proposal, hazards=(*others, hazard))
    if _NAME.fullmatch(text):
        default = msgspec.structs.replace(proposal.wanted.default, text=language.late_call(text))
        wanted = msgspec.structs.replace(proposal.wanted, default=default)
        return msgspec.structs.replace(proposal, wanted=wanted, hazards=(*others, hazard))
    taking = context.sources.constructors(source)
    if all(place.member in taking for place in proposal.decision.places):
        return proposal
    return Refusal(Reason.REPLACED_BY_TEST, name=name, file=found.file, line=found.line)
