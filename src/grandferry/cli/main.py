"""``grandferry``: every command the tool has. Exit codes: 0 done, 1 done with open or failed things, 2 wrong use."""

from __future__ import annotations

import shutil
import tempfile
from pathlib import Path
from typing import Annotated, Any

import typer

from grandferry import __version__
from grandferry.core.address import checked_start
from grandferry.core.errors import FerryError
from grandferry.store import crossings, route, survey
from grandferry.store.db import close_workspace, open_workspace
from grandferry.work import handed
from grandferry.work.due import STAGES, due
from grandferry.work.maps import checked_start_of
from grandferry.work.plans import bring_in, run_job, run_stages, survey_plan
from grandferry.work.report import check_format, write_addresses
from grandferry.work.supervisor import Supervisor

from . import demo, refit, routes, serve
from .account import finished, show_account, totals
from .common import DONE, OPEN, default_data, guarded, print_json, progress, say

app = typer.Typer(
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
    help="Carries a web site from an old content system to a new one, and accounts for everything.",
)
app.command("demo")(demo.command)
app.command("serve")(serve.command)
app.command("refit")(refit.command)
app.add_typer(routes.app, name="route", help="Redirect maps from a pairs file.")

Data = Annotated[Path | None, typer.Option("--data", help="the workspace's folder")]
AsJson = Annotated[bool, typer.Option("--json", help="machine-readable result on stdout")]


def _version(wanted: bool) -> None:
    if wanted:
        print(__version__)
        raise typer.Exit


@app.callback()
def _top(version: Annotated[bool, typer.Option("--version", callback=_version, is_eager=True)] = False) -> None:
    pass


@app.command("run")
@guarded
def run_plan(
    plan: Annotated[Path, typer.Argument(help="a plan folder or its zip")],
    data: Data = None,
    until: Annotated[str, typer.Option(help=f"the last stage to run: {', '.join(STAGES)}")] = STAGES[-1],
    again: Annotated[bool, typer.Option("--again", help="land and check also when nothing has changed")] = False,
    as_json: AsJson = False,
) -> None:
    """Run a plan from survey to the check of every old address. Only what is behind is done."""
    if until not in STAGES:
        raise FerryError(f"“{until}” is not a stage.", f"One of: {', '.join(STAGES)}.")
    folder = open_workspace(data or default_data())
    try:
        crossing, content = bring_in(plan)
        result = run_crossing(crossing.id, content, until, folder, again)
    finally:
        close_workspace()
    if as_json:
        print_json(result)
    raise typer.Exit(result["exit"])


def run_crossing(number: int, content: Any, until: str, folder: Path, again: bool = False) -> dict[str, Any]:
    """Run the stages under a supervised worker and show the account. The result holds the exit code as ``exit``."""
    if again or due(number, content.plan, until):
        with Supervisor(folder), progress() as watch:
            results = run_stages(number, content, until, watch, again)
        for stage, told in results.items():
            if told.get("left"):
                say(f"{stage}: {told['done']:,} done, {told['left']:,} left as they were.")
    else:
        say(
            "Nothing is behind, everything is sent and checked: there is nothing to do. (--again lands and checks anew.)"
        )
        results = run_stages(number, content, until)
    account = crossings.account_of(number)
    open_ = route.not_proven(number)
    show_account(account, open_ if STAGES.index(until) >= STAGES.index("route") else [])
    failed = results.get("survey", {}).get("failed", 0)
    refused = len(results.get("land", {}).get("refused", []))
    if until == "check" and content.plan.interim:
        good = finished(account) and not refused
    elif STAGES.index(until) >= STAGES.index("route"):
        good = not account.get("unaccounted") and not refused
    else:
        good = not failed
    return {
        "crossing": content.plan.name,
        "account": account,
        "fates": totals(account),
        "stages": results,
        "open": open_,
        "exit": DONE if good else OPEN,
    }


@app.command("survey")
@guarded
def survey_site(
    url: Annotated[str, typer.Argument(help="where to start")],
    out: Annotated[
        Path | None,
        typer.Option(
            help="write the addresses (.csv, .json, .xlsx), the captures (.warc, .warc.gz) or an offline copy (.zip) here"
        ),
    ] = None,
    delay: Annotated[float | None, typer.Option(help="seconds between two requests to a host")] = None,
    at_once: Annotated[int | None, typer.Option(help="requests at once")] = None,
    depth: Annotated[int | None, typer.Option(help="links away from the start")] = None,
    max_pages: Annotated[int | None, typer.Option(help="stop after so many pages")] = None,
    include: Annotated[list[str] | None, typer.Option(help="RE2 pattern an address must hold")] = None,
    exclude: Annotated[list[str] | None, typer.Option(help="RE2 pattern an address must not hold")] = None,
    permission: Annotated[str | None, typer.Option(help="who gave leave to copy the site")] = None,
    archive: Annotated[Path | None, typer.Option(help="read this WARC file instead of asking the site")] = None,
    data: Data = None,
    as_json: AsJson = False,
) -> None:
    """Walk a site and list every address."""
    if out is not None:
        check_format(out)
    asked, repaired = checked_start(url)
    at = asked
    if archive is None:
        start = checked_start_of(url)
        at, repaired = start.address, start.repaired
        if start.hops:
            say(f"It redirects to {at}.")
    elif not archive.is_file():
        raise FerryError(f"There is no file {archive}.")
    if repaired:
        say(f"Read as {at} ({repaired}).")
    aliases = [asked.host] if asked.host != at.host else []
    plan = survey_plan(
        str(at),
        manners={"delay": delay, "at_once": at_once},
        bounds={"depth": depth, "max_pages": max_pages, "include": include, "exclude": exclude},
        permission=permission or "",
        aliases=aliases,
    )
    with tempfile.TemporaryDirectory(prefix="grandferry-") as temporary:
        folder = open_workspace(data or temporary)
        try:
            crossing = crossings.crossing_named(plan.name) or crossings.make_crossing(plan.name)
            crossings.save_plan(crossing.id, plan, [])
            params: dict[str, Any] = {}
            if archive is not None:
                place = handed.new_place()
                shutil.copyfile(archive, place)
                params["archive"] = place.name
            with Supervisor(folder), progress() as watch:
                result = run_job("survey", crossing.id, params, watch)
            if out is not None:
                write_addresses(crossing.id, out)
            sitemaps = survey.soundings(crossing.id).get("sitemaps") or []
            faults = [f"{row['url']}: {row['fault']}" for row in sitemaps if row["fault"]]
        finally:
            close_workspace()
    for fault in faults:
        say(f"Sitemap {fault}.")
    say(
        f"{result['addresses']:,} addresses: {result['pages']:,} pages, {result['files']:,} files, {result['redirects']:,} "
        f"redirects, {result['failed']:,} failed, in {result['seconds']:.1f} s."
    )
    if result["not_visited"]:
        cap = f"Stopped at the cap of {plan.survey.max_pages:,} pages: " if result.get("stopped_at_cap") else ""
        say(f"{cap}{result['not_visited']:,} known addresses not visited.")
    for host, count in result.get("left_alone", {}).items():
        say(f"  {host} refused too often and was left alone: {count:,} not visited")
    for reason, count in sorted(result["shut_out"].items()):
        say(f"  shut out: {reason}: {count:,}")
    if as_json:
        print_json(result)
    raise typer.Exit(OPEN if result["failed"] or result["not_visited"] else DONE)


def main() -> None:
    """The entry point."""
    app()


if __name__ == "__main__":
    main()
