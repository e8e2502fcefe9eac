"""Lists, tables and logs handed over: understood, weighed against what is known, and taken."""

from __future__ import annotations

import os
import re
import time
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from grandferry.core.address import split_href
from grandferry.core.errors import FerryError, NotThere
from grandferry.core.route.decided import is_decisions
from grandferry.core.side import Side
from grandferry.core.survey.scope import scope_of
from grandferry.core.survey.spellings import Line, ListRead, read_list
from grandferry.ports.sources.archive import is_archive
from grandferry.ports.sources.serverlog import LINE, count_visits, log_lines, own_machines
from grandferry.ports.sources.sitemap import read_feed, read_sitemap
from grandferry.ports.sources.table import look, number, table_rows
from grandferry.store import bodies, crossings
from grandferry.store.db import transaction
from grandferry.store.survey import given
from grandferry.store.survey.given import Visits
from grandferry.work.jobs.context import Context

LINES_CAP = 200_000  # of a list or table; a log may have any number
KEPT_HOURS = 24
_NAME = re.compile(r"^[0-9a-f]{12}$")


@dataclass(slots=True)
class Looked:
    """A file as it seems to be: log, archive, table, lines or decisions (given out here); of a table its columns and
    first rows, and which column seems to hold addresses, which visits and which titles (-1: none)."""

    token: str
    form: str
    columns: list[str] = field(default_factory=list)
    rows: list[list[str]] = field(default_factory=list)
    address: int = -1
    visits: int = -1
    title: int = -1


def new_place() -> Path:
    """A place for an upload, under a name nobody can guess; what was left lying there long ago is swept away."""
    folder = _folder()
    for old in folder.iterdir():
        if time.time() - old.stat().st_mtime > KEPT_HOURS * 3600:
            old.unlink(missing_ok=True)
    return folder / os.urandom(6).hex()


def _folder() -> Path:
    folder = bodies.temporary() / "handed"
    folder.mkdir(exist_ok=True)
    return folder


def place(token: str) -> Path:
    """Where an upload lies. Raises NotThere."""
    path = _folder() / token
    if not _NAME.match(token) or not path.is_file():
        raise NotThere("That file is not here any more.", "Hand it over again.")
    return path


def looked_at(path: Path) -> Looked:
    """What a file seems to be. Raises FerryError when it is empty or cannot be read."""
    if path.stat().st_size == 0:
        raise FerryError("The file is empty.")
    if is_archive(path):
        return Looked(path.name, "archive")
    first = [line for line, _ in zip(log_lines(path), range(20), strict=False) if line.strip()]
    if sum(1 for line in first if LINE.match(line)) > len(first) / 2:
        return Looked(path.name, "log")
    with path.open("rb") as handle:
        start = handle.read(4)
    if start[:2] == b"\x1f\x8b" or (first and first[0].lstrip().startswith(b"<")):
        return Looked(path.name, "lines")
    table = look(path)
    if len(table.columns) < 2:
        return Looked(path.name, "lines")
    if is_decisions(table.columns):
        return Looked(path.name, "decisions")
    return Looked(path.name, "table", table.columns, table.rows, table.address, table.visits, table.title)


def _texts(path: Path) -> list[str]:
    """The addresses of a plain list, a sitemap or a feed."""
    raw = path.read_bytes()
    if raw[:2] == b"\x1f\x8b" or raw.lstrip()[:1] == b"<":
        sitemap = read_sitemap(raw)
        found = [*sitemap.pages, *(read_feed(raw) if not sitemap.pages else ())]
        if not found:
            raise FerryError(f"No addresses can be read from it: {sitemap.fault or 'it names none'}.")
        return list(found)
    return raw.decode("utf-8-sig", "replace").splitlines()


@dataclass(slots=True)
class Weighed:
    """A list against what is known: those that no survey has met are ``new``."""

    read: ListRead
    new: list[Line]
    visits: int
    titles: dict[str, str] = field(default_factory=dict)  # by address


