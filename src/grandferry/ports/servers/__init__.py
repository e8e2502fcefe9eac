"""Redirect maps written for servers, and read back. One module or folder a server, and a line here."""

from __future__ import annotations

from pathlib import Path
from typing import Protocol

from grandferry.core.errors import FerryError
from grandferry.core.route.evaluate import Answer
from grandferry.core.route.redirects import RedirectMap

from .apache import Apache, Htaccess
from .bounds import SAID, Bound
from .caddy import Caddy
from .haproxy import HAProxy
from .lighttpd import Lighttpd
from .lines import NO_HEAD, Beyond, Head, without
from .nginx import Nginx
from .static import RedirectsFile
from .table import Json, Table

__all__ = ["NO_HEAD", "SAID", "SERVERS", "Beyond", "Bound", "Head", "Server", "server_named", "write_out", "written"]


class Server(Protocol):
    """A web server that a map can be written for. Everything it wants in its own way is known to its module alone."""

    name: str

    def write(self, redirects: RedirectMap, head: Head = NO_HEAD) -> dict[str, bytes]:
        """The map as this server's files: name -> bytes, without the lines that it ``cannot``."""
        ...

    def read(self, files: dict[str, bytes]) -> RedirectMap:
        """The map that such files say."""
        ...

    def answer(self, redirects: RedirectMap, request: str) -> Answer | None:
        """What the server, with these files, answers to a request line as sent; None when the map says nothing."""
        ...

    def cannot(self, redirects: RedirectMap) -> list[Beyond]:
        """The lines that this server cannot answer as the map says; what can be spelled out has to be before."""
        ...

    def bounds(self, redirects: RedirectMap) -> list[Bound]:
        """Where this server answers otherwise than others, or has a bound."""
        ...


_ALL: tuple[Server, ...] = (
    Nginx(),
    Apache(),
    Htaccess(),
    Caddy(),
    HAProxy(),
    Lighttpd(),
    RedirectsFile(),
    Table(),
    Json(),
)
SERVERS: dict[str, Server] = {server.name: server for server in _ALL}


def server_named(name: str) -> Server:
    """Raises FerryError for a name that none has."""
    if name not in SERVERS:
        raise FerryError(f"“{name}” is not a server this version writes for.", f"One of: {', '.join(SERVERS)}.")
    return SERVERS[name]


def written(redirects: RedirectMap, server: str, head: Head = NO_HEAD) -> dict[str, bytes]:
    """The map as a server's files, read back and compared. Raises FerryError when what was written says otherwise."""
    chosen = server_named(server)
    files = chosen.write(redirects, head)
    wanted = without(redirects, chosen.cannot(redirects))
    again = chosen.read(files)
    if sorted(again.exact.values(), key=repr) != sorted(wanted.exact.values(), key=repr):
        raise FerryError(f"The {server} files do not read back as the same exact lines.", "Nothing was written.")
    if again.prefixes != wanted.prefixes or [r for _, r in again.patterns] != [r for _, r in wanted.patterns]:
        raise FerryError(f"The {server} files do not read back as the same rules.", "Nothing was written.")
    return files


def write_out(redirects: RedirectMap, server: str, folder: Path, head: Head = NO_HEAD) -> list[Path]:
    """Write a map for a server into a folder. Raises FerryError as ``written`` does, and when it cannot be written."""
    files = written(redirects, server, head)
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for name, content in files.items():
            (folder / name).write_bytes(content)
    except OSError as problem:
        raise FerryError(f"{folder} cannot be written: {problem.strerror}.") from None
    return [folder / name for name in files]
