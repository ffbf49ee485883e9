"""`python -m benchmarks.patterns FOLDER`: hostile ignore and settings files over a codebase, against it without them.

Processor seconds of `scan`, without a cache, with fifty files of patterns that are made to take long, each as an ignore
file and as settings; as a ratio to the same codebase without any, both in one run.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

ALLOWED = 2.0
"""Times the processor time without such a file."""


def hostile() -> Iterator[str]:
    """Fifty texts of patterns."""
    for stars in (8, 12, 20, 60, 400):
        yield from (
            f"{'*a' * stars}b",
            f"{'*?' * stars}b",
            f"{'[a-z]*' * stars}0",
            f"{'**/a/' * stars}b",
            f"/{'**/*' * stars}b",
        )
    for count in (2_000, 20_000, 100_000):
        yield from (
            "\n".join(f"{form}{number}" for number in range(count)) for form in ("*x", "name", "dir/", "!*", "[ab]", "**/q/")
        )
    yield from (
        "[" * 100_000,
        "\\" * 99_999,
        "[z-a]\n" * 10_000,
        "[[:alpha:" * 10_000,
        "*" * 500_000,
        "?" * 4_000,
        "a/" * 300_000,
    )


def seconds(tree: Path) -> float:
    """Processor seconds of a scan."""
    before = os.times()
    command = [sys.executable, "-m", "isodesm", "scan", str(tree), "--no-cache", "-q", "--format", "json"]
    subprocess.run(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, check=False)
    after = os.times()
    return after.children_user + after.children_system - before.children_user - before.children_system


def main() -> int:
    """Run, and print the worst; 1 where one takes longer than allowed."""
    worst = (0.0, "", "")
    with tempfile.TemporaryDirectory(prefix="isodesm-patterns-") as folder:
        tree = Path(folder) / "tree"
        shutil.copytree(sys.argv[1], tree, symlinks=True)
        clean = min(seconds(tree) for _ in range(3))
        texts = list(hostile())
        for text in texts:
            quoted = "', '".join(line for line in text.split("\n")[:2_000] if "'" not in line)
            for name, content in ((".gitignore", text), ("isodesm.toml", f"exclude = ['{quoted}']\n")):
                (tree / name).write_text(content)
                worst = max(worst, (seconds(tree) / clean, name, text[:40]))
                (tree / name).unlink()
    print(f"clean: {clean:.2f} s of processor; {len(texts)} files, each as ignore file and settings")
    print(f"worst: {worst[0]:.2f} ×, {worst[1]}: {worst[2]!r}")
    return int(worst[0] > ALLOWED)


if __name__ == "__main__":
    sys.exit(main())
