"""An abstraction that a container can't decide on."""

from __future__ import annotations

from collections.abc import Iterator

from isodesm.diagnosis.shared.findings import Finding
from isodesm.diagnosis.shared.reporting import Report, Words
from isodesm.inference.resolution import How

NAMED = 3


def ambiguous_implementations(report: Report) -> Iterator[Finding]:
    """`ambiguous-implementation`: an abstraction that a managed class is handed, several managed classes serve, and nothing
    decides."""
    wiring = report.codebase.wiring
    for number in sorted(wiring.managed | wiring.hosted):
        own = wiring.by_implementation.get(number, ())
        if not report.is_production(number) or (own and all(each.registration.factory for each in own)):
            continue
        for each in wiring.handed_to(number):
            answer = wiring.answer(each)
            if answer.how != How.AMBIGUOUS or each.default:
                continue
            wanted, name = report.name(each.target), report.name(number)
            names = ", ".join(f"`{report.name(rival)}`" for rival in answer.candidates[:NAMED])
            yield report.finding(
                "ambiguous-implementation",
                "error",
                number,
                report.at_injection(each),
                Words(
                    f"`{name}` asks for `{wanted}`, which {len(answer.candidates)} managed classes serve: {names}.",
                    f"Nothing says which one is meant, so the container refuses to make `{name}`, or takes one by chance.",
                    "Mark one of them as the usual one, or name the one that is meant where it is asked for.",
                ),
                member="<init>",
                target=each.target,
                key=each.name,
                why=[f"{len(answer.candidates)}-implementations"],
                related=[
                    report.at_registration(service.registration).related("serves it")
                    for rival in answer.candidates
                    for service in wiring.by_implementation[rival][:1]
                ],
            )
