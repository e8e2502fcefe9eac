"""What commands that survey a site share: options for its bounds and manners, how one begins, what is said of it."""

from __future__ import annotations

import shutil
from pathlib import Path
from typing import Annotated, Any

import typer

from grandferry.core.side import Side

from .common import say

Delay = Annotated[float | None, typer.Option(help="seconds between two requests to a host")]
AtOnce = Annotated[int | None, typer.Option(help="requests at once")]
Depth = Annotated[int | None, typer.Option(help="links away from the start")]
MaxPages = Annotated[int | None, typer.Option(help="stop after so many pages")]
Include = Annotated[list[str] | None, typer.Option(help="RE2 pattern an address must hold")]
Exclude = Annotated[list[str] | None, typer.Option(help="RE2 pattern an address must not hold")]
PermissionBy = Annotated[str | None, typer.Option(help="who gave leave to copy the site")]


def begin(
    url: str,
    manners: dict[str, Any],
    bounds: dict[str, Any],
    permission: str = "",
    side: str = "old",
    crossing: int | None = None,
    archive: Path | None = None,
) -> tuple[Side, dict[str, Any]]:
    """Make the start known to the open workspace; gives the side to survey, and what its job is told. Raises
    FerryError."""
    from grandferry.core.address import checked_start
    from grandferry.store import crossings
    from grandferry.work.survey.sites import check_leave_for, set_new_site, set_old_site

    asked, repaired = checked_start(url)
    permission = permission.strip()
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
    aliases = [asked.host] if asked.host != at.host else []
    said: dict[str, Any] = {"manners": manners, "bounds": bounds, "permission": permission, "aliases": aliases}
    found = set_new_site(crossing, str(at), **said) if side == "new" else set_old_site(str(at), **said)
    params: dict[str, Any] = {"side": side, "again": True}  # one that has not ended is gone on with
    if archive is not None:
        from grandferry.work.survey import ownerlists

        place = ownerlists.new_place()
        shutil.copyfile(archive, place)
        params["archive"] = place.name
    return found, params


def tell(result: dict[str, Any]) -> None:
    """Say what a survey has found."""
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
