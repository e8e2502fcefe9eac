"""Redirect maps written for servers, and read back. One module a server, each with ``write`` and ``read``."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from grandferry.core.errors import FerryError
from grandferry.core.route.redirects import RedirectMap

from . import nginx, table


@dataclass(frozen=True, slots=True)
class Server:
    """``write`` gives file name -> bytes; ``read`` makes the map from them again."""

    name: str
    write: Callable[[RedirectMap], dict[str, bytes]]
    read: Callable[[dict[str, bytes]], RedirectMap]


SERVERS = {s.name: s for s in (Server("nginx", nginx.write, nginx.read), Server("csv", table.write, table.read))}


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
