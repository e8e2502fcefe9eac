"""``grandferry draft``: a site surveyed, sorted, lifted and refitted by the tool's own proposals, into a folder."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path
from typing import Annotated, Any

import typer

from grandferry.core.address import checked_start
from grandferry.core.errors import FerryError
from grandferry.core.plan import FOLDERS
from grandferry.store.workspace import close_workspace, open_workspace, ready_folder
from grandferry.work.jobs.supervisor import Supervisor

from .common import DONE, OPEN, AsJson, Data, guarded, print_json, progress, say
from .land import ProfileName, tell_landed, wanted_target
from .surveying import AtOnce, Delay, Depth, Exclude, Include, MaxPages, PermissionBy, begin, tell


@guarded
def command(
    url: Annotated[str, typer.Argument(help="where to start")],
    out: Annotated[Path, typer.Option(help="the folder to write")],
    to: Annotated[str, typer.Option(help=f"what the folder holds: {', '.join(FOLDERS)}")] = FOLDERS[0],
    profile: ProfileName = "",
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
    """Make a first draft of the whole crossing by proposals alone, and land it in a folder: items and files, the
    redirect map, the plan and account.json. What a person decided in the workspace stays as it is."""
    if to not in FOLDERS:
        raise FerryError(f"This version does not write a draft as “{to}”.", f"One of: {', '.join(FOLDERS)}.")
    wanted = wanted_target(to, profile)
    from grandferry.work.land.places import check_out

    checked_start(url)
    check_out(out)
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
                    wanted,
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
    url: str,
    out: Path,
    manners: dict[str, Any],
    bounds: dict[str, Any],
    permission: str,
    wanted: dict[str, Any],
) -> tuple[dict[str, Any], dict[str, Any], dict[str, Any]]:
    """(what the survey found, what the draft proposed, the account)."""
    from grandferry.work.jobs.running import run_job

    side, params = begin(url, manners, bounds, permission)
    with progress() as watch:
        surveyed = run_job("survey", side.crossing, params, watch)
        drafted = run_job("draft", side.crossing, {}, watch)
        landed = run_job("land", side.crossing, {"out": str(out.resolve()), "target": wanted}, watch)
    tell_landed(landed)
    return surveyed, drafted, dict(json.loads((out / "account.json").read_bytes()))
