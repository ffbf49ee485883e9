"""Proof of a step before it is offered: what it writes is read again, and held against what it may change."""
