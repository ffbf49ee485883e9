"""`python -m benchmarks [FOLDER ...]`: cold, warm and one-file-changed runs of `scan`, per language.

Without folders the sample codebases are measured, each copied many times over. A folder is measured in every language
that it holds files of. Times are ratios to the bare parser in one process; memory is the peak of the main process.
"""

from __future__ import annotations

import shutil
import sys
import tempfile
from pathlib import Path

from benchmarks.floor import Run, bare, timed

COPIES = 120
"""Copies of each sample: enough lines that starting the interpreter does not drown what is measured."""


def run(folder: Path, language: str, cache: Path) -> Run:
    """One run of `scan` over a folder with a cache folder."""
    return timed(["scan", str(folder), "--language", language, "--quiet", "--cache-dir", str(cache)])


def measure(folder: Path, language: str) -> str:
    """A line of the table for one language of a folder, '' where it holds no files of it."""
    floor, lines = bare(folder, language)
    if not lines:
        return ""
    with tempfile.TemporaryDirectory() as holder:
        cache = Path(holder) / "cache"
        cold, warm = run(folder, language, cache), run(folder, language, cache)
        changed = run_changed(folder, language, cache)
    ratios = "".join(f"{each.seconds / floor:10.2f}" for each in (cold, warm, changed))
    return f"{folder.name[:20]:20} {language:10} {lines:9,} {floor:8.2f} s{ratios} {cold.megabytes:8.0f} {warm.megabytes:8.0f}"


def run_changed(folder: Path, language: str, cache: Path) -> Run:
    """A run after one file has got a line more; the file is put back."""
    from isodesm.reading.discovery import discover
    from isodesm.settings import Settings

    files = discover(folder, Settings(languages=(language,))).files
    path = folder / files[len(files) // 2].path
    content = path.read_bytes()
    try:
        path.write_bytes(content + b"\n")
        return run(folder, language, cache)
    finally:
        path.write_bytes(content)


def samples(holder: Path) -> list[Path]:
    """The sample codebases, multiplied."""
    from isodesm.demo.catalogue import samples as known

    names = [each.name for each in known()]
    source = Path(__file__).parent.parent / "src/isodesm/demo/samples"
    for name in names:
        for copy in range(COPIES):
            shutil.copytree(source / name, holder / name / f"copy{copy}")
    return [holder / name for name in names]


def main(arguments: list[str]) -> None:
    """Print the table."""
    from isodesm.facts.languages import LANGUAGES

    print(f"{'':20} {'':10} {'lines':>9} {'parser':>10}{'cold':>10}{'warm':>10}{'changed':>10} {'cold MB':>8} {'warm MB':>8}")
    with tempfile.TemporaryDirectory() as holder:
        for folder in [Path(each) for each in arguments] or samples(Path(holder)):
            for language in LANGUAGES:
                if line := measure(folder, language):
                    print(line, flush=True)


if __name__ == "__main__":
    main(sys.argv[1:])
