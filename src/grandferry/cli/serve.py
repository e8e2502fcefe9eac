"""``grandferry serve``: the application on this machine."""

from __future__ import annotations

import socket
from importlib import import_module
from pathlib import Path
from typing import Annotated

import typer

from grandferry.core.errors import FerryError
from grandferry.store import password
from grandferry.store.workspace import close_workspace, open_workspace
from grandferry.work.jobs.supervisor import Supervisor

from .common import default_data, guarded, say

LOOPBACK = frozenset(["127.0.0.1", "localhost", "::1"])


@guarded
def command(
    data: Annotated[Path | None, typer.Option(help="the workspace's folder")] = None,
    host: Annotated[
        str, typer.Option(help="address to listen on; one that others reach needs a password")
    ] = "127.0.0.1",
    port: Annotated[int, typer.Option(help="port to listen on", min=1, max=65535)] = 8700,
) -> None:
    """Serve the application until stopped."""
    run(open_workspace(data or default_data()), host, port)


def run(folder: Path, host: str, port: int) -> None:
    """Serve an open workspace with a supervised worker. Raises FerryError when the port is taken."""
    shared = host not in LOOPBACK
    if shared and not password.is_kept():
        raise FerryError(f"Serving on {host} needs a password.", "Set one with: grandferry password --data DIR.")
    if port >= 65535:
        raise FerryError(
            f"Port {port} leaves none for previews of captured pages, which are served at the next one.",
            "Choose a lower one with --port.",
        )
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    for wanted in (port, port + 1):
        with socket.socket(family) as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind((host, wanted))
            except OSError as problem:
                what = "" if wanted == port else " (for previews of captured pages)"
                raise FerryError(
                    f"Port {wanted}{what} cannot be used: {problem.strerror}.", "Choose another one with --port."
                ) from None
    try:
        with Supervisor(folder):
            named = f"[{host}]" if ":" in host else host
            say(f"Grand Ferry serves {folder} at http://{named}:{port}/ (Ctrl+C ends it).")
            if shared:
                say("Other machines reach it with the password. Nothing is encrypted on the way.")
            # by name: the command line stands beside the API, not on it
            import_module("grandferry.api.app").serve(host, port, port + 1, shared)
    finally:
        close_workspace()
