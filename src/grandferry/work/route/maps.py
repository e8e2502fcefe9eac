"""Redirect maps from a pairs file: written for a server, or checked against a host."""

from __future__ import annotations

import asyncio
from collections import Counter
from pathlib import Path
from typing import Any

from grandferry.core.errors import FerryError
from grandferry.core.plan import DEFAULT_AGENT
from grandferry.core.route.flaws import flaws
from grandferry.core.route.redirects import RedirectMap, map_of
from grandferry.ports.planfolder import parse_pairs
from grandferry.ports.servers import SERVERS, write_out
from grandferry.work.route.check import check_lines
from grandferry.work.route.run import redirect_map


def read_map(path: Path) -> RedirectMap:
    """The map in a pairs CSV. Raises PlanError with the line, FerryError when it cannot be read."""
    try:
        content = path.read_bytes()
    except OSError as problem:
        raise FerryError(f"{path} cannot be read: {problem.strerror}.") from None
    return map_of(pair.redirect for pair in parse_pairs(content, path.name))


def write_map(path: Path, server: str, folder: Path) -> dict[str, Any]:
    """Write the map for a server and read it back. A loop is refused; other flaws are listed. Addresses that stay
    (old and new the same) need no line of a server and are left out, with their number."""
    given = read_map(path).redirects
    table = map_of(r for r in given if r.match != "exact" or r.old != r.new)
    found = flaws(table)
    loops = [f for f in found if f.kind == "loop"]
    if loops:
        raise FerryError(f"The map would lead visitors in a circle: {loops[0].text}", "Mend it first.")
    files = write_out(table, server, folder)
    return {
        "server": server,
        "lines": len(table.redirects),
        "stays": len(given) - len(table.redirects),
        "files": [str(f) for f in files],
        "flaws": [{"line": f.line + 1, "kind": f.kind, "text": f.text} for f in found],
    }


def check_map(path: Path, base: str) -> dict[str, Any]:
    """Ask a host for every line of the map."""
    rows = asyncio.run(check_lines(list(read_map(path).redirects), base, DEFAULT_AGENT))
    return {"rows": rows, "counts": dict(Counter(row["verdict"] for row in rows))}


def servers() -> list[str]:
    return list(SERVERS)


def map_text(crossing: int, server: str) -> str:
    """A crossing's redirect map as a server's files, one after the other. Raises FerryError for an unknown server."""
    if server not in SERVERS:
        raise FerryError(f"“{server}” is not a server this version writes for.", f"One of: {', '.join(SERVERS)}.")
    files = SERVERS[server].write(redirect_map(crossing))
    return "\n".join(content.decode("utf-8", "replace") for content in files.values())
