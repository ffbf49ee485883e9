"""`isodesm setup`."""

from __future__ import annotations

from isodesm.cli.options import Reading, reads_tree
from isodesm.cli.run import hand_out, read_codebase
from isodesm.errors import UsageError


@reads_tree
def setup(reading: Reading) -> None:
    """Write an isodesm.toml with what was inferred, for me to correct."""
    from isodesm.output.settings_file import settings_file
    from isodesm.settings import FILE_NAME

    target = reading.output or (reading.path if reading.path.is_dir() else reading.path.parent) / FILE_NAME
    if target.exists():
        raise UsageError(
            f"{target} is there already, and is not written over. Name another file with --output, or remove it first."
        )
    codebase = read_codebase(reading)
    hand_out(settings_file(codebase), target)
