"""Proof of a step before it is offered: what it writes is read again, and held against what it may change."""

from isodesm.planning.proving.names import aliases_in as aliases_in
from isodesm.planning.proving.proof import Objection, Written, objections

__all__ = ["Objection", "Written", "objections"]
