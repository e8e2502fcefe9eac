"""``grandferry serve``: the application on this machine."""

from __future__ import annotations

import os
import socket
from pathlib import Path
from typing import Annotated

import typer
import uvicorn

from grandferry.core.errors import FerryError
from grandferry.store.db import close_workspace, open_workspace
from grandferry.work.supervisor import Supervisor

from .common import default_data, guarded, say

LOOPBACK = frozenset(["127.0.0.1", "localhost", "::1"])


@guarded
def command(
    data: Annotated[Path | None, typer.Option(help="the workspace's folder")] = None,
    host: Annotated[str, typer.Option(help="address to listen on")] = "127.0.0.1",
    port: Annotated[int, typer.Option(help="port to listen on", min=1, max=65535)] = 8700,
) -> None:
    """Serve the application (the API, for now) until stopped."""
    run(open_workspace(data or default_data()), host, port)


def run(folder: Path, host: str, port: int) -> None:
    """Serve an open workspace with a supervised worker. Raises FerryError when the port is taken."""
    if host not in LOOPBACK:
        raise FerryError(f"Serving on {host} needs a password, which this version does not have.", "Use 127.0.0.1.")
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError as problem:
            raise FerryError(
                f"Port {port} cannot be used: {problem.strerror}.", "Choose another one with --port."
            ) from None
    try:
        with Supervisor(folder):
            say(f"Grand Ferry serves {folder} at http://{host}:{port}/ (Ctrl+C ends it).")
            os.environ["GRANDFERRY_PORT"] = str(port)
            # by name: the command line stands beside the API, not on it
            uvicorn.run(
                "grandferry.api.app:make_app", factory=True, host=host, port=port, log_level="warning", access_log=False
            )
    finally:
        close_workspace()
