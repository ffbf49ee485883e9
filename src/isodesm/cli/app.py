"""The command line: commands are put together here, and `main` alone turns errors into messages and exit codes."""

from __future__ import annotations

import atexit
import errno
import gc
import os
import signal
import sys
from types import FrameType
from typing import Annotated

import typer

from isodesm import __version__
from isodesm.cli.commands import Commands
from isodesm.cli.examples import exit_codes
from isodesm.cli.run import keep_details, say
from isodesm.errors import FULL, IsodesmError, OutputError, UsageError

app = typer.Typer(
    name="isodesm",
    cls=Commands,
    no_args_is_help=True,
    add_completion=True,
    context_settings={"help_option_names": ["-h", "--help"]},
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
    help="Finds hard-wired bonds in object-oriented code, ranks classes by coupling, and plans their loosening.",
    epilog=exit_codes(),
)

_WRONG_NAMES = (errno.ENAMETOOLONG, errno.EILSEQ)
INTERRUPTED, BUG = 130, 70
"""Exit codes after Ctrl-C, as shells have it, and after a mistake of ours (sysexits' EX_SOFTWARE)."""


def _show_version(wanted: bool) -> None:
    if wanted:
        print(f"isodesm {__version__}")
        raise typer.Exit


@app.callback()
def common(
    version: Annotated[
        bool, typer.Option("--version", callback=_show_version, is_eager=True, help="Show the version and exit.")
    ] = False,
) -> None:
    """Finds hard-wired bonds in object-oriented code, ranks classes by coupling, and plans their loosening."""


def main() -> None:
    """Run the command line. Exit codes: 0 done, 1 a gate failed, 2 wrong usage or settings, 3 nothing to read, 74 no room."""
    signal.signal(signal.SIGTERM, _end)
    if hasattr(signal, "SIGHUP") and signal.getsignal(signal.SIGHUP) is not signal.SIG_IGN:  # `nohup` asks to go on
        signal.signal(signal.SIGHUP, _end)
    atexit.register(gc.freeze)  # what is left over goes with the process; looking through it first would take longer
    try:
        app()
    except BrokenPipeError:  # whoever read our output has had enough
        _drop_output()
        code = 0
    except OutputError as error:
        _drop_output()
        say(f"isodesm: {error}")
        code = error.exit_code
    except IsodesmError as error:
        say(f"isodesm: {error}")
        code = error.exit_code
    except OSError as error:
        if error.errno in _WRONG_NAMES:
            say(f"isodesm: {str(error.filename)[:100]}… can't be the name of a file: {error.strerror}.")
            code = UsageError.exit_code
        elif error.errno not in FULL:
            code = _report_bug(error)
        else:
            _drop_output()
            say(f"isodesm: Can't write: {error.strerror}.")
            code = OutputError.exit_code
    except KeyboardInterrupt:
        say("isodesm: stopped")
        code = INTERRUPTED
    except Exception as error:
        code = _report_bug(error)
    else:
        code = 0
    sys.exit(code)


def _end(number: int, frame: FrameType | None) -> None:
    """Told to end from outside: by the way out that takes workers and half-written files along."""
    sys.exit(128 + number)


def _drop_output() -> None:
    """Nothing more goes to standard output, so that the end of the process does not try again."""
    os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def _report_bug(error: Exception) -> int:
    say(f"isodesm: this is a mistake of ours ({type(error).__name__}). Please report it with the file {keep_details([error])}")
    return BUG
