"""The man page, made from the help texts."""

from __future__ import annotations

from typing import Any

import typer

from isodesm import __version__
from isodesm.cli.app import app
from isodesm.cli.commands import command
from isodesm.cli.examples import EXAMPLES, EXIT_CODES, QUESTIONS
from isodesm.cli.options import UNSET

SHARED = tuple(UNSET)
"""Options of all commands that read a tree, described once."""


def man_page() -> str:
    """The page of section 1, in the macros of man(7)."""
    root: Any = typer.main.get_command(app)
    lines = [
        f'.TH ISODESM 1 "" "isodesm {__version__}" "User Commands"',
        ".SH NAME",
        "isodesm \\- finds hard\\-wired bonds in object\\-oriented code and plans their loosening",
        ".SH SYNOPSIS",
        ".B isodesm",
        "\\fICOMMAND\\fR [\\fIOPTIONS\\fR] [\\fIPATH\\fR]",
        ".SH DESCRIPTION",
        _escaped(root.help),
        "Java, C#, TypeScript and JavaScript, PHP and Python are read; nothing is compiled or run.",
        ".SH COMMANDS",
    ]
    for name in QUESTIONS:
        own = command(name)
        arguments = " ".join(f"\\fI{_escaped((each.metavar or each.name).strip('[]').upper())}\\fR" for each in _arguments(own))
        lines += [".SS", f"isodesm {name} {arguments}".rstrip(), _escaped(own.help)]
        lines += _options(own, lambda each: each.name not in SHARED and each.name != "help")
        lines += [".PP", "Examples:", ".nf", *(f"isodesm {_escaped(each)}" for each in EXAMPLES[name]), ".fi"]
    lines += [
        ".SH OPTIONS OF ALL COMMANDS THAT READ A TREE",
        *_options(command("scan"), lambda each: each.name in SHARED),
    ]
    lines.append(".SH EXIT STATUS")
    for code, said in EXIT_CODES.items():
        lines += [".TP", f".B {code}", _escaped(said)]
    lines += [
        ".SH FILES",
        ".TP",
        ".I isodesm.toml",
        "Settings, in the folder that is read or in one above it; \\fBisodesm explain settings\\fR lists the keys.",
        ".SH SEE ALSO",
        "\\fBisodesm explain\\fR has a page about each finding, excuse, technique, measure and setting.",
    ]
    return "\n".join(lines) + "\n"


def _arguments(command: Any) -> list[Any]:
    return [each for each in command.params if each.param_type_name == "argument"]


def _options(command: Any, wanted: Any) -> list[str]:
    lines = []
    for each in command.params:
        if each.param_type_name == "option" and wanted(each):
            names = ", ".join(f"\\fB{_escaped(name)}\\fR" for name in each.opts)
            takes = "" if each.is_flag else f" \\fI{_escaped(each.metavar or '')}\\fR"
            lines += [".TP", names + takes, _escaped(each.help or "")]
    return lines


def _escaped(text: str) -> str:
    """Text in which nothing is a macro, and hyphens can be copied."""
    text = " ".join(text.split()).replace("\\", "\\e").replace("-", "\\-")
    text = "".join(each if each.isascii() else f"\\[u{ord(each):04X}]" for each in text)
    return f"\\&{text}" if text.startswith((".", "'")) else text
