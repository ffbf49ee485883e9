"""The page on what a plan leaves, made from the sentences that plans say."""

from __future__ import annotations

import re
import tomllib
from pathlib import Path

from isodesm.planning.model.refusal import Reason
from isodesm.planning.wording.reasons import SENTENCES

_FACT = re.compile(r"\{\w+\}")


def left_page() -> str:
    """The whole page: a section by what a reason asks of its reader; `…` stands for a name or a number."""
    given = tomllib.loads(Path(__file__).with_name("left.toml").read_text(encoding="utf-8"))
    lines = ["# Why a plan leaves something", "", given["introduction"]]
    for section in given["section"]:
        lines += ["", f"## {section['title']}", ""]
        lines += [section["text"], ""] if "text" in section else []
        lines += [f"- {said(name)}" for name in section["reasons"]]
    return "\n".join(lines) + "\n"


def said(name: str) -> str:
    """The sentence of a reason by its name; of one that another gives as its cause, by both: `OUTER.INNER`."""
    outer, _, inner = name.partition(".")
    sentence = SENTENCES[Reason[outer]]
    return sentence.replace("{because}", said(inner)) if inner else _FACT.sub("…", sentence)


def reasons_shown() -> list[Reason]:
    """Every reason that the page has, in its order; the last of those that name another."""
    given = tomllib.loads(Path(__file__).with_name("left.toml").read_text(encoding="utf-8"))
    return [Reason[name.rpartition(".")[2]] for section in given["section"] for name in section["reasons"]]
