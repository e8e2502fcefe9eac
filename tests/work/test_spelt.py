"""A rule as single lines and back, and what a rule fixed against what was expected of it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from grandferry.core.errors import FerryError, NotThere
from grandferry.core.plan import Pair, Plan, RouteRule
from grandferry.store import changes, crossings, route
from grandferry.work.route import spelt
from grandferry.work.route.evidence import rule_states
from tests.servers import apps, pages_app

NAMES = ("oak", "ash", "elm", "fir", "yew")
SITE = {"/": "".join(f"<a href=/trees/{n}.htm>{n}</a>" for n in NAMES)} | {
    f"/trees/{n}.htm": f"<title>{n}</title><p>{n} is a tree" for n in NAMES
}
RULE = {"old": "/trees/([^/]+)\\.htm", "new": "/wood/{1}", "match": "pattern", "reason": "renamed"}


@pytest.fixture
def crossing(cross: Callable[..., int], work: Callable[..., Any]) -> int:
    with apps(pages_app(SITE)) as (port,):
        made = cross(
            {"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}, "route": {"rules": [RULE]}},
            [Pair(old="/trees/yew.htm", new="/graveyard/yew"), Pair(old="/trees/oak.htm", new="/wood/oak")],
        )
        work("survey", made)
    work("route", made)
    return made


def told(crossing: int) -> dict[str, tuple[str, str]]:
    return {key: (made.fate or "", made.target) for key, made in route.decisions(crossing).items()}


def test_a_rule_becomes_single_lines_and_they_a_rule_again(crossing: int, work: Callable[..., Any]) -> None:
    before = told(crossing)
    assert spelt.said_by(crossing, 1) == ["/trees/oak.htm"]
    # the one that its pair leads elsewhere is not among them: the map does not answer it by the rule
    assert spelt.as_lines(crossing, 1, "Ann") == (4, f"rule {RULE['old']} as 4 single lines")
    work("route", crossing)
    assert told(crossing) == before and not crossings.load_plan(crossing).route.rules
    made = {pair.old: pair for pair in crossings.load_pairs(crossing)}
    assert made["/trees/elm.htm"] == Pair(old="/trees/elm.htm", new="/wood/elm", reason="renamed")
    plan = crossings.load_plan(crossing)
    plan.route.rules.append(RouteRule.model_validate(RULE))
    changes.change_plan(crossing, plan, changes.revision(crossing), "Ann", "the rule again")
    assert spelt.gather(crossing, 1, "Ann")[0] == 4
    work("route", crossing)
    assert told(crossing) == before and [pair.old for pair in crossings.load_pairs(crossing)] == ["/trees/yew.htm"]
    changes.undo(crossing, "Ann")
    assert len(crossings.load_pairs(crossing)) == 5
    with pytest.raises(NotThere):
        spelt.as_lines(crossing, 2, "Ann")
    changes.change_pairs(
        crossing, [], ["/trees/oak.htm", "/trees/ash.htm", "/trees/elm.htm", "/trees/fir.htm"], "Ann", "x"
    )
    with pytest.raises(FerryError, match="No single line says what rule 1 says"):
        spelt.gather(crossing, 1, "Ann")


def test_what_a_rule_fixed_is_held_against_what_was_expected(crossing: int, work: Callable[..., Any]) -> None:
    moved: dict[str, Any] = {"/": SITE["/"], "/graveyard/yew": SITE["/trees/yew.htm"]}
    for name in ("oak", "ash", "elm"):
        moved[f"/trees/{name}.htm"] = (301, {"Location": f"/wood/{name}"}, b"")
        moved[f"/wood/{name}"] = SITE[f"/trees/{name}.htm"]
    with apps(pages_app(moved)) as (port,):
        plan = crossings.load_plan(crossing)
        there = Plan.model_validate(plan.model_dump() | {"interim": f"http://127.0.0.1:{port}/"})
        changes.change_plan(crossing, there, changes.revision(crossing), "Ann", "where it grows")
        work("check", crossing)
    (state,) = rule_states(crossing)
    assert (state.expected, state.measured, state.state) == (4, 3, "seen working")
    assert [(other["key"], other["answer"]) for other in state.others] == [
        ("/trees/fir.htm", "answers 404: it would break")
    ]
