"""Suggesting as a job: pairs for all open addresses, and rules behind them and behind what is decided already."""

from __future__ import annotations

from collections.abc import Collection
from typing import Any, NamedTuple

from grandferry.core.errors import FerryError, NotThere
from grandferry.core.patterns import compile_pattern
from grandferry.core.plan import Pair, RouteRule
from grandferry.core.route.evaluate import evaluate
from grandferry.core.route.redirects import RedirectMap
from grandferry.core.route.suggest import ACCEPT, Known, find_tables, suggested
from grandferry.core.route.suggest.content import NOTHING
from grandferry.core.side import Side
from grandferry.store import changes, crossings, route, stamps
from grandferry.store import suggested as store
from grandferry.work.jobs.context import Context
from grandferry.work.route.contents import contents
from grandferry.work.route.likely import SHORE, mark_of, with_below

LEAST = 0.5  # how sure a pair has to be to be taken with others
MOST = 5000  # pairs that are taken by name at once
SHOWN = 100  # addresses of a table that are shown


def run(context: Context) -> dict[str, Any]:
    """Hold all open addresses against the new shore. The result counts those with a suggestion, the sure ones among
    them, and the rules."""
    crossing = context.crossing
    titles = route.titles_and_visits(crossing)
    open_ = [row.key for row in route.open_addresses(crossing) if row.fate == "unaccounted"]
    wanted = set(open_)
    context.progress(done=0, all=len(open_))
    said = contents(Side(crossing), context.heed)
    there = contents(Side(crossing, "new"), context.heed)
    old = [Known(key, titles[key][0], said.get(key, NOTHING)) for key in open_]
    beside = [Known(key, title) for key, (title, _) in titles.items() if key not in wanted]
    shore = route.new_shore(crossing)
    new = [Known(place.path, place.title, there.get(place.path) or said.get(place.old, NOTHING)) for place in shore]
    decisions = route.decisions(crossing)
    known = {
        key: made.target
        for key, made in decisions.items()
        if made.fate in ("moved", "merged") and made.target.startswith("/")
    }
    found = suggested(old, new, beside=beside, known=known, heed=lambda done: context.progress(done=done, all=len(old)))
    every = sorted(titles)
    for pair in found.pairs:
        pair.candidates = with_below(pair.old, pair.candidates, every, decisions)
    rules = [rule for rule in found.rules if wanted & {*rule.settles}]
    with context.writing():
        store.put(crossing, found.pairs, rules, {key: visits for key, (_, visits) in titles.items()})
        stamps.put(crossing, SHORE, mark_of(shore))
    context.progress(force=True, done=len(old), all=len(old))
    sure = sum(pair.confidence >= ACCEPT for pair in found.pairs)
    named = sum(bool(pair.candidates) for pair in found.pairs)
    return {"open": len(old), "named": named, "sure": sure, "rules": len(rules), "new": len(new)}


class TableRow(NamedTuple):
    """A table as it is shown: ``ids`` of the addresses it settles (MOST at the most), the first of its ``pairs``, how
    sure the ``least`` sure is, how many it ``leaves`` and the first of them (``left``)."""

    old: str
    new: str
    settles: int
    ids: list[int]
    pairs: list[str]
    least: float
    left: list[str]
    leaves: int
    visits: int


def tables(crossing: int) -> list[TableRow]:
    """The tables behind what is suggested for open addresses, for what no suggested rule says."""
    _, found = store.window(crossing, 0.0, 1.0, "", 0, -1)
    open_ = [row.key for row in route.open_addresses(crossing) if row.fate == "unaccounted"]
    patterns = [compile_pattern(rule.old) for rule in store.rules(crossing)]
    settled = {key for key in open_ if any(pattern.fullmatch(key) for pattern in patterns)}
    by_key = {one.key: one for one in found}
    made = []
    for table in find_tables({one.key: (one.new, one.confidence) for one in found}, open_, settled):
        rows = [by_key[key] for key in table.settles]
        made.append(
            TableRow(
                old=table.old,
                new=table.new,
                settles=len(rows),
                ids=[row.id for row in rows[:MOST]],
                pairs=[f"{row.key} → {row.new}" for row in rows[:SHOWN]],
                least=min(row.confidence for row in rows),
                left=table.left[:SHOWN],
                leaves=len(table.left),
                visits=sum(row.visits for row in rows),
            )
        )
    return made


def accept(crossing: int, by: str, least: float, ids: Collection[int] = ()) -> tuple[int, int]:
    """Take suggestions as pairs, of some addresses, or all that are at least so sure, as one change; gives how many and
    the revision. Each pair says that it was suggested, and how sure."""
    if ids:
        taken = store.of_addresses(crossing, list(ids))
    else:
        _, taken = store.window(crossing, max(least, LEAST), 1.0, "", 0, -1)
    lines = [
        Pair(
            old=one.key,
            new=one.new,
            reason=_said(one)[:2000],
        )
        for one in taken
    ]
    if not lines:
        return 0, changes.revision(crossing)
    said = f"{len(lines):,} suggested pairs" if len(lines) > 1 else f"{lines[0].old} to {lines[0].new}, as suggested"
    return len(lines), changes.change_pairs(crossing, lines, [], by, said)


def take_rule(crossing: int, old: str, by: str) -> tuple[str, int]:
    """Take a suggested rule (by its old side) at the end of the plan's, and before it a pair for each open address that
    it would lead elsewhere than what that one has likely become, as one change; gives that in words, and the revision.
    Raises NotThere."""
    rule = next((one for one in store.rules(crossing) if one.old == old), None)
    if rule is None:
        raise NotThere("This rule is not suggested any more.", "Look for likely places again.")
    plan = crossings.load_plan(crossing)
    if any(one.match == "pattern" and one.old == rule.old for one in plan.route.rules):
        raise FerryError(f"The rule {rule.old} is in the plan already.")
    made = RouteRule(old=rule.old, new=rule.new, match="pattern", reason="found")
    table = RedirectMap([made.redirect])
    _, likely = store.window(crossing, LEAST, 1.0, "", 0, -1)
    lines = []
    for one in likely:
        answer = evaluate(table, one.key)
        if answer is not None and answer.location != one.new:
            lines.append(Pair(old=one.key, new=one.new, reason=_said(one)[:2000]))
    plan.route.rules.append(made)
    said = f"rule {rule.old}"
    if lines:
        said += f", before it {len(lines):,} line{'s' if len(lines) > 1 else ''} for what goes elsewhere"
    return said, changes.change_all(crossing, plan, changes.revision(crossing), lines, [], by, said)


def _said(one: store.Suggested) -> str:
    why = "; ".join(f"{why}: {what}" if what else why for why, what in one.reasons)
    return f"suggested, {min(99, round(100 * one.confidence))} % sure" + (f": {why}" if why else "")
