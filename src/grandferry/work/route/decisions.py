"""Deciding over many old addresses at once: as pairs, or as reasons to set them aside; one change set each."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from typing import NamedTuple

from grandferry.core.errors import FerryError
from grandferry.core.patterns import escape
from grandferry.core.plan import Accepted, Aside, Pair, Plan
from grandferry.core.route.fate import FATES, OF_CONTENT
from grandferry.core.route.redirects import neutral, without_host
from grandferry.core.side import Side
from grandferry.store import carried, changes, crossings, route
from grandferry.store.lists import windows

MOST = 20_000
OPEN = "unaccounted"  # the word for an address for which nothing is decided
TOGETHER = 200  # addresses in one pattern


def _patterns(keys: list[str]) -> Iterator[str]:
    """Patterns for some addresses alone, TOGETHER of them in each."""
    for start in range(0, len(keys), TOGETHER):
        pattern = "|".join(escape(key) for key in keys[start : start + TOGETHER])
        yield f"(?:{pattern})" if "|" in pattern else pattern


def keys_of(aside: Aside) -> list[str]:
    """The addresses that an entry sets aside by name, as ``asides_of`` writes them; none for any other pattern."""
    inner = aside.address.removeprefix("(?:").removesuffix(")") if aside.address.startswith("(?:") else aside.address
    parts = re.split(r"(?<!\\)\|", inner)
    keys = [re.sub(r"\\(.)", r"\1", part) for part in parts]
    return keys if all(escape(key) == part for key, part in zip(keys, parts, strict=True)) else []


def asides_of(keys: list[str], reason: str) -> list[Aside]:
    """Addresses set aside for one reason."""
    return [Aside(address=pattern, reason=reason) for pattern in _patterns(keys)]


def problem_of(key: str, says: tuple[str, str, str]) -> str:
    """Why what is said of an address (decision, new address, why) cannot be taken, "" when it can."""
    decision, target, why = says
    if decision not in FATES:
        return f"“{decision}” is none of {', '.join(FATES)}"
    if decision == "set aside":
        return "" if len(why) >= 3 else "set aside needs a reason (why)"
    if decision == "retired":
        return ""
    if decision == "stays" and target in ("", key):
        return ""
    if not target:
        return f"{decision} needs a new address"
    try:
        Pair(old=neutral(key, target, 301, "exact").old, new=target)
    except (ValueError, FerryError) as problem:
        return f"the new address cannot be read ({problem})"
    return "" if not re.search(r"\s", target) else "the new address holds a blank"


def _without(plan: Plan, keys: set[str]) -> None:
    """Take addresses out of those that are set aside by name."""
    kept: list[Aside] = []
    for aside in plan.route.aside:
        named = keys_of(aside)
        if keys.isdisjoint(named):
            kept.append(aside)
        else:
            kept += asides_of([key for key in named if key not in keys], aside.reason)
    plan.route.aside = kept


class Said(NamedTuple):
    """What somebody says of an old address: a decision (or OPEN, which takes one back), where it leads, and why."""

    address: str
    decision: str
    target: str
    why: str


def settle(plan: Plan, said: Iterable[Said]) -> tuple[list[Pair], list[str]]:
    """What people say of addresses, as pairs and entries of a plan, in the place of what stood there of them. Gives the
    pairs, and the addresses of which none stands any more."""
    said = list(said)
    lines: list[Pair] = []
    reasons: dict[str, list[str]] = {}
    back = {one.address for one in said if one.decision == OPEN}
    _without(plan, {one.address for one in said})  # what is said of an address now stands alone
    for one in said:
        if one.decision == OPEN:
            continue
        if one.decision == "set aside":
            reasons.setdefault(one.why, []).append(one.address)
            continue
        status = 410 if one.decision == "retired" else 301
        line = neutral(one.address, "" if status == 410 else one.target or one.address, status, "exact")
        lines.append(Pair(old=line.old, new=line.new, status=status, reason=one.why))  # type: ignore[arg-type]
    plan.route.aside[:0] = [aside for why, keys in reasons.items() for aside in asides_of(keys, why)]
    return plan.cut(lines), [key for keys in reasons.values() for key in keys] + sorted(back)


def decide_over(crossing: int, chosen: windows.Selection, what: str, to: str, reason: str, by: str) -> tuple[int, str]:
    """Retire (410), move (301 to one new address), lead to the pages that hold them, let stay, or set aside all counted
    addresses of a selection, or accept their landing pages though they say something else. Gives how many, and the
    change in words. Raises FerryError when nothing is chosen, or more than 20,000 one by one."""
    rows = [row for row in windows.by_ids(windows.ordered(Side(crossing), chosen, "key").tolist()) if row.counted]
    if not rows:
        raise FerryError("None of the chosen addresses is in the account.", "Choose addresses of the old host itself.")
    if what == "accept":
        rows = [row for row in rows if row.verdict in OF_CONTENT and row.decision]
        if not rows:
            raise FerryError(
                "None of the chosen addresses waits for a word on its landing page.",
                "A check has to have found its content doubtful, or another page's.",
            )
    if len(rows) > MOST:
        raise FerryError(f"{len(rows):,} addresses are too many to decide one by one.", "Write a rule instead.")
    number = len(rows)
    keys = [row.key for row in rows]
    some = f"{number:,} address{'es' if number != 1 else ''}"
    if what == "aside":
        if len(reason.strip()) < 3:
            raise FerryError("Setting aside needs a reason.", "Say in a few words why they are left out.")
        plan = crossings.load_plan(crossing)
        plan.route.aside += asides_of(keys, reason.strip())
        text = f"{some} set aside: {reason.strip()}"
        changes.change_plan(crossing, plan, changes.revision(crossing), by, text)
        return number, text
    if what == "accept":
        if len(reason.strip()) < 3:
            raise FerryError("Accepting a landing page needs a reason.", "Say in a few words why it is the right one.")
        plan = crossings.load_plan(crossing)
        plan.route.accept += [Accepted(address=pattern, reason=reason.strip()) for pattern in _patterns(keys)]
        text = f"landing {'page' if number == 1 else 'pages'} of {some} accepted: {reason.strip()}"
        changes.change_plan(crossing, plan, changes.revision(crossing), by, text)
        return number, text
    if what == "holder":
        return _to_holders(crossing, keys, reason.strip(), by)
    status = 410 if what == "retire" else 301
    to = without_host(to.strip(), crossings.load_plan(crossing).our_hosts)
    lines = []
    for key in keys:
        line = neutral(key, {"move": to, "stay": key}.get(what, ""), status, "exact")
        lines.append(Pair(old=line.old, new=line.new, status=status, reason=reason.strip()))  # type: ignore[arg-type]
    said = {"retire": "retired", "stay": "stays" if number == 1 else "stay"}.get(what, f"to {to}")
    text = f"{some} {said}{f': {reason.strip()}' if reason.strip() else ''}"
    changes.change_pairs(crossing, lines, [], by, text)
    return number, text


def _to_holders(crossing: int, keys: list[str], reason: str, by: str) -> tuple[int, str]:
    """Lead files to where the pages go that they stand on; those of which none goes anywhere stay as they are, and are
    counted."""
    pages = {file.key: file.page for file in carried.captured(crossing) if file.page}
    made = route.decisions(crossing)
    lines = []
    for key in keys:
        decision = made.get(pages.get(key, ""))
        if decision is not None and decision.fate in ("stays", "moved", "merged"):
            line = neutral(key, decision.target, 301, "exact")
            lines.append(Pair(old=line.old, new=line.new, reason=reason or f"the page that held it: {pages[key]}"))
    left = len(keys) - len(lines)
    if not lines:
        raise FerryError(
            "None of them stands on a page that goes anywhere.", "Decide over the pages first, or choose files on them."
        )
    text = f"{len(lines):,} file{'s' if len(lines) != 1 else ''} to the page{'s' if len(lines) != 1 else ''} that held "
    text += ("them" if len(lines) != 1 else "it") + (f"; {left:,} on no page that goes anywhere" if left else "")
    changes.change_pairs(crossing, lines, [], by, text)
    return len(lines), text
