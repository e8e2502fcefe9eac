"""The new shore as a tree: a page or a folder moved, with the redirects to it and the links in texts."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import pytest

from grandferry.core.errors import FerryError
from grandferry.core.plan import Pair
from grandferry.store import changes, crossings, lift, route
from grandferry.store.db import workspace_folder
from grandferry.work.route import shore
from tests.servers import apps, pages_app

Make = Callable[..., int]
Run = Callable[..., dict[str, Any]]
TREES = ("oak", "ash", "elm", "fir")
LINKS = "".join(f'<li><a href="/trees/{n}.htm#bark">{n}</a>' for n in TREES)
SITE = {
    "/": f"<h1>Start</h1><div class=t><p>Begin.<ul>{LINKS}<li><a href=/visit.htm>visit</a></ul></div>",
    "/visit.htm": "<h1>Visit</h1><div class=t><p>Come to <a href=/trees/oak.htm>the oak</a>.</div>",
    "/birds.htm": "<h1>Birds</h1><div class=t><p>A wren.</div>",
    **{f"/trees/{n}.htm": f"<h1>{n}</h1><div class=t><p id=bark>Bark.<a href=/birds.htm>b</a></div>" for n in TREES},
}
FIELDS = [
    {"name": "title", "type": "line", "locators": [{"css": "h1"}]},
    {"name": "body", "type": "blocks", "locators": [{"css": ".t"}]},
]


@pytest.fixture
def crossing(cross: Make, work: Run) -> Iterator[int]:
    with apps(pages_app(SITE)) as (port,):
        made = cross(
            {
                "old": {"start": f"http://127.0.0.1:{port}/"},
                "survey": {"sitemaps": False},
                "kinds": [
                    {"name": "tree", "rules": [{"below": "/trees"}], "address": "/wood/{slug}", "fields": FIELDS},
                    {"name": "page", "rules": [{"address": ".*"}], "address": "/{path}", "fields": FIELDS},
                ],
                "route": {"rules": [{"old": "/forest/(.*)", "new": "/wood/{1}", "match": "pattern"}]},
                "land": {"target": "markdown"},
            },
            [Pair(old="/tree.php", new="/wood/oak")],
        )
        for stage in ("survey", "sort", "lift", "refit", "route"):
            work(stage, made)
        yield made


def places(crossing: int) -> dict[str, str]:
    return {item.key: item.new_path for item in lift.items(crossing)}


def test_a_page_moved_below_another_is_led_to_and_linked_at_its_new_place(crossing: int, work: Run) -> None:
    looked = shore.look(crossing, "/visit", "/birds/visit")
    assert [tuple(row) for row in looked.rows] == [("/visit.htm", "/visit", "/birds/visit")]
    assert (looked.pairs, looked.said, looked.rule, looked.links) == (1, [], None, 1)
    assert places(crossing)["/visit.htm"] == "/visit" and not changes.changes(crossing)
    assert shore.move(crossing, "/visit", "/birds/visit", False, "Ann")[1] == (
        "/visit moved to /birds/visit: 1 old address"
    )
    work("route", crossing)
    assert places(crossing)["/visit.htm"] == "/birds/visit"
    made = route.decisions(crossing)["/visit.htm"]
    assert (made.fate, made.target, made.origin) == ("moved", "/birds/visit", "pair")
    work("land", crossing)
    landed = {p.name: p.read_text() for p in (workspace_folder() / "landed").rglob("*.md")}
    assert "(/birds/visit)" in next(text for text in landed.values() if "Begin." in text)
    changes.undo(crossing, "Ann")
    work("route", crossing)
    assert places(crossing)["/visit.htm"] == "/visit"


def test_a_folder_moves_with_its_kind_its_pairs_and_the_rules_that_lead_there(crossing: int, work: Run) -> None:
    moving, _ = shore.move(crossing, "/wood", "/birds/wood", True, "Ann")
    assert [tuple(one) for one in moving.said] == [
        ("tree", "/wood/{slug}", "/birds/wood/{slug}"),
        ("/forest/(.*)", "/wood/{1}", "/birds/wood/{1}"),
    ]
    assert moving.pairs == 1 and len(moving.rows) == 4
    # the rule that is proposed: of all old addresses like these
    assert moving.rule is not None and moving.settles == 4
    assert crossings.load_plan(crossing).route.rules[-1] == moving.rule
    work("route", crossing)
    assert {places(crossing)[f"/trees/{n}.htm"] for n in TREES} == {f"/birds/wood/{n}" for n in TREES}
    assert crossings.load_pairs(crossing)[0].new == "/birds/wood/oak"
    assert moving.rule.redirect in crossings.load_plan(crossing).route.lines


def test_items_whose_pattern_says_another_place_for_each_are_set_one_by_one(crossing: int, work: Run) -> None:
    plan = crossings.load_plan(crossing)
    plan.kinds[0].address = "/{folder}/{slug}"
    changes.change_plan(crossing, plan, changes.revision(crossing), "Ann", "folders stay")
    work("route", crossing)
    assert [one.below for one in shore.shore(crossing).under("") if one.path == "/trees"] == [4]
    moving, _ = shore.move(crossing, "/trees", "/visit/trees", False, "Ann")
    assert (moving.pairs, moving.said) == (4, [])
    work("route", crossing)
    assert places(crossing)["/trees/elm.htm"] == "/visit/trees/elm"


def test_what_cannot_be_moved_is_told_and_changes_nothing(crossing: int) -> None:
    before = changes.revision(crossing)
    with pytest.raises(FerryError, match="Nothing of ours is at /nowhere"):
        shore.move(crossing, "/nowhere", "/x", False, "Ann")
    with pytest.raises(FerryError, match="1 of the new addresses is taken already: /birds"):
        shore.move(crossing, "/visit", "/birds", False, "Ann")
    assert changes.revision(crossing) == before
