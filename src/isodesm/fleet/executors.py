"""Has requests answered: in this process, in worker processes on this machine, or by a cluster that is there already.

Whoever may speak to a cluster may have its workers, and this process, run anything: what comes from there is trusted.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from typing import Any

import msgspec

from isodesm import __version__
from isodesm.errors import IsodesmError, UsageError
from isodesm.fleet.answers import Asked, TreeAnswer, answered, version
from isodesm.fleet.local import TRIES, local_answers

SECONDS_TO_CONNECT = 8
NEEDED = "Clusters need the extra: pip install 'isodesm[fleet]'. Workers on this machine go without."


class FleetBroken(IsodesmError):
    """The cluster is gone, or was never there."""

    slug = "fleet-broken"


def answers(requests: Sequence[Asked], workers: int, scheduler: str) -> Iterator[TreeAnswer]:
    """The answers, in the order in which they come. With a scheduler's address its workers do it, else so many here.

    Raises UsageError where the extra for clusters is missing, and FleetBroken where the cluster can't be reached, has another
    version of this program, or goes away.
    """
    if not requests:
        return
    packed = {each.name: msgspec.msgpack.encode(each) for each in requests}
    if not scheduler and (workers < 2 or len(requests) < 2):
        for request in packed.values():
            yield _decoded(answered(request))
        return
    if not scheduler:
        yield from local_answers(packed, min(workers, len(requests)))
        return
    with connected(scheduler) as client:
        yield from _from_cluster(client, packed, scheduler)


def _decoded(content: bytes) -> TreeAnswer:
    return msgspec.msgpack.decode(content, type=TreeAnswer)


@contextmanager
def connected(scheduler: str) -> Iterator[Any]:
    """A connection to the cluster of a scheduler, whose workers have this version."""
    with _client(scheduler) as client:
        _check_versions(client, scheduler)
        yield client


@contextmanager
def _client(scheduler: str) -> Iterator[Any]:
    """A connection to the cluster of a scheduler."""
    try:
        import logging

        import dask
        from distributed import Client
    except ImportError:
        raise UsageError(NEEDED) from None
    for name in ("distributed", "distributed.worker", "distributed.nanny", "distributed.scheduler", "distributed.client"):
        logging.getLogger(name).setLevel(logging.CRITICAL)  # what goes wrong with a tree is said by name
    dask.config.set(
        {
            "distributed.comm.timeouts.connect": SECONDS_TO_CONNECT,
        }
    )
    try:
        client = Client(scheduler, timeout=SECONDS_TO_CONNECT)
    except (OSError, TimeoutError, TypeError, ValueError) as error:  # TypeError: certificates that are not configured
        raise FleetBroken(f"No scheduler answers at {scheduler}: {error}.") from None
    try:
        yield client
    finally:
        client.close(timeout=5)


def _check_versions(client: Any, scheduler: str) -> None:
    """FleetBroken where a worker has another version of this program, or none."""
    try:
        found = client.run(version)
    except Exception as error:
        raise FleetBroken(f"The workers at {scheduler} can't run this: {error}. They need isodesm {__version__}.") from None
    if not found:
        raise FleetBroken(f"The scheduler at {scheduler} has no workers.")
    if other := sorted(f"{address} has {each}" for address, each in found.items() if each != __version__):
        raise FleetBroken(f"This is isodesm {__version__}, but {'; '.join(other)}. Install one version everywhere.")


def _from_cluster(client: Any, packed: dict[str, bytes], scheduler: str) -> Iterator[TreeAnswer]:
    from distributed import CancelledError, as_completed
    from distributed.scheduler import KilledWorker

    futures = {client.submit(answered, request, pure=False, retries=TRIES): name for name, request in packed.items()}
    left = set(futures.values())
    try:
        for future in as_completed(futures):
            name = futures[future]
            if future.status == "finished":
                made = _decoded(future.result())
            elif isinstance(error := future.exception(), KilledWorker):
                made = TreeAnswer(name, error=f"its worker died {TRIES + 1} times")
            else:
                raise FleetBroken(_gone(scheduler, left)) from error
            left.discard(name)
            future.release()
            yield made
    except (CancelledError, OSError, TimeoutError) as error:
        raise FleetBroken(_gone(scheduler, left)) from error
    if left:
        raise FleetBroken(_gone(scheduler, left))


def _gone(scheduler: str, left: set[str]) -> str:
    said = f"{len(left)} trees were not answered for. What was is kept: --resume goes on from there."
    return f"The scheduler at {scheduler} is gone; {said}"