def weigh(
    side: Side, path: Path, form: str, address: int = 0, visits: int = -1, title: int = -1
) -> tuple[Weighed, dict[str, int]]:
    """Read a list or a table; gives it weighed, and the visits of each address. Raises FerryError."""
    here = crossings.load_plan(side.crossing).side(side.name)
    home = split_href(here.start)
    assert home is not None
    counts: list[int] = []
    called: list[str] = []
    if form == "table":
        table = look(path)
        if not 0 <= address < len(table.columns):
            raise FerryError("No column is chosen for the addresses.")
        found = [row for n, row in enumerate(table_rows(path)) if n >= table.head and any(row)]
        texts = [row[address] if address < len(row) else "" for row in found]
        counts = [number(row[visits]) if 0 <= visits < len(row) else 0 for row in found]
        called = [row[title][:500] if 0 <= title < len(row) else "" for row in found]
    else:
        texts = _texts(path)
    if len(texts) > LINES_CAP:
        raise FerryError(
            f"The list has {len(texts):,} lines; this version takes {LINES_CAP:,} at once.", "Cut it in parts."
        )
    read = read_list(texts, scope_of(here), home)
    total: dict[str, int] = {}
    for line in (*read.kept, *read.repeats):
        total[line.url] = total.get(line.url, 0) + (counts[line.number - 1] if counts else 0)
    known = given.known_urls(side, [line.url for line in read.kept])
    titles = {line.url: called[line.number - 1] for line in read.kept} if called else {}
    return Weighed(read, [line for line in read.kept if line.url not in known], sum(total.values()), titles), total


def take(
    side: Side,
    path: Path,
    name: str,
    form: str,
    address: int,
    visits: int,
    without: list[int],
    by: str,
    title: int = -1,
) -> dict[str, Any]:
    """Take a list or table for good, but for the lines a person said are the same as others. Gives its report."""
    weighed, total = weigh(side, path, form, address, visits, title)
    left = set(without)
    kept = [line for line in weighed.read.kept if line.number not in left]
    if not kept:
        raise FerryError("The list names no address within the bounds.", "Look at what is outside, and why.")
    type_ = "analytics" if visits >= 0 else "list"
    report = {
        "lines": weighed.read.lines,
        "distinct": len(weighed.read.kept),
        "repeats": len(weighed.read.repeats),
        "said to be the same": len(weighed.read.kept) - len(kept),
        "outside the bounds": len(weighed.read.outside),
        "unreadable": len(weighed.read.bad),
        "unknown before": sum(1 for line in weighed.new if line.number not in left),
    }
    targets = []
    for line in kept:
        at = split_href(line.url)
        assert at is not None
        targets.append(Visits(at.host, at.key, total.get(line.url, 0), weighed.titles.get(line.url, "")))
    with transaction():
        number_ = given.add(side, name, type_, by, report)
        given.add_visits(number_, targets)
    path.unlink(missing_ok=True)
    return report


def check_machines(own: list[str]) -> None:
    """Raise FerryError when one of them is no address or range of addresses."""
    own_machines(own)


def run(context: Context) -> dict[str, Any]:
    """The job that reads an access log of any size: params file, name, own (machines), by."""
    path = place(str(context.params["file"]))
    own = own_machines([str(text) for text in context.params.get("own", [])])
    host = context.plan.side("old").host
    with context.writing():
        number_ = given.add(
            Side(context.crossing), str(context.params["name"]), "log", str(context.params.get("by", ""))
        )
    try:

        def flush(visits: dict[str, int]) -> None:
            with context.writing():
                given.add_visits(number_, [Visits(host, target, n) for target, n in visits.items()])

        def lines() -> Iterator[bytes]:
            for n, line in enumerate(log_lines(path), 1):
                if n % 5000 == 0:
                    context.progress(done=n)
                yield line

        count = count_visits(lines(), own, flush)
        if not count.counted and count.unreadable == count.lines:
            raise FerryError("The file holds no line in Combined Log Format.", "Is it an access log?")
        with context.writing():
            given.report(number_, count.report())
    except BaseException:
        with context.writing():
            given.drop(context.crossing, number_)
        raise
    path.unlink(missing_ok=True)
    return {"list": number_, **count.report()}
