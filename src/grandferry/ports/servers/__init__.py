"""Redirect maps written for servers, and read back. One module or folder a server, and a line here."""

from __future__ import annotations

from pathlib import Path
from typing import Protocol

from grandferry.core.errors import FerryError
from grandferry.core.route.evaluate import Answer
from grandferry.core.route.redirects import RedirectMap

from .nginx import Nginx
from .table import Table


class Server(Protocol):
    """A web server that a map can be written for. Everything it wants in its own way is known to its module alone."""

    name: str

    def write(self, redirects: RedirectMap) -> dict[str, bytes]:
        """The map as this server's files: name -> bytes."""
        ...

    def read(self, files: dict[str, bytes]) -> RedirectMap:
        """The map that such files say."""
        ...

    def answer(self, redirects: RedirectMap, request: str) -> Answer | None:
        """What the server, with these files, answers to a request line as sent; None when the map says nothing."""
        ...

    def cannot(self, redirects: RedirectMap) -> list[str]:
        """The lines (old addresses) that this server cannot answer as the map says; they have to be spelled out."""
        ...


_ALL: tuple[Server, ...] = (Nginx(), Table())
SERVERS: dict[str, Server] = {server.name: server for server in _ALL}


def write_out(redirects: RedirectMap, server: str, folder: Path) -> list[Path]:
    """Write a map for a server, read it back, and compare. Raises FerryError when what was written says otherwise."""
    if server not in SERVERS:
        raise FerryError(f"“{server}” is not a server this version writes for.", f"One of: {', '.join(SERVERS)}.")
    chosen = SERVERS[server]
    files = chosen.write(redirects)
    again = chosen.read(files)
    if sorted(again.exact.values(), key=repr) != sorted(redirects.exact.values(), key=repr):
        raise FerryError(f"The {server} files do not read back as the same exact lines.", "Nothing was written.")
    if again.prefixes != redirects.prefixes or [r for _, r in again.patterns] != [r for _, r in redirects.patterns]:
        raise FerryError(f"The {server} files do not read back as the same rules.", "Nothing was written.")
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for name, content in files.items():
            (folder / name).write_bytes(content)
    except OSError as problem:
        raise FerryError(f"{folder} cannot be written: {problem.strerror}.") from None
    return [folder / name for name in files]
