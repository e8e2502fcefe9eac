"""The account in words."""

from __future__ import annotations

from rich.table import Table

from grandferry.core.because import sentence
from grandferry.core.route.fate import FATES
from grandferry.store.route import Open

from .common import stderr

SHOWN = 20  # open addresses with their reasons


def finished(account: dict[str, dict[str, int]]) -> bool:
    """0 unaccounted and 0 merely planned."""
    return not account.get("unaccounted") and all(not counts["planned"] for counts in account.values())


def totals(account: dict[str, dict[str, int]]) -> dict[str, int]:
    return {fate: sum(account.get(fate, {}).values()) for fate in FATES}


def show_account(account: dict[str, dict[str, int]], open_: list[Open], provisional: int = 0) -> None:
    """A table of fates on stderr, how many of them hold only until the owner answers, and what is still open."""
    table = Table(title=f"{sum(totals(account).values()):,} old addresses", title_justify="left")
    for name in ("fate", "planned", "proven"):
        table.add_column(name, justify="left" if name == "fate" else "right")
    for fate in FATES:
        counts = account.get(fate, {"planned": 0, "proven": 0})
        if fate == "unaccounted":
            table.add_row(fate, f"{sum(counts.values()):,}", "")
        else:
            table.add_row(fate, f"{counts['planned']:,}", f"{counts['proven']:,}")
    stderr.print(table)
    if provisional:
        stderr.print(f"{provisional:,} of them only until the owner answers.")
    for row in open_[:SHOWN]:
        stderr.print(f"  {row.key}: {sentence(row.why) or 'planned, not yet proven'}", markup=False, soft_wrap=True)
    if len(open_) > SHOWN:
        stderr.print(f"  … and {len(open_) - SHOWN:,} more.")
