"""``grandferry route``: write and check redirect maps."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from grandferry.work.route.maps import check_map, servers, write_map

from .common import DONE, OPEN, guarded, print_json, say

app = typer.Typer(no_args_is_help=True)
Pairs = Annotated[Path, typer.Argument(help="CSV with the columns old,new,status,match")]
AsJson = Annotated[bool, typer.Option("--json", help="machine-readable result on stdout")]
GOOD = frozenset(["as planned", "gone", "same", "not asked"])


@app.command("write")
@guarded
def write(
    pairs: Pairs,
    server: Annotated[str, typer.Option(help=f"one of: {', '.join(servers())}")],
    out: Annotated[Path, typer.Option(help="folder for the files")],
    as_json: AsJson = False,
) -> None:
    """Write the map for a server and read it back to prove it."""
    result = write_map(pairs, server, out)
    for flaw in result["flaws"]:
        say(f"line {flaw['line']}: {flaw['kind']}: {flaw['text']}")
    for line in result["left_out"][:20]:
        say(f"{line['old']} is left out: {line['why']}")
    if len(result["left_out"]) > 20:
        say(f"… and {len(result['left_out']) - 20:,} more are left out.")
    for file in result["files"]:
        say(f"written: {file}")
    if as_json:
        print_json(result)
    raise typer.Exit(OPEN if result["flaws"] or result["left_out"] else DONE)


@app.command("suggest")
@guarded
def suggest(
    old: Annotated[Path, typer.Option(help="the old addresses: one a line, or a table with address and title")],
    new: Annotated[Path, typer.Option(help="the new ones, likewise")],
    accept: Annotated[float, typer.Option(min=0.5, max=1, help="how sure a pair has to be to count as accepted")] = 0.9,
    as_json: AsJson = False,
) -> None:
    """Pairs of old and new addresses with a confidence, and the rules behind them."""
    from grandferry.work.route.suggest import suggest_files

    result = suggest_files(old, new, accept)
    for name, one in result["read"].items():
        again = f"; {one['again']:,} lines repeat one" if one["again"] else ""
        say(f"{name}: {one['addresses']:,} addresses{again}")
        for number, text in one["odd"][:20]:
            say(f"  line {number} holds no address: {text}")
    for rule in result["rules"]:
        beside = f", disagrees with {rule['disagrees']:,}" if rule["disagrees"] else ""
        beside += f", would wrongly catch {rule['wrongly_catches']:,}" if rule["wrongly_catches"] else ""
        say(f"rule: {rule['old']} → {rule['new']}  settles {rule['settles']:,}{beside}")
    for table in result["tables"]:
        left = f", leaves {len(table['left']):,}" if table["left"] else ""
        say(f"table: {table['old']} → {table['new']} (the name of each page)  settles {len(table['settles']):,}{left}")
    pairs = result["pairs"]
    for pair in pairs if not as_json else ():
        why = "; ".join(pair["reasons"])
        say(f"{pair['confidence']:.2f} {pair['old']} → {pair['new'] or 'nothing like it'}{f' ({why})' if why else ''}")
    sure = sum(pair["accepted"] for pair in pairs)
    none = sum(pair["new"] is None for pair in pairs)
    say(f"{sure:,} of {len(pairs):,} accepted, {len(pairs) - sure - none:,} in doubt, {none:,} without a candidate.")
    say(f"{len(result['only_new']):,} new addresses have no old one.")
    if as_json:
        print_json(result)
    raise typer.Exit(DONE if sure == len(pairs) else OPEN)


@app.command("check")
@guarded
def check(
    pairs: Pairs,
    against: Annotated[str, typer.Option(help="the host to ask, such as http://new.example.test")],
    as_json: AsJson = False,
) -> None:
    """Ask a host for every old address and judge each answer."""
    result = check_map(pairs, against)
    for row in result["rows"]:
        if row["verdict"] not in GOOD:
            hops = " → ".join(f"{status} {location}".strip() for status, location in row["hops"])
            say(f"{row['old']}: {row['verdict']} ({hops or 'no answer'})")
    say(", ".join(f"{count:,} {verdict}" for verdict, count in sorted(result["counts"].items())) or "nothing to ask")
    if as_json:
        print_json(result)
    raise typer.Exit(DONE if set(result["counts"]) <= GOOD else OPEN)
