"""Deciding over many old addresses at once: as pairs, or as reasons to set them aside; one change set each."""

from __future__ import annotations

from grandferry.core.errors import FerryError
from grandferry.core.patterns import escape
from grandferry.core.plan import Aside, Pair
from grandferry.core.route.redirects import neutral
from grandferry.core.side import Side
from grandferry.store import changes, crossings
from grandferry.store.lists import windows

MOST = 20_000
TOGETHER = 200  # addresses in one pattern


def asides_of(keys: list[str], reason: str) -> list[Aside]:
    """Addresses set aside for one reason, TOGETHER of them in a pattern."""
    made = []
    for start in range(0, len(keys), TOGETHER):
        pattern = "|".join(escape(key) for key in keys[start : start + TOGETHER])
        made.append(Aside(address=f"(?:{pattern})" if "|" in pattern else pattern, reason=reason))
    return made


def decide_over(crossing: int, chosen: windows.Selection, what: str, to: str, reason: str, by: str) -> tuple[int, str]:
    """Retire (410), move (301 to one new address) or set aside all counted addresses of a selection. Gives how many,
    and the change in words. Raises FerryError when nothing is chosen, or more than 20,000 one by one."""
    rows = [row for row in windows.by_ids(windows.ordered(Side(crossing), chosen, "key").tolist()) if row["counted"]]
    if not rows:
        raise FerryError("None of the chosen addresses is in the account.", "Choose addresses of the old host itself.")
    if len(rows) > MOST:
        raise FerryError(f"{len(rows):,} addresses are too many to decide one by one.", "Write a rule instead.")
    number = len(rows)
    some = f"{number:,} address{'es' if number != 1 else ''}"
    if what == "aside":
        if len(reason.strip()) < 3:
            raise FerryError("Setting aside needs a reason.", "Say in a few words why they are left out.")
        plan = crossings.load_plan(crossing)
        plan.route.aside += asides_of([row["key"] for row in rows], reason.strip())
        text = f"{some} set aside: {reason.strip()}"
        changes.change_plan(crossing, plan, changes.revision(crossing), by, text)
        return number, text
    status = 410 if what == "retire" else 301
    lines = []
    for row in rows:
        line = neutral(row["key"], to if what == "move" else "", status, "exact")
        lines.append(Pair(old=line.old, new=line.new, status=status))  # type: ignore[arg-type]
    text = f"{some} retired" if what == "retire" else f"{some} to {to}"
    changes.change_pairs(crossing, lines, [], by, text)
    return number, text
