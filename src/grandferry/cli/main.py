"""``grandferry``: every command the tool has. Exit codes: 0 done, 1 done with open or failed things, 2 wrong use.

Each command is a module of its own, and only the one that is called is imported: most of a short command's time would
go into importing all the others.
"""

from __future__ import annotations

import sys
from importlib import import_module
from typing import Annotated

import typer

from grandferry import __version__

# name -> module, and what it does in a line
COMMANDS = {
    "demo": ("demo", "The whole application with the demo data; with --headless the demo crossing from end to end."),
    "serve": ("serve", "Serve the application until stopped."),
    "password": ("password", "Set the password that other machines are asked for."),
    "run": ("run", "Run a plan from survey to the check of every old address. Only what is behind is done."),
    "survey": ("survey", "Walk a site and list every address."),
    "draft": ("draft", "A first draft of the whole crossing by proposals alone, in a folder."),
    "sort": ("sort", "Pages grouped by how they are made."),
    "records": ("records", "What a feed, a blog export or a table holds, and its records in a file."),
    "items": ("items", "The items of a crossing as JSON lines, CSV or XLSX."),
    "refit": ("refit", "Convert HTML to Markdown, clean HTML, blocks or text, with an account of every word."),
    "land": ("land", "Content delivered: over HTTP, or as a folder of Markdown, JSON or HTML pages."),
    "profile": ("profile", "A ready profile of a folder of Markdown, to begin one of your own from."),
    "route": ("routes", "Redirect maps from a pairs file."),
}
ABOUT = "Carries a web site from an old content system to a new one, and accounts for everything."


def _version(wanted: bool) -> None:
    if wanted:
        print(__version__)
        raise typer.Exit


def _top(version: Annotated[bool, typer.Option("--version", callback=_version, is_eager=True)] = False) -> None:
    pass


def _named() -> None:
    """Stands for a command that was not called."""


def make_app(called: str) -> typer.Typer:
    """The command line with ``called`` to be run; of the others the names and what they do."""
    app = typer.Typer(no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False, help=ABOUT)
    app.callback()(_top)
    for name, (module, does) in COMMANDS.items():
        if name != called:
            app.command(name, help=does)(_named)
            continue
        found = import_module(f".{module}", __package__)
        if hasattr(found, "app"):
            app.add_typer(found.app, name=name, help=does)
        else:
            app.command(name, help=does)(found.command)
    return app


def main() -> None:
    """The entry point."""
    make_app(next((word for word in sys.argv[1:] if not word.startswith("-")), ""))()


if __name__ == "__main__":
    main()
