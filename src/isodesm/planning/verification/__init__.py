"""Proof of a step before it is offered: what it writes is read again, and held against what it may change."""

from isodesm.planning.model.step import Written
from isodesm.planning.verification.names import aliases_in as aliases_in
from isodesm.planning.verification.proof import Objection, objections

__all__ = ["Objection", "Written", "objections"]
