"""Writes the page: template, style and script, the data between them escaped for its place, and a policy that lets nothing
else run or load."""

from __future__ import annotations

import base64
import hashlib
from pathlib import Path
from typing import Any

import msgspec

from isodesm.output.text import printable

HERE = Path(__file__).parent
OF_TREE = ("page.html.j2", ("parts.js", "tables.js", "drawings.js", "views.js", "start.js"))
OF_FLEET = ("fleet.html.j2", ("parts.js", "drawings.js", "fleet.js"))
"""Template and scripts of a page about one tree, and of one about many; in the order in which they build on each other."""
POLICY = "default-src 'none'; style-src '{style}'; script-src '{script}'; base-uri 'none'; form-action 'none'"
"""Only this style and this script, by their digests; nothing is loaded, framed or sent."""
_ESCAPED = {"<": "\\u003c", ">": "\\u003e", "&": "\\u0026", "\u2028": "\\u2028", "\u2029": "\\u2029"}
"""What could end a script element, or a line of one, as JSON may write it, too."""


def page_of(content: dict[str, Any], kind: tuple[str, tuple[str, ...]] = OF_TREE) -> bytes:
    """The page, in UTF-8."""
    template, scripts = kind
    from jinja2 import Environment, FileSystemLoader, StrictUndefined

    style = (HERE / "page.css").read_text(encoding="utf-8")
    script = "\n".join((HERE / name).read_text(encoding="utf-8") for name in scripts)
    environment = Environment(
        loader=FileSystemLoader(HERE), autoescape=True, undefined=StrictUndefined, keep_trailing_newline=True
    )
    page = environment.get_template(template).render(
        title=printable(content["title"]),
        policy=POLICY.format(style=_digest(style), script=_digest(script)),
        style=style,
        script=script,
        data=as_script(content),
    )
    return page.encode("utf-8", "backslashreplace")


def as_script(content: Any) -> str:
    """A value as JSON that can stand in a script element whatever its texts hold."""
    text = msgspec.json.encode(content).decode()
    for sign, written in _ESCAPED.items():
        text = text.replace(sign, written)
    return text


def _digest(text: str) -> str:
    """What a policy knows a text by."""
    return "sha256-" + base64.b64encode(hashlib.sha256(text.encode()).digest()).decode()
