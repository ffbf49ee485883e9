"""The one root of errors that a user can cause or mend. Each says what happened, where, and what to do next."""

from __future__ import annotations

import errno
from typing import Any

FULL = (errno.ENOSPC, errno.EDQUOT, errno.EFBIG, errno.EIO)
"""What the system says where no more can be written."""


class IsodesmError(Exception):
    """`slug` names the kind for machines, `exit_code` is what the process ends with."""

    slug = "error"
    exit_code = 2

    def __reduce__(self) -> tuple[Any, ...]:
        """As a process that works for another sends it: with its words, whatever they were made of."""
        return _revived, (type(self), self.args)


def _revived(kind: type[IsodesmError], words: tuple[Any, ...]) -> IsodesmError:
    return kind.__new__(kind, *words)


class UsageError(IsodesmError):
    """A wrong argument, option or path."""

    slug = "wrong-usage"


class SettingsError(IsodesmError):
    """A settings file that can't be read or holds something unknown."""

    slug = "wrong-settings"


class NothingToRead(IsodesmError):
    """No source file was found under the path."""

    slug = "nothing-to-read"
    exit_code = 3


class TreeChanged(IsodesmError):
    """A file became another while the tree was worked on, so that places in it would be wrong."""

    slug = "tree-changed"

    def __init__(self, path: str, reason: str) -> None:
        super().__init__(f"{path} changed while it was worked on ({reason}). Run the command again.")


class OutputError(IsodesmError):
    """A result that could not be written: the disk is full, for instance."""

    slug = "output-failed"
    exit_code = 74
