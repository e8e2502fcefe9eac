"""Redirect maps from a pairs file: written for a server, or checked against a host."""

from __future__ import annotations

import asyncio
import io
import zipfile
from collections import Counter
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, NamedTuple

from grandferry.core.errors import FerryError, NotThere
from grandferry.core.plan import DEFAULT_AGENT
from grandferry.core.route.flaws import flaws
from grandferry.core.route.redirects import RedirectMap, map_of
from grandferry.core.route.spell import without_rules
from grandferry.ports.planfolder import parse_pairs
from grandferry.ports.servers import SAID, SERVERS, Beyond, Bound, Head, server_named, write_out, written
from grandferry.store import crossings, route, stamps
from grandferry.work.route.check import check_lines
from grandferry.work.route.run import MAP, digest, redirect_map


def read_map(path: Path) -> RedirectMap:
    """The map in a pairs CSV. Raises PlanError with the line, FerryError when it cannot be read."""
    try:
        content = path.read_bytes()
    except OSError as problem:
        raise FerryError(f"{path} cannot be read: {problem.strerror}.") from None
    pairs = parse_pairs(content, path.name)
    if not pairs:
        raise FerryError(
            f"{path.name} holds no line.", "It needs the columns old,new,status,match and a line for each."
        )
    return map_of(pair.redirect for pair in pairs)


def write_map(path: Path, server: str, folder: Path) -> dict[str, Any]:
    """Write the map for a server and read it back. A loop is refused; other flaws are listed, and so are lines that the
    server cannot answer. Addresses that stay (old and new the same) need no line of a server and are left out, with
    their number."""
    given = read_map(path).redirects
    table = map_of(r for r in given if r.match != "exact" or r.old != r.new)
    found = flaws(table)
    loops = [f for f in found if f.kind == "loop"]
    if loops:
        raise FerryError(f"The map would lead visitors in a circle: {loops[0].text}", "Mend it first.")
    chosen = server_named(server)
    changed = datetime.fromtimestamp(path.stat().st_mtime, UTC).date().isoformat()
    files = write_out(table, server, folder, Head(path.name, changed))
    left_out = chosen.cannot(table)
    return {
        "server": server,
        "lines": len(table.redirects) - len(left_out),
        "stays": len(given) - len(table.redirects),
        "files": [str(f) for f in files],
        "flaws": [{"line": f.line + 1, "kind": f.kind, "text": f.text} for f in found],
        "left_out": [{"old": one.line.old, "why": SAID[one.why]} for one in left_out],
        "bounds": [SAID[bound] for bound in chosen.bounds(table)],
    }


def check_map(path: Path, base: str) -> dict[str, Any]:
    """Ask a host for every line of the map."""
    rows = asyncio.run(check_lines(list(read_map(path).redirects), base, DEFAULT_AGENT))
    return {"rows": rows, "counts": dict(Counter(row["verdict"] for row in rows))}


def servers() -> list[str]:
    return list(SERVERS)


class MapFiles(NamedTuple):
    """A crossing's map as a server's files. ``spelled``: lines in the place of rules that the server cannot compute;
    ``left_out``: what it cannot answer at all; ``changed``: the day of the last change, "" when it is not known."""

    files: dict[str, bytes]
    lines: int
    bounds: list[Bound]
    spelled: int
    left_out: list[Beyond]
    changed: str

    def text(self, file: str, most: int) -> str:
        """A file, or all of them one after the other; of more than ``most`` lines the first. Raises NotThere."""
        if file and file not in self.files:
            raise NotThere(f"“{file}” is no file of it; there are: {', '.join(self.files)}.")
        held = [self.files[file]] if file else self.files.values()
        text = "\n".join(content.decode("utf-8", "replace") for content in held)
        lines = text.split("\n", most)
        return text if len(lines) <= most else "\n".join([*lines[:most], ""])


_made: dict[tuple[int, str], tuple[str, MapFiles]] = {}


def map_files(crossing: int, server: str) -> MapFiles:
    """A crossing's redirect map as a server's files, read back. Raises FerryError for an unknown server, and for a map
    that does not read back."""
    chosen = server_named(server)
    table = redirect_map(crossing)
    named = crossings.crossing(crossing).name
    of_lines = digest(table.redirects)
    changed = stamps.since(crossing, MAP)[:10] if stamps.get(crossing, MAP) == of_lines else ""
    made_from = f"{of_lines} {stamps.decisions(crossing)} {changed} {named}"
    if (kept := _made.get((crossing, server))) is not None and kept[0] == made_from:
        return kept[1]
    rules = [one.line for one in chosen.cannot(table) if one.line.match != "exact"]
    lines = len(table.redirects)
    if rules:
        table = map_of(without_rules(table, route.decisions(crossing), rules))
    left_out = chosen.cannot(table)
    made = MapFiles(
        written(table, server, Head(named, changed)),
        len(table.redirects) - len(left_out),
        chosen.bounds(table),
        len(table.redirects) - (lines - len(rules)),
        left_out,
        changed,
    )
    _made.clear()  # one is enough: files of a large map are large
    _made[crossing, server] = (made_from, made)
    return made


def map_zip(crossing: int, server: str) -> bytes:
    """The files of a crossing's map for a server as a zip, the same bytes for the same map. Raises as ``map_files``."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, content in map_files(crossing, server).files.items():
            packed.writestr(zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0)), content, zipfile.ZIP_DEFLATED)
    return out.getvalue()
