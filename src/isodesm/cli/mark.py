"""`isodesm mark`."""

from __future__ import annotations

from isodesm.cli.answers import workspace_of
from isodesm.cli.options import Reading, reads_tree
from isodesm.cli.run import end_strictly, hand_out_as, say


@reads_tree
def mark(reading: Reading) -> None:
    """Keep how it stands today, to hold later states against."""
    from isodesm.drifting.mark import FILE_NAME, mark_of, written
    from isodesm.output.text import counted, number_of
    from isodesm.output.trouble import trouble_lines

    workspace = workspace_of(reading)
    made = mark_of(workspace.overview, workspace.diagnosis_in_full, workspace.digests)
    if not reading.quiet:
        for line in trouble_lines(workspace.overview, reading.verbose):
            say(line)
    folder = reading.path if reading.path.is_dir() else reading.path.parent
    hand_out_as(written(made), reading.output, folder, FILE_NAME)
    if not reading.quiet:
        totals = made.totals
        say(
            f"marked: {counted(len(made.findings), 'finding')}, {counted(totals.hard_bonds, 'hard bond')}, "
            f"strain {number_of(totals.strain)}"
        )
        if reading.verbose:
            say(workspace.phases.said())
    end_strictly(reading, bool(workspace.overview.trouble))
