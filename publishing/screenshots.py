"""The pictures of the commands, made anew from the samples by `python -m publishing.screenshots`.

Beside them lies what they were made from, so that a test can say which is out of date.
"""

from __future__ import annotations

import fcntl
import hashlib
import json
import os
import pty
import re
import shlex
import shutil
import struct
import subprocess
import sys
import tempfile
import termios
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from isodesm.cli.demo import copy_sample

FOLDER = Path(__file__).parent.parent / "docs/screenshots"
TEXTS = FOLDER / "texts.json"
COLUMNS, ROWS, WIDTH = 156, 48, 1280
SAMPLES = ("bulletin-desk", "sensor-hub")


class Picture(NamedTuple):
    """The commands that a picture shows, or one that draws it itself or writes a page to be shown, in a folder of fresh samples
    with their history."""

    commands: tuple[str, ...]
    drawn: bool = False
    page: bool = False


PICTURES = {
    "scan": Picture(("isodesm scan bulletin-desk -q",)),
    "rank": Picture(("isodesm rank bulletin-desk -q",)),
    "rank-figure": Picture(("isodesm rank bulletin-desk -q --figure {figure}",), drawn=True),
    "about": Picture(("isodesm about BulletinService bulletin-desk -q",)),
    "trace": Picture(("isodesm trace MorningRound.run bulletin-desk -q",)),
    "layers": Picture(("isodesm layers bulletin-desk -q",)),
    "wiring": Picture(("isodesm wiring sensor-hub -q",)),
    "plan": Picture(("isodesm plan bulletin-desk -q",)),
    "plan-figure": Picture(("isodesm plan bulletin-desk -q --steps 0 --figure {figure}",), drawn=True),
    "step": Picture(("isodesm step bulletin-desk -q --write --count 3 --commit",)),
    "drift": Picture(("isodesm drift bulletin-desk -q --since HEAD~2",)),
    "course": Picture(("isodesm drift bulletin-desk -q --over 20 --figure {figure}",), drawn=True),
    "report": Picture(("isodesm report bulletin-desk -q --over 12 -o page.html",), page=True),
    "fleet": Picture(("isodesm fleet '*-*' --workers 1 -q",)),
    "explain": Picture(("isodesm explain service-lookup",)),
    "export": Picture(("isodesm export bonds bulletin-desk -q --kind creation --format csv | cut -c -154 | head -40",)),
    "demo": Picture(("isodesm demo again",)),
}
COLOURS = {
    "31": (178, 34, 34),
    "32": (45, 110, 45),
    "33": (150, 100, 0),
    "34": (30, 80, 160),
    "35": (120, 50, 130),
    "36": (0, 110, 120),
    "37": (136, 136, 136),
    "90": (136, 136, 136),
}
INK, FAINT, GROUND = (17, 17, 17), (136, 136, 136), (254, 254, 250)
_CODE = re.compile(r"\x1b\[([0-9;]*)m")
_OTHER = re.compile(r"\x1b\][^\x07]*\x07|\x1b\[[0-9;?]*[A-Za-ln-z]")
_VARYING = re.compile(r"\b\d+(?:\.\d+)? s\b|\b[0-9a-f]{7,40}\b|/tmp/\S+|tmp\w{6,}")
"""What differs from run to run: seconds, commits, folders."""


