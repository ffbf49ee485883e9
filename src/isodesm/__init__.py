"""Isodesm finds hard-wired bonds in object-oriented code, ranks classes by coupling and plans their loosening.

For scripts and notebooks:

    codebase = isodesm.read("path/to/source")
    diagnosis = isodesm.diagnose(codebase)
    ranking = isodesm.rank(codebase, diagnosis)
    plan = isodesm.plan(codebase, diagnosis)
    isodesm.carry_out(codebase, plan.steps[0])
"""

from __future__ import annotations

from typing import Any

__version__ = "0.1.0"
__all__ = ["carry_out", "diagnose", "plan", "rank", "read"]

_HOMES = {
    "read": "isodesm.codebase.reading",
    "diagnose": "isodesm.diagnosis.diagnose",
    "rank": "isodesm.measures.ranking",
    "plan": "isodesm.planning.planner.staging",
    "carry_out": "isodesm.rewriting.apply",
}


def __dir__() -> list[str]:
    """The public names."""
    return [*__all__, "__version__"]


def __getattr__(name: str) -> Any:
    """The public functions, imported when first asked for: `isodesm --help` must not pay for them."""
    if name not in _HOMES:
        raise AttributeError(f"module 'isodesm' has no attribute {name!r}")
    from importlib import import_module

    return getattr(import_module(_HOMES[name]), name)
