from __future__ import annotations

import socket
import time

from forecast.model import Verdict

PAUSE_SECONDS = 2.0


class WardenBoard:
    """The board in the wardens' hut, fed over a line-based socket."""

    def __init__(self, host: str, port: int) -> None:
        self.host = host
        self.port = port

    def post(self, verdict: Verdict) -> None:
        for attempt in range(3):
            try:
                with socket.create_connection((self.host, self.port), timeout=5) as line:
                    line.sendall(f"{verdict.valley} {verdict.stability.name}\n".encode())
                    return
            except OSError:
                time.sleep(PAUSE_SECONDS * (attempt + 1))
