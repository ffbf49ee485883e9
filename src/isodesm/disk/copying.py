"""A copy of a tree to try things in, which goes when it is no longer needed."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path


@contextmanager
def copied(path: Path) -> Iterator[Path]:
    """A copy of the folder at `path` under the same name, two folders below one that is there as long as it is. Links stay
    links; pipes, sockets and what nobody may read are left out."""
    with tempfile.TemporaryDirectory(prefix="isodesm-try-") as folder:
        tree = Path(folder, "tree", path.resolve().name)
        shutil.copytree(path, tree, symlinks=True, ignore=_left_out)
        yield tree


def _left_out(folder: str, names: list[str]) -> list[str]:
    """What a copy leaves out: pipes, sockets, and what nobody may read."""
    left = []
    for name in names:
        each = Path(folder, name)
        plain = each.is_symlink() or each.is_dir() or each.is_file()
        try:
            if plain and each.is_file() and not each.is_symlink():
                each.open("rb").close()
        except OSError:
            plain = False
        if not plain:
            left.append(name)
    return left
