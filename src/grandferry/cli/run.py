"""``grandferry run``: a plan from survey to check, doing only what is behind."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

import typer

from grandferry.core.because import sentence
from grandferry.core.errors import FerryError
from grandferry.core.plan import Plan
from grandferry.store import crossings, route
from grandferry.store.workspace import close_workspace, open_workspace
from grandferry.work.plan import leave
from grandferry.work.plan.plans import bring_in
from grandferry.work.rounds.order import STAGES, nothing, planned, settled

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
        result = run_crossing(crossing.id, content.plan, until, folder, again)
    finally:
        close_workspace()
    if as_json:
        print_json(result)
    raise typer.Exit(result["exit"])


def run_crossing(number: int, plan: Plan, until: str, folder: Path, again: bool = False) -> dict[str, Any]:
    """Run the stages under a supervised worker and show the account. The result holds the exit code as ``exit``."""
    leave.check(plan, "Say in plan.yaml who gave it: old: permission: {by:, date:}.")
    if again or _is_due(number, plan, until):
        results = _work(number, plan, until, folder, again)
        for stage, told in results.items():
            if told.get("left"):
                say(f"{stage}: {told['done']:,} done, {told['left']:,} left as they were.")
    else:
        say(
            "Nothing is behind, everything is sent and checked: there is nothing to do. (--again lands and checks "
            "anew.)"
        )
        results = {stage: nothing(stage, number) for stage in planned(plan, until)}
    account = crossings.account_of(number)
    open_ = route.open_addresses(number)
    provisional = route.provisional(number)
    show_account(account, open_ if STAGES.index(until) >= STAGES.index("route") else [], provisional)
    failed = results.get("survey", {}).get("failed", 0)
    refused = len(results.get("land", {}).get("refused", []))
    if until == "check" and plan.interim:
        good = finished(account) and not refused
    elif STAGES.index(until) >= STAGES.index("route"):
        good = not account.get("unaccounted") and not refused
    else:
        good = not failed
    return {
        "crossing": plan.name,
        "account": account,
        "fates": totals(account),
        "provisional": provisional,
        "stages": results,
        "open": [{**row._asdict(), "why": sentence(row.why)} for row in open_[:LISTED]],
        "exit": DONE if good else OPEN,
    }


def _is_due(number: int, plan: Plan, until: str) -> bool:
    if settled(number, plan, until):
        return False
    from grandferry.work.rounds.due import due  # what looks at every finding takes a moment to import

    return bool(due(number, plan, until))


def _work(number: int, plan: Plan, until: str, folder: Path, again: bool) -> dict[str, Any]:
    from grandferry.work.jobs.supervisor import Supervisor
    from grandferry.work.plan.stages import run_stages

    with Supervisor(folder, anew=True), progress() as watch:
        return run_stages(number, plan, until, watch, again)
