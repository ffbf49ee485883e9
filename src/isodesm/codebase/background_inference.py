"""What needs nothing inferred: of a large tree a process of its own finds it, while the rest is inferred."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from isodesm.inference.registrations import Told
from isodesm.inference.state_uses import Gathering, Uses, packed, unpacked
from isodesm.reading.workers import can_fork, meanwhile

PARALLEL_BONDS = 8_000
"""Bonds from which it pays."""


class Beside:
    """What containers are told, and who uses shared states. Mutable: what was found stays packed until it is asked for."""

    def __init__(self, told: Told, gathering: Gathering) -> None:
        self.told, self._gathering = told, gathering
        self.packed_told = self._packed_uses = b""

    @contextmanager
    def found(self, workers: int, bonds: int) -> Iterator[None]:
        """Meanwhile it is looked for, and has been found with the end of the block, if that pays."""
        if not can_fork(workers, bonds, PARALLEL_BONDS):
            yield
            return
        with meanwhile(self._both) as found:
            yield
            self.packed_told, self._packed_uses = found()

    def _both(self) -> tuple[bytes, bytes]:
        return self.told.packed(), packed(self._gathering.uses())

    def uses(self) -> Uses:
        """All uses of shared states; to be asked for once."""
        content, self._packed_uses = self._packed_uses, b""
        return unpacked(content) if content else self._gathering.uses()
