"""`isodesm setup`."""

from __future__ import annotations

import os

from isodesm.cli.options import Reading, reads_tree
from isodesm.cli.run import hand_out_as, read_codebase
from isodesm.errors import UsageError


@reads_tree
def setup(reading: Reading) -> None:
    """Write an isodesm.toml with what was inferred, for me to correct."""
    from isodesm.output.settings_file import settings_file
    from isodesm.settings import FILE_NAME

    folder = reading.path if reading.path.is_dir() else reading.path.parent
    target = reading.output or folder / FILE_NAME
    if os.path.lexists(target):
        raise UsageError(
            f"{target} is there already, and is not written over. Name another file with --output, or remove it first."
        )
    codebase = read_codebase(reading)
    hand_out_as(settings_file(codebase), reading.output, folder, FILE_NAME, anew=True)
