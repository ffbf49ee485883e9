"""What an editor says of a file that it shows."""

from __future__ import annotations

from pathlib import Path
from typing import NamedTuple


class Change(NamedTuple):
    """What a file holds from now on, and the editor's version of that; None where it is what the disk holds."""

    file: Path
    uri: str
    version: int | None = None
    content: bytes | None = None
