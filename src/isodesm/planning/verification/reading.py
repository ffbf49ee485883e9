"""Files as steps would leave them, read with the reader of the tree."""

from __future__ import annotations

from functools import lru_cache

from isodesm.facts.reader import read_file

KEPT = 256
"""Texts of which it is kept how they read."""
read = lru_cache(maxsize=KEPT)(read_file)
"""What one step writes is what the next one begins with, so that most texts are asked for more than once."""
