"""``grandferry survey``: walk a site and list every address."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Annotated

import typer

from grandferry.core.address import checked_start
from grandferry.core.errors import FerryError
from grandferry.core.side import SIDES
from grandferry.store.workspace import close_workspace, open_workspace, ready_folder
from grandferry.work.jobs.supervisor import Supervisor

from .common import DONE, OPEN, AsJson, Data, guarded, print_json, progress, say
from .surveying import AtOnce, Delay, Depth, Exclude, Include, MaxPages, PermissionBy, begin, tell


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
    delay: Delay = None,
    at_once: AtOnce = None,
    depth: Depth = None,
    max_pages: MaxPages = None,
    include: Include = None,
    exclude: Exclude = None,
    permission: PermissionBy = None,
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
    checked_start(url)
    if archive is not None and not archive.is_file():
        raise FerryError(f"There is no file {archive}.")
    with tempfile.TemporaryDirectory(prefix="grandferry-") as temporary:
        folder = ready_folder(data or temporary)
        try:
            with Supervisor(
                folder, anew=True
            ):  # the worker makes itself ready while the rest is imported and the start is asked
                open_workspace(folder)
                from grandferry.store.survey import sounded
                from grandferry.work.jobs.running import run_job

                manners = {"delay": delay, "at_once": at_once}
                bounds = {"depth": depth, "max_pages": max_pages, "include": include, "exclude": exclude}
                found, params = begin(url, manners, bounds, permission or "", side, crossing, archive)
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
    tell(result)
    if as_json:
        print_json(result)
    raise typer.Exit(OPEN if result["failed"] or result["not_visited"] else DONE)
