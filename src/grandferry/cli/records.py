"""``grandferry records``: what a feed, an export file or a table holds, and its records in a file."""

from __future__ import annotations

from datetime import date
from pathlib import Path
from typing import Annotated

import typer

from grandferry.core.errors import FerryError
from grandferry.core.records.record import Found, Wanted
from grandferry.store import crossings
from grandferry.store.workspace import close_workspace, open_workspace
from grandferry.work.records.read import write_records
from grandferry.work.records.take import Taken, take_records

from .common import DONE, OPEN, AsJson, Data, default_data, guarded, print_json, say


def _day(value: str, name: str) -> str:
    if not value:
        return ""
    try:
        return date.fromisoformat(value).isoformat()
    except ValueError:
        raise FerryError(f"“{value}” is no day for --{name}.", "Write it as 2021-05-30.") from None


def _columns(given: list[str]) -> dict[str, str]:
    columns = {}
    for one in given:
        name, sign, into = one.partition("=")
        if not sign or not name or not into:
            raise FerryError(
                f"“{one}” says not which column becomes what.", "Write --column 'Name of the column=field'."
            )
        columns[name] = into
    return columns


def _tell(found: Found) -> None:
    say(f"{found.records:,} records" + (f", {found.first} to {found.last}" if found.first else ""))
    for kind, states in sorted(found.kinds.items(), key=lambda row: (-row[1].total(), row[0])):
        told = ", ".join(f"{state} {number:,}" for state, number in states.most_common())
        say(f"  {kind}: {states.total():,} ({told})")
    for author, number in found.authors.most_common(20):
        say(f"  by {author or 'nobody'}: {number:,}")
    for name, number in (*found.terms.most_common(), ("comments", found.comments), ("files", found.files)):
        if number:
            say(f"  {name}: {number:,}")
    if found.without_address:
        say(f"  without an address: {found.without_address:,}")
    if found.doubles:
        say(f"  addresses that several records have: {found.doubles:,}")


_MORE = ("joined", "elsewhere", "own", "unknown", "damaged")


def _took(taken: Taken, as_json: bool) -> None:
    if as_json:
        print_json({**taken.found.as_json(), **{name: getattr(taken, name) for name in _MORE}})
    else:
        _tell(taken.found)
        say(f"Taken in; {taken.joined:,} of them are of pages that are captured.")
        if taken.own:
            say(f"  without a captured page, to be made a kind of in Sort: {taken.own:,}")
        if taken.unknown:
            say(
                f"  public, at an address that no survey has met: {taken.unknown:,}; take the file as a list of "
                "addresses as well."
            )
        if taken.elsewhere:
            say(f"  with an address on another host: {taken.elsewhere:,}")
        if taken.damaged:
            say(taken.damaged)
    raise typer.Exit(OPEN if taken.damaged else DONE)


@guarded
def command(
    file: Annotated[Path, typer.Argument(help="a feed (RSS, Atom), a blog export (XML), JSON lines, CSV or XLSX")],
    kind: Annotated[list[str], typer.Option(help="these kinds alone")] = [],  # noqa: B006
    state: Annotated[list[str], typer.Option(help="these states alone")] = [],  # noqa: B006
    author: Annotated[list[str], typer.Option(help="of these authors alone")] = [],  # noqa: B006
    since: Annotated[str, typer.Option(help="from this day on (2021-05-30)")] = "",
    until: Annotated[str, typer.Option(help="up to this day")] = "",
    column: Annotated[list[str], typer.Option(help="what a column becomes, as COLUMN=FIELD")] = [],  # noqa: B006
    out: Annotated[Path | None, typer.Option(help="write them: .jsonl, .csv or .xlsx")] = None,
    take: Annotated[bool, typer.Option("--take", help="take them into a crossing, for fields to read from")] = False,
    data: Data = None,
    crossing: Annotated[int | None, typer.Option(help="the number of the crossing, where there are several")] = None,
    as_json: AsJson = False,
) -> None:
    """Count what a file holds: kinds with their states, authors, dates, terms, comments, files; and write it."""
    wanted = Wanted(kind, state, author, _day(since, "since"), _day(until, "until"))
    if take:
        if out is not None:
            raise FerryError("Records are either taken into a crossing or written to a file.", "Leave one of them out.")
        open_workspace(data or default_data())
        try:
            _took(take_records(crossings.meant(crossing), file, file.name, wanted, _columns(column)), as_json)
        finally:
            close_workspace()
    found, damaged = write_records(file, wanted, out, _columns(column))
    if as_json:
        print_json({**found.as_json(), "damaged": damaged})
    else:
        _tell(found)
    if damaged:
        say(damaged)
    if out is not None:
        say(f"Written to {out}.")
    raise typer.Exit(OPEN if damaged or not found.records else DONE)
