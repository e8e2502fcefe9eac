"""``grandferry draft``: a site surveyed, sorted, lifted and refitted by the tool's own proposals, into a folder."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Annotated, Any

import typer

from grandferry.core.address import checked_start
from grandferry.core.errors import FerryError
from grandferry.store.workspace import close_workspace, open_workspace, ready_folder
from grandferry.work.jobs.supervisor import Supervisor

from .common import DONE, OPEN, AsJson, Data, guarded, print_json, progress, say
from .surveying import AtOnce, Delay, Depth, Exclude, Include, MaxPages, PermissionBy, begin, tell

FORMS = ("markdown", "jsonl")  # that the folder holds


@guarded
def command(
    url: Annotated[str, typer.Argument(help="where to start")],
    out: Annotated[Path, typer.Option(help="the folder to write")],
    to: Annotated[str, typer.Option(help=f"the form of the bodies: {', '.join(FORMS)} (both are written)")] = FORMS[0],
    delay: Delay = None,
    at_once: AtOnce = None,
    depth: Depth = None,
    max_pages: MaxPages = None,
    include: Include = None,
    exclude: Exclude = None,
    permission: PermissionBy = None,
    data: Data = None,
    as_json: AsJson = False,
) -> None:
    """Make a first draft of the whole crossing by proposals alone: items as JSON lines, bodies as Markdown, the
    redirect map, the plan and account.json. What a person decided in the workspace stays as it is."""
    if to not in FORMS:
        raise FerryError(f"This version does not write a draft as “{to}”.", f"One of: {', '.join(FORMS)}.")
    from grandferry.work.land.folder import check_folder

    checked_start(url)
    check_folder(out)
    with tempfile.TemporaryDirectory(prefix="grandferry-") as temporary:
        folder = ready_folder(data or temporary)
        try:
            with Supervisor(folder, anew=True):
                open_workspace(folder)
                surveyed, drafted, account = _work(
                    url,
                    out,
                    {"delay": delay, "at_once": at_once},
                    {"depth": depth, "max_pages": max_pages, "include": include, "exclude": exclude},
                    permission or "",
                )
        finally:
            close_workspace()
    tell(surveyed)
    say(f"Proposed: {drafted['kinds']:,} kinds with {drafted['fields']:,} fields, {drafted['steps']:,} clean-up steps.")
    for kind in account["kinds"]:
        filled = ", ".join(f"{field['name']} {field['filled']:,}" for field in kind["fields"])
        say(f"  {kind['name']}: {kind['pages']:,} pages, {kind['items']:,} items ({filled or 'no field'})")
    for row in account["open"]:
        say(f"  open: {row['count']:,} {row['what']}: {row['why']}")
    say(f"Written to {out}.")
    if as_json:
        print_json(account)
    left = account["addresses"]["unaccounted"] or account["words"]["unaccounted"] or surveyed["not_visited"]
    raise typer.Exit(OPEN if left else DONE)


def _work(
    url: str, out: Path, manners: dict[str, Any], bounds: dict[str, Any], permission: str
) -> tuple[dict[str, Any], dict[str, Any], dict[str, Any]]:
    """(what the survey found, what the draft proposed, the account)."""
    from grandferry.work.jobs.running import run_job
    from grandferry.work.land.folder import write_folder

    side, params = begin(url, manners, bounds, permission)
    with progress() as watch:
        surveyed = run_job("survey", side.crossing, params, watch)
        drafted = run_job("draft", side.crossing, {}, watch)
    return surveyed, drafted, write_folder(side.crossing, out)
