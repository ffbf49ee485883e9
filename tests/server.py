"""Runs the program for tests from one process that has loaded it: each run is a child of its own, without the start.

A run gets its arguments, folder and environment, and writes to files of its own, as a program started by a shell does. What
an environment says to Python itself is only heard at the start, so such runs are started anew.
"""

from __future__ import annotations

import atexit
import contextlib
import gc
import importlib
import json
import os
import pkgutil
import select
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator, Sequence
from pathlib import Path

ADDRESS = "ISODESM_TEST_SERVER"
"""The variable with the path of the socket."""
OF_PYTHON = ("PYTHON", "LANG", "LC_", "LD_", "TZ", "MALLOC")
"""Beginnings of variables that count at the start of a process."""
LARGEST = 1 << 20


def run(
    arguments: Sequence[str], cwd: Path, environment: dict[str, str], timeout: float, *, tests: bool = False
) -> subprocess.CompletedProcess[bytes]:
    """Run the program, or some tests, by the server where there is one; TimeoutExpired where it takes too long."""
    command = [sys.executable, "-m", "tests" if tests else "isodesm", *arguments]
    changed = {name for name in {*environment, *os.environ} if environment.get(name) != os.environ.get(name)}
    if ADDRESS not in os.environ or any(name.startswith(OF_PYTHON) for name in changed):
        return subprocess.run(command, capture_output=True, cwd=cwd, env=environment, timeout=timeout)
    with tempfile.TemporaryFile() as out, tempfile.TemporaryFile() as errors, socket.socket(socket.AF_UNIX) as line:
        line.settimeout(timeout)
        line.connect(os.environ[ADDRESS])
        asked = json.dumps({"tests": tests, "arguments": list(arguments), "cwd": str(cwd), "environment": environment}).encode()
        socket.send_fds(line, [asked], [out.fileno(), errors.fileno()])
        line.shutdown(socket.SHUT_WR)
        pid = int(line.makefile().readline())
        try:
            code = int(line.makefile().readline())
        except TimeoutError:
            os.kill(pid, signal.SIGKILL)
            raise subprocess.TimeoutExpired(command, timeout) from None
        out.seek(0), errors.seek(0)
        return subprocess.CompletedProcess(command, code, out.read(), errors.read())


@contextlib.contextmanager
def serving() -> Iterator[None]:
    """A server for the length of a block, for all processes that are started in it."""
    with tempfile.TemporaryDirectory(prefix="isodesm-server-") as folder:
        path, home = Path(folder) / "socket", Path(__file__).parent.parent
        kept = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}
        kept["PYTHONPYCACHEPREFIX"] = f"{folder}/bytecode"  # compiled once for all, whatever the machine's habit
        os.environ["PYTHONPYCACHEPREFIX"] = kept["PYTHONPYCACHEPREFIX"]
        server = subprocess.Popen([sys.executable, "-m", "tests.server", str(path)], cwd=home, env=kept)
        while not path.exists() and server.poll() is None:
            time.sleep(0.05)
        os.environ[ADDRESS] = str(path)
        try:
            yield
        finally:
            del os.environ[ADDRESS]
            server.terminate()
            server.wait()


def load() -> None:
    """All modules of the program, and what every language's reader needs."""
    import isodesm
    from isodesm.facts.languages import LANGUAGES, dialect_of
    from isodesm.facts.reader import queries_of

    for each in pkgutil.walk_packages(isodesm.__path__, "isodesm."):
        if ".samples" not in each.name and not each.name.endswith("__main__"):
            importlib.import_module(each.name)
    for language in LANGUAGES:
        queries_of(language, dialect_of(language).suffixes[0])


def serve(path: str) -> int:
    """Answer until the process is ended; in a child, the exit code of the program."""
    running: dict[int, socket.socket] = {}
    woken, wake = os.pipe()
    os.set_blocking(wake, False)
    signal.set_wakeup_fd(wake)
    signal.signal(signal.SIGCHLD, lambda *_: None)
    gc.freeze()  # so that no child looks through it, and copies it by that
    with socket.socket(socket.AF_UNIX) as listening:
        listening.bind(f"{path}.new")
        listening.listen(64)
        os.rename(f"{path}.new", path)
        while True:
            ready, _, _ = select.select([listening, woken], [], [])
            if woken in ready:
                os.read(woken, LARGEST)
                _say_how_they_ended(running)
            if listening in ready:
                line, _ = listening.accept()
                asked, files = _received(line)
                pid = os.fork()
                if not pid:
                    for each in (listening, line, *running.values()):
                        each.close()
                    return _become(asked, files)
                running[pid] = line
                line.sendall(f"{pid}\n".encode())
                for each in files:
                    os.close(each)


def _say_how_they_ended(running: dict[int, socket.socket]) -> None:
    with contextlib.suppress(ChildProcessError):
        while (ended := os.waitpid(-1, os.WNOHANG))[0]:
            with contextlib.suppress(OSError), running.pop(ended[0]) as line:
                line.sendall(f"{os.waitstatus_to_exitcode(ended[1])}\n".encode())


def _received(line: socket.socket) -> tuple[dict, list[int]]:
    said, files, _, _ = socket.recv_fds(line, LARGEST, 2)
    while more := line.recv(LARGEST):
        said += more
    return json.loads(said), files


def _become(asked: dict, files: list[int]) -> int:
    signal.set_wakeup_fd(-1)
    signal.signal(signal.SIGCHLD, signal.SIG_DFL)
    nothing = os.open(os.devnull, os.O_RDONLY)
    for own, number in ((nothing, 0), (files[0], 1), (files[1], 2)):
        os.dup2(own, number)
        os.close(own)
    os.chdir(asked["cwd"])
    os.environ.clear()
    os.environ.update(asked["environment"])
    if asked["tests"]:
        from tests.__main__ import run_here

        return run_here(asked["arguments"])
    from isodesm.cli.app import main

    sys.argv = [str(Path(__file__).parent.parent / "src/isodesm/__main__.py"), *asked["arguments"]]
    sys.modules["__main__"].__package__ = "isodesm"  # by which a program is known that says how it is called
    main()
    return 0


def _ended(path: str) -> int:
    """Serve; how a child ends, after all that it has to do at its end. What it holds is not taken apart: most is shared."""
    try:
        code = serve(path)
    except SystemExit as ended:
        code = ended.code if isinstance(ended.code, int) else int(ended.code is not None)
    threading._shutdown()  # type: ignore[attr-defined]
    atexit._run_exitfuncs()
    sys.stdout.flush()
    sys.stderr.flush()
    return code


if __name__ == "__main__":
    load()
    os._exit(_ended(sys.argv[1]))
