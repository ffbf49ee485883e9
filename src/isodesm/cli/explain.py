"""`isodesm explain`."""

from __future__ import annotations

from typing import Annotated

import typer

from isodesm.cli.run import check_format, hand_out


def explain(
    name: Annotated[
        str,
        typer.Argument(help="A finding, excuse, technique, measure, setting or page; none lists them.", metavar="NAME"),
    ] = "",
    format: Annotated[str, typer.Option("--format", help="table or markdown.", metavar="FORMAT")] = "table",
) -> None:
    """What does this word mean, why does it matter, and what is done about it?"""
    from isodesm.output.pages import listed, page_of
    from isodesm.output.terminal import STRONG, content_of, make_console

    check_format(format, ("table", "markdown"))
    if not name:
        console = make_console(to_file=False)
        for sort, names in listed():
            console.print(f"\n{sort}s" if sort != "finding" else "findings", style=STRONG)
            console.print("  " + ", ".join(names))
        hand_out(content_of(console), None)
        return
    page = page_of(name.strip("`"))
    if format == "markdown":
        hand_out(page.encode(), None)
        return
    from rich.markdown import Markdown

    console = make_console(to_file=False)
    console.print(Markdown(page, hyperlinks=False))
    hand_out(content_of(console), None)
