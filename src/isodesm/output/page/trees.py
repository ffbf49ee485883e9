"""What the page about many trees shows, as one value of plain data."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import msgspec

from isodesm import __version__
from isodesm.fleet.answers import TreeAnswer
from isodesm.fleet.shared import SharedType
from isodesm.output.fleet_table import density, ordered

WORST, SHARED = 40, 200
"""Classes of all trees, and shared types, that a page shows at most."""


def fleet_content(answers: Sequence[TreeAnswer], shared: Sequence[SharedType], title: str) -> dict[str, Any]:
    """All that the page shows, ready to be written as JSON."""
    trees = ordered(answers, "strain")
    classes = sorted(((each.name, *row) for each in trees for row in each.top), key=lambda row: (-row[3], row[0], row[1]))
    return {
        "title": title,
        "version": __version__,
        "date": "",
        "languages": [],
        "trees": [
            [
                each.name,
                each.lines,
                each.classes,
                each.strain,
                each.hard_bonds,
                round(density(each), 2),
                ", ".join(each.languages),
                each.worst,
                each.worst_strain,
                each.marked_strain,
            ]
            for each in trees
        ],
        "failed": [[each.name, each.error] for each in answers if each.error],
        "worst": [list(row) for row in classes[:WORST]],
        "shared": [msgspec.to_builtins(each) for each in shared[:SHARED]],
        "dossiers": {},
        "classes": [],
    }
