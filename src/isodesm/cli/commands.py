"""The commands by name: each is imported when it is called, so that a help text does not pay for all of them."""

from __future__ import annotations

from importlib import import_module
from typing import Any

import typer
from typer.core import TyperCommand, TyperGroup

from isodesm.cli.examples import QUESTIONS, examples_of


def command(name: str) -> Any:
    """The command of a name, put together from its module."""
    app = typer.Typer(add_completion=False, rich_markup_mode=None)
    app.command(name, epilog=examples_of(name))(getattr(import_module(f"isodesm.cli.{name}"), name))
    return typer.main.get_command(app)


class Commands(TyperGroup):
    """The group of all commands: it knows what each answers, and imports the one that is called."""

    def __init__(self, **attributes: Any) -> None:
        attributes["commands"] = {name: TyperCommand(name=name, help=said) for name, said in QUESTIONS.items()}
        super().__init__(**attributes)

    def resolve_command(self, ctx: Any, args: list[str]) -> Any:
        """The command that is called, and what it is given."""
        name, found, rest = super().resolve_command(ctx, args)
        return name, command(name) if found is not None and name is not None else found, rest
