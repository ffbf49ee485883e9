"""What lives longer than it should, because something that lives longer holds on to it."""

from __future__ import annotations

from collections.abc import Iterator

from isodesm.diagnosis.shared.findings import Finding
from isodesm.diagnosis.shared.reporting import Report, Words
from isodesm.diagnosis.wiring_faults.registered import in_test, is_stateful
from isodesm.inference.injection import Injection
from isodesm.inference.resolution import How, Service
from isodesm.inference.wiring import LIFETIMES

RANK = {lifetime: rank for rank, lifetime in enumerate(LIFETIMES)}
HOPS = 4
"""Registrations over which a captive is looked for."""


def captive_dependencies(report: Report) -> Iterator[Finding]:
    """`captive-dependency`: one finding for each longer-lived registration and what it holds on to, at the registration."""
    wiring = report.codebase.wiring
    for holder in wiring.services:
        if holder.implementation < 0 or holder.lifetime not in RANK or holder.registration.alias or in_test(report, holder):
            continue
        if wiring.rules_of(holder).bubbles:
            continue
        for chain in _captives(report, holder):
            captive = chain[-1][1]
            names = [report.name(holder.implementation), *(report.name(service.implementation) for _, service in chain)]
            through = f" by way of {', '.join(f'`{each}`' for each in names[1:-1])}" if len(names) > 2 else ""
            severe = captive.lifetime == "scoped"
            yield report.finding(
                "captive-dependency",
                "error" if severe else "warning",
                holder.implementation,
                report.at_registration(holder.registration),
                Words(
                    f"`{names[0]}` lives as a {holder.lifetime} and holds `{names[-1]}`, which is registered as "
                    f"{captive.lifetime}{through}.",
                    f"The first `{names[-1]}` stays for as long as `{names[0]}` does; "
                    + (
                        "what is meant for one request is shared by all."
                        if severe
                        else "the next one that is asked for is another object, with a state of its own."
                    ),
                    f"Register `{names[0]}` as {captive.lifetime}, or hand it a way to get a `{names[-1]}` when it needs one.",
                ),
                target=captive.implementation,
                why=[f"{holder.lifetime}-holds-{captive.lifetime}", *([f"over-{len(chain)}-hops"] if len(chain) > 1 else [])],
                related=[
                    report.at_registration(captive.registration).related(
                        f"`{names[-1]}` is registered as {captive.lifetime} here"
                    ),
                    *(report.at_injection(injection).related("is handed in here") for injection, _ in chain),
                ],
            )


def _captives(report: Report, holder: Service) -> Iterator[list[tuple[Injection, Service]]]:
    """Chains from a registration to the shorter-lived ones it holds; scoped ones over several hops, a stateful transient
    over one."""
    waiting: list[list[tuple[Injection, Service]]] = [[]]
    seen = {holder.implementation}
    while waiting:
        chain = waiting.pop(0)
        at = chain[-1][1] if chain else holder
        for injection in report.codebase.wiring.handed_to(at.implementation):
            answer = report.codebase.wiring.answer(injection)
            if injection.deferred or answer.how != How.REGISTERED or answer.chosen in seen or answer.chosen < 0:
                continue
            service = answer.services[-1]
            seen.add(service.implementation)
            step = [*chain, (injection, service)]
            if service.registration.proxied or service.registration.scope != holder.registration.scope:
                continue  # a stand-in finds the right one, or it is not in sight of the holder
            shorter = service.lifetime in RANK and RANK[service.lifetime] < RANK[holder.lifetime]
            if shorter and (service.lifetime == "scoped" or (not chain and is_stateful(report, service.implementation))):
                yield step
            elif service.lifetime == "transient" and len(step) < HOPS:
                waiting.append(step)
