"""``grandferry items``: the items of a crossing, in a file."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from grandferry.store import crossings
from grandferry.store.workspace import close_workspace, open_workspace
from grandferry.work.land.items import check_form, write_items

from .common import DONE, Data, default_data, guarded, say


@guarded
def command(
    out: Annotated[Path, typer.Option(help="the file to write: .jsonl, .csv or .xlsx")],
    data: Data = None,
    crossing: Annotated[int | None, typer.Option(help="the number of the crossing, where there are several")] = None,
    kind: Annotated[str, typer.Option(help="the items of this kind alone")] = "",
) -> None:
    """Write one row an item: old and new address, kind, and every field by its name."""
    check_form(out)
    open_workspace(data or default_data())
    try:
        number = write_items(crossings.meant(crossing), out, kind)
    finally:
        close_workspace()
    say(f"{number:,} items written to {out}." if number else f"There are no items yet; {out} is empty.")
    raise typer.Exit(DONE)
