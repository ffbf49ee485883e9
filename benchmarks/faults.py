"""`python -m benchmarks.faults [--every N]`: a step that is ended, or fails, at any call that changes the disk.

Each way through a step – written, checked green and red, saved meanwhile, taken back, committed – is taken again and again,
ended at the first such call, the second, and so on, by a kill, by Ctrl-C, by an error, by a disk that is full from then on.
Counted are the faults, and the trees that are then neither before, nor after, nor said to be interrupted and brought back.
"""

from __future__ import annotations

import argparse
import sys
import tempfile
from collections import Counter
from pathlib import Path

from tests.faults import FAULTS, PATHS, injected


def main() -> int:
    """Run, and print a table; 1 where anything went wrong."""
    parser = argparse.ArgumentParser(prog="python -m benchmarks.faults", description=__doc__)
    parser.add_argument("--every", type=int, default=1, help="only every so-manieth call")
    parser.add_argument("--ways", default="", help="only ways through a step that begin so, parted by commas")
    asked = parser.parse_args()
    counts: Counter[tuple[str, str]] = Counter()
    wrong: Counter[tuple[str, str]] = Counter()
    with tempfile.TemporaryDirectory(prefix="isodesm-faults-") as folder:
        for path, fault, moment, trouble in injected(Path(folder), asked.every, asked.ways):
            counts[path, fault] += 1
            if trouble:
                wrong[path, fault] += 1
                print(f"{path}, {fault} at {moment}: {trouble}", flush=True)
    print(f"{'way':22}" + "".join(f"{fault:>12}" for fault in FAULTS) + f"{'wrong':>8}")
    for path in PATHS:
        bad = sum(wrong[path, fault] for fault in FAULTS)
        print(f"{path:22}" + "".join(f"{counts[path, fault]:>12,}" for fault in FAULTS) + f"{bad:>8}")
    print(f"{counts.total():,} faults, {wrong.total()} wrong")
    return int(bool(wrong))


if __name__ == "__main__":
    sys.exit(main())
