"""`python -m benchmarks.fleet FOLDERS…`: lines a second of a fleet with one and two workers, beside plain rankings.

Everything is cold; the kinds of runs alternate, and medians are printed.
"""

from __future__ import annotations

import argparse
import json
import statistics
import subprocess
import sys
import time

ROUNDS = 3


def seconds_of(*arguments: str) -> float:
    """How long a command takes, its output thrown away."""
    begin = time.perf_counter()
    subprocess.run([sys.executable, "-m", "isodesm", *arguments, "--no-cache", "-q"], check=True, capture_output=True)
    return time.perf_counter() - begin


def main() -> None:
    """Run, and print a table."""
    parser = argparse.ArgumentParser(prog="python -m benchmarks.fleet", description=__doc__)
    parser.add_argument("folders", nargs="+", metavar="FOLDER")
    folders = parser.parse_args().folders
    command = [sys.executable, "-m", "isodesm", "fleet", *folders, "--workers", "1", "--format", "json", "-q"]
    lines = json.loads(subprocess.run(command, check=True, capture_output=True).stdout)["result"]["summary"]["lines"]
    runs: dict[str, list[float]] = {"plain ranks, one after the other": [], "fleet, 1 worker": [], "fleet, 2 workers": []}
    for _ in range(ROUNDS):
        runs["plain ranks, one after the other"].append(sum(seconds_of("rank", each, "--workers", "1") for each in folders))
        runs["fleet, 1 worker"].append(seconds_of("fleet", *folders, "--workers", "1"))
        runs["fleet, 2 workers"].append(seconds_of("fleet", *folders, "--workers", "2"))
    plain = statistics.median(runs["plain ranks, one after the other"])
    print(f"{len(folders)} trees, {lines:,} lines\n")
    print(f"{'':34} {'seconds':>8} {'lines/s':>9} {'of plain':>9}")
    for name, found in runs.items():
        took = statistics.median(found)
        print(f"{name:34} {took:8.1f} {lines / took:9,.0f} {took / plain:8.2f}x")


if __name__ == "__main__":
    main()
