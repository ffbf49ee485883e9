"""The sites of a file as they travel between processes and wait in memory: there are millions, and few are asked for."""

from __future__ import annotations

import zlib
from typing import Any

import msgspec

from isodesm.facts.records import FileSites, Local

_encode = msgspec.msgpack.Encoder().encode
_decode = msgspec.msgpack.Decoder(FileSites).decode


def pack_sites(sites: list[list[Any]], local: list[Local]) -> bytes:
    """Rows of sites (the fields of `Site` in order) and locals as compressed MessagePack, without making records of them."""
    return zlib.compress(_encode({"sites": sites, "locals": local}), 1)


def unpack_sites(packed: bytes) -> FileSites:
    """The records again."""
    return _decode(zlib.decompress(packed))
