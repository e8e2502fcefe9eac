"""``grandferry run``: a plan from survey to check, doing only what is behind."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

import typer

from grandferry.core.because import sentence
from grandferry.core.errors import FerryError
from grandferry.store import crossings, route
from grandferry.store.workspace import close_workspace, open_workspace
from grandferry.work.jobs.supervisor import Supervisor
from grandferry.work.plan.plans import bring_in
from grandferry.work.plan.stages import run_stages
from grandferry.work.rounds.due import STAGES, due, nothing, planned

from .account import finished, show_account, totals
from .common import DONE, OPEN, AsJson, Data, default_data, guarded, print_json, progress, say

LISTED = 50  # open addresses in the JSON; the fates count them all


@guarded
def command(
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
            "Nothing is behind, everything is sent and checked: there is nothing to do. (--again lands and checks "
            "anew.)"
        )
        results = {stage: nothing(stage, number) for stage in planned(content.plan, until)}
    account = crossings.account_of(number)
    open_ = route.open_addresses(number)
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
        "open": [{**row._asdict(), "why": sentence(row.why)} for row in open_[:LISTED]],
        "exit": DONE if good else OPEN,
    }
