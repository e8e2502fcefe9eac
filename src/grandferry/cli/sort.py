"""``grandferry sort``: what the pages of a crossing are."""

from __future__ import annotations

from typing import Annotated

import typer

from grandferry.core.sort.grouping import CUTS, MIDDLE
from grandferry.store import crossings, groups
from grandferry.store.workspace import close_workspace, open_workspace
from grandferry.work.jobs.running import run_job
from grandferry.work.jobs.supervisor import Supervisor
from grandferry.work.sort.group import behind

from .common import DONE, AsJson, Data, default_data, guarded, print_json, progress, say

app = typer.Typer(no_args_is_help=True, help="What the pages of a crossing are.")


@app.callback()
def _sort() -> None:
    pass


@app.command("suggest")
@guarded
def suggest(
    data: Data = None,
    crossing: Annotated[int | None, typer.Option(help="the number of the crossing, where there are several")] = None,
    coarse: Annotated[
        int, typer.Option(min=0, max=len(CUTS) - 1, help="from 0, many groups, to the last, few")
    ] = MIDDLE,
    as_json: AsJson = False,
) -> None:
    """Group the captured pages by how they are made, with the simplest rule that separates each group."""
    folder = open_workspace(data or default_data())
    try:
        number = crossings.meant(crossing)
        if behind(number):
            with Supervisor(folder, anew=True), progress() as watch:
                run_job("group", number, {}, watch)
        found = groups.groups(number, coarse)
        pages = {group.number: groups.group_pages(number, coarse, group.number, 0, group.pages)[1] for group in found}
    finally:
        close_workspace()
    if not found:
        say("There are no pages to group: survey the old site first.")
    for group in found:
        rule = ", ".join(f"{part} {value}" for part, value in group.rule.items())
        say(
            f"{group.pages:>7,} {group.name}: {rule} (right {group.right:,}, missed {group.missed:,}, wrong "
            f"{group.wrong:,}), like {group.key}"
        )
    if as_json:
        told = [
            {
                "name": group.name,
                "pages": [page.key for page in pages[group.number]],
                "rule": group.rule,
                "right": group.right,
                "missed": group.missed,
                "wrong": group.wrong,
            }
            for group in found
        ]
        print_json({"groups": told})
    raise typer.Exit(DONE)
