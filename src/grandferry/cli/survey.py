"""``grandferry survey``: walk a site and list every address."""

from __future__ import annotations

import shutil
import tempfile
from pathlib import Path
from typing import Annotated, Any

import typer

from grandferry.core.errors import FerryError
from grandferry.core.side import SIDES
from grandferry.store.workspace import close_workspace, open_workspace, ready_folder
from grandferry.work.jobs.supervisor import Supervisor

from .common import DONE, OPEN, AsJson, Data, guarded, print_json, progress, say


@guarded
def command(
    url: Annotated[str, typer.Argument(help="where to start")],
    out: Annotated[
        Path | None,
        typer.Option(
            help=(
                "write the addresses (.csv, .json, .xlsx), the captures (.warc, .warc.gz) or an offline copy (.zip) "
                "here"
            )
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
    side: Annotated[
        str, typer.Option(help="old or new: the site that is left, or the one that a crossing leads to")
    ] = "old",
    crossing: Annotated[int | None, typer.Option(help="with --side new: the number of the crossing")] = None,
    data: Data = None,
    as_json: AsJson = False,
) -> None:
    """Walk a site and list every address."""
    if side not in SIDES:
        raise FerryError(f"“{side}” is not a side.", "One of: old, new.")
    if side == "new" and data is None:
        raise FerryError("The new site is surveyed within a crossing.", "Say with --data which workspace holds it.")
    if side == "old" and crossing is not None:
        raise FerryError(
            "--crossing goes with --side new.", "A survey of an old site finds its crossing by its start address."
        )
    if out is not None:  # what writes sheets and archives takes a moment to import
        from grandferry.work.survey.report import check_format, write_addresses

        check_format(out)
    from grandferry.core.address import checked_start

    asked, repaired = checked_start(url)
    if archive is not None and not archive.is_file():
        raise FerryError(f"There is no file {archive}.")
    with tempfile.TemporaryDirectory(prefix="grandferry-") as temporary:
        folder = ready_folder(data or temporary)
        try:
            with Supervisor(
                folder, anew=True
            ):  # the worker makes itself ready while the rest is imported and the start is asked
                open_workspace(folder)
                from grandferry.store import crossings
                from grandferry.store.survey import sounded
                from grandferry.work.jobs.running import run_job
                from grandferry.work.survey.sites import check_leave_for, set_new_site, set_old_site

                permission = (permission or "").strip()
                if side == "old" or crossings.crossings():
                    check_leave_for(str(asked), side, crossing, permission)
                at = asked
                if archive is None:
                    from grandferry.work.survey.opening import checked_start_of

                    start = checked_start_of(url)
                    at, repaired = start.address, start.repaired
                    if start.hops:
                        say(f"It redirects to {at}.")
                if repaired:
                    say(f"Read as {at} ({repaired}).")
                manners = {"delay": delay, "at_once": at_once}
                bounds = {"depth": depth, "max_pages": max_pages, "include": include, "exclude": exclude}
                aliases = [asked.host] if asked.host != at.host else []
                if side == "new":
                    found = set_new_site(
                        crossing, str(at), manners=manners, bounds=bounds, permission=permission, aliases=aliases
                    )
                else:
                    found = set_old_site(
                        str(at), manners=manners, bounds=bounds, permission=permission, aliases=aliases
                    )
                params: dict[str, Any] = {"side": side, "again": True}  # one that has not ended is gone on with
                if archive is not None:
                    from grandferry.work.survey import ownerlists

                    place = ownerlists.new_place()
                    shutil.copyfile(archive, place)
                    params["archive"] = place.name
                with progress() as watch:
                    result = run_job("survey", found.crossing, params, watch)
            if out is not None:
                write_addresses(found, out)
            sitemaps = sounded.soundings(found).get("sitemaps") or []
            faults = [f"{row['url']}: {row['fault']}" for row in sitemaps if row["fault"]]
        finally:
            close_workspace()
    for fault in faults:
        say(f"Sitemap {fault}.")
    say(
        f"{result['addresses']:,} addresses: {result['pages']:,} pages, {result['files']:,} files, "
        f"{result['redirects']:,} redirects, {result['failed']:,} failed, in {result['seconds']:.1f} s."
    )
    if result["run"] > 1:
        changes = ", ".join(f"{number:,} {what}" for what, number in result.get("changes", {}).items())
        say(f"Since the survey before: {changes or 'nothing is different'}.")
    if result["not_visited"]:
        most = result.get("stopped_at_cap")
        cap = f"Stopped at the cap of {most:,} pages: " if most else ""
        say(f"{cap}{result['not_visited']:,} known addresses not visited.")
    for host, count in result.get("left_alone", {}).items():
        say(f"  {host} turned us away: {count:,} not visited")
    for reason, count in sorted(result["shut_out"].items()):
        say(f"  shut out: {reason}: {count:,}")
    if as_json:
        print_json(result)
    raise typer.Exit(OPEN if result["failed"] or result["not_visited"] else DONE)
