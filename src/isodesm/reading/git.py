"""The one way in which git is called: with nothing switched on that a repository could make it run or fetch.

A repository's own configuration can name commands – for hooks, filters, differences, signatures, pagers, credentials, the
watching of files – and remotes from which missing objects are fetched by a command of its choice. None of them runs.
"""

from __future__ import annotations

import contextlib
import os
import shutil
import signal
import subprocess
from pathlib import Path

WAIT_SECONDS = 120.0
"""The longest that git may take."""
_KEPT = ("GIT_CONFIG_GLOBAL", "GIT_CONFIG_SYSTEM", "GIT_CONFIG_NOSYSTEM", "GIT_EXEC_PATH", "GIT_CEILING_DIRECTORIES")
"""What of git's environment holds for all repositories of a user; the rest is about one of them, or names commands."""
_ENVIRONMENT = {
    "GIT_ALLOW_PROTOCOL": "none",
    "GIT_ASKPASS": "",
    "GIT_LITERAL_PATHSPECS": "1",
    "GIT_NO_LAZY_FETCH": "1",
    "GIT_NO_REPLACE_OBJECTS": "1",
    "GIT_OPTIONAL_LOCKS": "0",
    "GIT_PAGER": "cat",
    "GIT_PROTOCOL_FROM_USER": "0",
    "GIT_TERMINAL_PROMPT": "0",
    "LC_ALL": "C",
    "SSH_ASKPASS": "",
}
_SETTINGS = {
    "core.alternateRefsCommand": "",
    "core.askPass": "",
    "core.attributesFile": os.devnull,
    "core.editor": "false",
    "core.fsmonitor": "false",
    "core.hooksPath": os.devnull,
    "core.pager": "cat",
    "core.quotePath": "false",
    "core.sshCommand": "false",
    "core.untrackedCache": "false",
    "credential.helper": "",
    "diff.external": "",
    "gc.auto": "0",
    "gpg.program": "false",
    "gpg.ssh.program": "false",
    "gpg.x509.program": "false",
    "log.showSignature": "false",
    "maintenance.auto": "false",
    "mailmap.blob": "",
    "mailmap.file": "",
    "protocol.allow": "never",
    "protocol.ext.allow": "never",
    "protocol.file.allow": "never",
    "protocol.git.allow": "never",
    "protocol.http.allow": "never",
    "protocol.https.allow": "never",
    "protocol.ssh.allow": "never",
    "safe.bareRepository": "explicit",
    "submodule.recurse": "false",
}


def is_installed() -> bool:
    """Whether there is a git to call."""
    return shutil.which("git") is not None


def git(folder: Path, *arguments: str, given: bytes = b"") -> bytes | None:
    """What a git command says that is called in a folder and `given` something to read; None where it fails, takes too long,
    or the folder lies in what only looks like a repository."""
    if looks_bare(folder):
        return None
    settings = [part for name, value in _SETTINGS.items() for part in ("-c", f"{name}={value}")]
    environment = {name: value for name, value in os.environ.items() if not name.startswith("GIT_") or name in _KEPT}
    try:
        process = subprocess.Popen(
            ["git", "--no-pager", *settings, *arguments],
            cwd=folder,
            env=environment | _ENVIRONMENT,
            stdin=subprocess.PIPE if given else subprocess.DEVNULL,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
        )
    except OSError:
        return None
    try:
        said, _ = process.communicate(given or None, timeout=WAIT_SECONDS)
    except BaseException as error:
        _kill(process)
        if isinstance(error, subprocess.TimeoutExpired | OSError):
            return None
        raise
    return said if process.returncode == 0 else None


def _kill(process: subprocess.Popen[bytes]) -> None:
    """End a git that takes too long, with all that it started."""
    with contextlib.suppress(OSError):
        os.killpg(process.pid, signal.SIGKILL)
    process.kill()
    process.communicate()


def looks_bare(folder: Path) -> bool:
    """Whether a folder, or one around it before the first with a repository of its own, looks like the inside of one.

    Git would take it for a repository, and go by the configuration that lies there.
    """
    for each in (folder, *folder.resolve().parents):
        if (each / ".git").exists():
            return False
        if (each / "HEAD").exists() and (each / "objects").is_dir() and (each / "refs").is_dir():
            return True
    return False
