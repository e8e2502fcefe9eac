"""``grandferry password``: what others have to give when the application is served to other machines."""

from __future__ import annotations

import getpass
import sys
from pathlib import Path
from typing import Annotated

import typer

from grandferry.core.errors import FerryError
from grandferry.store import password
from grandferry.store.workspace import close_workspace, open_workspace

from .common import default_data, guarded, say


@guarded
def command(data: Annotated[Path | None, typer.Option(help="the workspace's folder")] = None) -> None:
    """Set the password of a workspace: asked for twice, or read from standard input."""
    open_workspace(data or default_data())
    try:
        if sys.stdin.isatty():
            word = getpass.getpass("Password: ")
            if getpass.getpass("Once more: ") != word:
                raise FerryError("The two are not the same.", "Nothing is changed.")
        else:
            word = sys.stdin.readline().rstrip("\r\n")
        password.keep(word)
    finally:
        close_workspace()
    say("The password is set. Who signed in before is asked for it when the application is started again.")