def samples() -> Iterator[Path]:
    """A folder with fresh copies of the samples that pictures are made of."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for each in SAMPLES:
            copy_sample(each, folder)
        yield folder


def captured(command: str, folder: Path) -> str:
    """What a command shows on a terminal of COLUMNS and ROWS in that folder, with its colours."""
    ours, theirs = pty.openpty()
    fcntl.ioctl(theirs, termios.TIOCSWINSZ, struct.pack("HHHH", ROWS, COLUMNS, 0, 0))
    environment = {
        **os.environ,
        "PATH": f"{Path(sys.executable).parent}:{os.environ.get('PATH', '')}",
        "COLUMNS": str(COLUMNS),
        "TERM": "xterm-256color",
        "ISODESM_CACHE_DIR": str(folder / ".cache"),
        "GIT_AUTHOR_NAME": "Desk",
        "GIT_AUTHOR_EMAIL": "desk@hollin.example",
        "GIT_COMMITTER_NAME": "Desk",
        "GIT_COMMITTER_EMAIL": "desk@hollin.example",
    }
    run = subprocess.Popen(
        ["sh", "-c", command], cwd=folder, stdout=theirs, stderr=subprocess.DEVNULL, stdin=subprocess.DEVNULL, env=environment
    )
    os.close(theirs)
    parts = []
    while True:
        try:
            part = os.read(ours, 65536)
        except OSError:  # the other end is closed
            break
        if not part:
            break
        parts.append(part)
    os.close(ours)
    run.wait()
    return _OTHER.sub("", b"".join(parts).decode("utf-8", "replace").replace("\r", ""))


def shown(picture: Picture, folder: Path, figure: Path) -> str:
    """The first screen of what the commands of a picture show, each behind a prompt."""
    told = []
    for command in picture.commands:
        text = captured(command.format(figure=shlex.quote(str(figure))), folder)
        told.append(f"\x1b[90m$ {command}\x1b[0m\n{text}")
    return "\n".join("\n".join(told).rstrip("\n").split("\n")[:ROWS])


def digest_of(text: str) -> str:
    """What a text is known by: without colours, and without what differs from run to run."""
    return hashlib.sha256(_VARYING.sub("·", _CODE.sub("", text)).encode()).hexdigest()[:16]


def drawn(text: str, path: Path) -> None:
    """A text as a picture."""
    import matplotlib
    from PIL import Image, ImageDraw, ImageFont

    fonts = Path(matplotlib.get_data_path()) / "fonts/ttf"
    plain, bold = (ImageFont.truetype(str(fonts / f"DejaVuSansMono{style}.ttf"), 13) for style in ("", "-Bold"))
    lines = text.split("\n")
    image = Image.new("RGB", (WIDTH, 24 + int(16.5 * len(lines))), GROUND)
    draw, style = ImageDraw.Draw(image), {"colour": INK, "bold": False, "dim": False}
    for number, line in enumerate(lines):
        x = 10.0
        for index, part in enumerate(_CODE.split(line)):
            if index % 2:
                _turn(style, part)
            elif part:
                fill = FAINT if style["dim"] else style["colour"]
                draw.text((x, 12 + 16.5 * number), part, font=bold if style["bold"] else plain, fill=fill)
                x += 7.826 * len(part)
    image.save(path, optimize=True)


def photographed(page: Path, path: Path) -> None:
    """A page as a browser shows it first."""
    from selenium import webdriver
    from selenium.webdriver.chrome.service import Service

    options = webdriver.ChromeOptions()
    options.binary_location = shutil.which("chromium") or "chromium"
    for each in ("--headless=new", "--no-sandbox", "--disable-gpu", f"--window-size={WIDTH},800"):
        options.add_argument(each)
    driver = webdriver.Chrome(options=options, service=Service(shutil.which("chromedriver")))
    try:
        size = {"width": WIDTH, "height": 800, "deviceScaleFactor": 1, "mobile": False}
        driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
        driver.get(f"file://{page}")
        driver.save_screenshot(str(path))
    finally:
        driver.quit()


def _turn(style: dict[str, object], codes: str) -> None:
    """Take up a change of colour or weight."""
    for code in (codes or "0").split(";"):
        if code in ("0", ""):
            style.update(colour=INK, bold=False, dim=False)
        elif code in ("1", "2"):
            style["bold" if code == "1" else "dim"] = True
        elif code == "22":
            style.update(bold=False, dim=False)
        elif code == "39":
            style["colour"] = INK
        elif code in COLOURS:
            style["colour"] = COLOURS[code]


def main() -> None:
    """Make all pictures whose text has changed, or those named."""
    kept = json.loads(TEXTS.read_text()) if TEXTS.exists() else {}
    for name in sys.argv[1:] or PICTURES:
        for folder in samples():
            figure = folder / "figure.png"
            text = shown(PICTURES[name], folder, figure)
            if PICTURES[name].page:
                photographed(folder / "page.html", FOLDER / f"{name}.png")
            elif PICTURES[name].drawn:
                shutil.copyfile(figure, FOLDER / f"{name}.png")
            elif kept.get(name) != digest_of(text) or sys.argv[1:]:
                drawn(text, FOLDER / f"{name}.png")
            kept[name] = digest_of(text)
    TEXTS.write_text(json.dumps(dict(sorted(kept.items())), indent=2) + "\n")


if __name__ == "__main__":
    main()
