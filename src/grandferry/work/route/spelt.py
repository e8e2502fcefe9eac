"""A rule as single lines, and single lines as a rule: the same decisions said in another way."""

from __future__ import annotations

from grandferry.core.errors import FerryError, NotThere
from grandferry.core.plan import Pair, Plan, RouteRule
from grandferry.core.route.evaluate import evaluate
from grandferry.core.route.redirects import RedirectMap
from grandferry.store import changes, crossings, route
from grandferry.work.route.decisions import MOST
from grandferry.work.route.run import redirect_map


def _rule(plan: Plan, number: int) -> RouteRule:
    if not 1 <= number <= len(plan.route.rules):
        raise NotThere(f"There is no rule {number} any more.", "Look at the rules as they are now.")
    return plan.route.rules[number - 1]


def as_lines(crossing: int, number: int, by: str) -> tuple[int, str]:
    """Put a pair for every old address that the map answers by a rule (by its number, from 1) in the place of the rule,
    in one change. Gives how many, and the change in words. Raises NotThere, or FerryError when it answers none, or more
    than 20,000."""
    plan = crossings.load_plan(crossing)
    rule = _rule(plan, number)
    line, table = rule.redirect, redirect_map(crossing)
    pairs = []
    for key in route.decisions(crossing):
        answer = evaluate(table, key)
        if answer is not None and (answer.redirect.match, answer.redirect.old) == (line.match, line.old):
            pairs.append(Pair(old=key, new=answer.location, status=line.status, reason=rule.reason))  # type: ignore[arg-type]
    if not pairs:
        raise FerryError(f"Rule {number} answers no old address, so that no line would say what it says.")
    if len(pairs) > MOST:
        raise FerryError(f"Rule {number} answers {len(pairs):,} addresses: too many to be lines in the plan.")
    del plan.route.rules[number - 1]
    text = f"rule {rule.old} as {len(pairs):,} single line{'s' if len(pairs) > 1 else ''}"
    changes.change_all(crossing, plan, changes.revision(crossing), pairs, [], by, text)
    return len(pairs), text


def said_by(crossing: int, number: int) -> list[str]:
    """The old addresses of pairs that a rule says as well, so that they need no line of their own."""
    plan = crossings.load_plan(crossing)
    table = RedirectMap(plan.route.lines)  # what answers once the pairs are gone
    line = _rule(plan, number).redirect
    found = []
    for pair in plan.cut(crossings.load_pairs(crossing)):
        answer = evaluate(table, pair.old) if pair.match == "exact" else None
        if (
            answer is not None
            and (answer.redirect.match, answer.redirect.old) == (line.match, line.old)
            and (answer.location, answer.status) == (pair.new, pair.status)
        ):
            found.append(pair.old)
    return found


def gather(crossing: int, number: int, by: str) -> tuple[int, str]:
    """Take out the pairs that a rule says as well, in one change. Gives how many, and the change in words. Raises
    NotThere, or FerryError when there is none."""
    olds = said_by(crossing, number)
    if not olds:
        raise FerryError(f"No single line says what rule {number} says.")
    text = f"{len(olds):,} single line{'s' if len(olds) > 1 else ''} left to rule {number}"
    changes.change_pairs(crossing, [], olds, by, text)
    return len(olds), text
