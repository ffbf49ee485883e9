"""The one root of errors that a user can cause or mend. Each says what happened, where, and what to do next."""

from __future__ import annotations


class IsodesmError(Exception):
    """`slug` names the kind for machines, `exit_code` is what the process ends with."""

    slug = "error"
    exit_code = 2


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
