"""Rounds that move only what changed: what is behind, what is redone and what is left, counted; edits that outlive all."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from aiohttp import web

from grandferry.core.made import Behind
from grandferry.core.plan import Edit, Plan
from grandferry.core.side import Side
from grandferry.store import changes, crossings, edits, jobs, lift, refit
from grandferry.store.db import rows
from grandferry.store.survey import given
from grandferry.work.plan import sharing
from grandferry.work.refit.content import finished, stored_body
from grandferry.work.rounds import behind, due, order
from tests.servers import apps

POSTS, SHOPS = 12, 7


class Site:
    """A small site whose pages a test can change while it runs."""

    def __init__(self) -> None:
        self.pages: dict[str, str] = {}
        links = []
        for n in range(POSTS):
            badge = '<div class="badge">made with care</div>' if n % 4 == 0 else ""
            self.pages[f"/post/{n}.htm"] = self.page(
                f"Post {n}", f"<p>First words of {n}.</p><h2>Part</h2><p>More of number {n}.</p>{badge}"
            )
            links.append(f'<a href="/post/{n}.htm">{n}</a>')
        for n in range(SHOPS):
            self.pages[f"/shop/{n}.htm"] = self.page(f"Thing {n}", f"<p>Costs {n} pounds.</p>", price=f"{n}.50")
            links.append(f'<a href="/shop/{n}.htm">{n}</a>')
        self.pages["/"] = self.page("Home", "<p>Welcome here.</p>" + " ".join(links))

    @staticmethod
    def page(title: str, body: str, price: str = "") -> str:
        shown = f'<span class="price">{price}</span>' if price else ""
        return (
            f"<!doctype html><title>{title}</title><header>The same head on all</header><h1>{title}</h1>{shown}"
            f'<div class="body">{body}</div><footer>The same foot on all</footer>'
        )

    def app(self) -> web.Application:
        async def answer(request: web.Request) -> web.Response:
            found = self.pages.get(request.path)
            return web.Response(status=200 if found else 404, text=found or "nothing", content_type="text/html")

        app = web.Application()
        app.router.add_route("GET", "/{rest:.*}", answer)
        return app


TITLE = {"name": "title", "type": "line", "locators": [{"css": "h1"}]}
BODY = {"name": "body", "type": "blocks", "locators": [{"css": ".body"}]}


@pytest.fixture
def site() -> Iterator[tuple[Site, int]]:
    made = Site()
    with apps(made.app) as (port,):
        yield made, port


@pytest.fixture
def crossing(site: tuple[Site, int], cross: Callable[..., int], work: Callable[..., Any]) -> int:
    """The site surveyed and brought up to date once."""
    number = cross(
        {
            "old": {"start": f"http://127.0.0.1:{site[1]}/", "permission": {"by": "Owner", "date": "today"}},
            "kinds": [
                {"name": "post", "rules": [{"below": "/post/"}], "fields": [TITLE, BODY], "address": "/news/{slug}"},
                {
                    "name": "thing",
                    "rules": [{"element": ".price"}],
                    "fields": [TITLE, BODY, {"name": "price", "type": "line", "locators": [{"css": ".price"}]}],
                    "address": "/shop/{slug}",
                },
            ],
        }
    )
    work("survey", number)
    told = work("update", number)
    assert told["sort"]["done"] == POSTS + SHOPS + 1 and told["lift"]["done"] == told["refit"]["done"] == POSTS + SHOPS
    return number


def change(crossing: int, text: str, how: Callable[[dict[str, Any]], Any]) -> None:
    data = crossings.load_plan(crossing).model_dump(mode="json")
    how(data)
    changes.change_plan(crossing, Plan.model_validate(data), changes.revision(crossing), "Ann", text)


def test_nothing_is_behind_after_bringing_up_to_date(crossing: int, work: Callable[..., Any]) -> None:
    assert behind.late(crossing) == []
    assert {stage: row["done"] for stage, row in work("update", crossing).items()} == dict.fromkeys(
        ("sort", "lift", "refit", "route"), 0
    )
    assert due.due(crossing, crossings.load_plan(crossing), "check") == []


def test_that_nothing_is_due_is_known_until_anything_happens(crossing: int, work: Callable[..., Any]) -> None:
    def plan() -> Plan:
        return crossings.load_plan(crossing)

    assert not order.settled(crossing, plan(), "route")
    assert due.due(crossing, plan(), "route") == [] and order.settled(crossing, plan(), "route")
    assert not order.settled(crossing, plan(), "check"), "another end of the run is another question"
    jobs.add_job("survey", crossing)  # that it waits is enough: it may be stopped in the middle
    assert not order.settled(crossing, plan(), "route")
    begun = jobs.claim()
    assert begun is not None
    jobs.finish(begun.id, begun.lease, "stopped")
    assert due.due(crossing, plan(), "route") == [] and order.settled(crossing, plan(), "route")
    given.add(Side(crossing), "more.csv", "table")
    assert not order.settled(crossing, plan(), "route") and due.due(crossing, plan(), "route") == ["survey"]
    work("survey", crossing)
    assert due.due(crossing, plan(), "route") == [] and order.settled(crossing, plan(), "route")
    change(crossing, "locator", lambda d: d["kinds"][1]["fields"][2]["locators"].__setitem__(0, {"css": "span.price"}))
    assert not order.settled(crossing, plan(), "route") and due.due(crossing, plan(), "route") == ["lift"]


def test_a_changed_locator_lifts_the_pages_of_its_kind_alone(crossing: int, work: Callable[..., Any]) -> None:
    change(crossing, "locator", lambda d: d["kinds"][1]["fields"][2]["locators"].__setitem__(0, {"css": "span.price"}))
    late = behind.late(crossing)
    assert {(one.stage, one.why) for one in late} == {("lift", Behind.CHANGED)} and len(late) == SHOPS
    told = work("update", crossing)
    assert (told["lift"]["done"], told["lift"]["left"]) == (SHOPS, POSTS)
    assert told["sort"]["done"] == told["refit"]["done"] == told["route"]["done"] == 0


def test_a_changed_body_locator_refits_the_bodies_that_differ(crossing: int, work: Callable[..., Any]) -> None:
    change(crossing, "body", lambda d: d["kinds"][1]["fields"][1]["locators"].__setitem__(0, {"css": ".body > p"}))
    told = work("update", crossing)
    assert (told["lift"]["done"], told["refit"]["done"], told["refit"]["left"]) == (SHOPS, SHOPS, POSTS)


def test_a_changed_step_refits_the_bodies_it_touches(crossing: int, work: Callable[..., Any]) -> None:
    touched = POSTS // 4
    change(crossing, "step", lambda d: d["refit"]["steps"].append({"name": "badge", "remove": ".badge"}))
    assert behind.counts(crossing) == {"refit": POSTS + SHOPS}, (
        "which of them it touches is known when they are looked at"
    )
    told = work("update", crossing)
    assert (told["refit"]["done"], told["refit"]["left"]) == (touched, POSTS + SHOPS - touched)
    assert refit.removed_by_step(crossing) == {"badge": (touched, touched * 3)}
    assert behind.late(crossing) == []
    change(crossing, "step renamed", lambda d: d["refit"]["steps"].__setitem__(0, {"name": "mark", "remove": ".badge"}))
    assert work("update", crossing)["refit"]["done"] == touched
    assert refit.removed_by_step(crossing) == {"mark": (touched, touched * 3)}
    change(crossing, "no step", lambda d: d["refit"]["steps"].clear())
    assert work("update", crossing)["refit"]["done"] == touched and refit.removed_by_step(crossing) == {}
    assert rows("SELECT count(*) FROM stamp WHERE stage LIKE 'steps %'") == [(1,)], "of those in use alone"


def test_a_later_survey_moves_the_pages_that_changed(
    site: tuple[Site, int], crossing: int, work: Callable[..., Any]
) -> None:
    pages = site[0].pages
    for n in (1, 5, 9):
        pages[f"/post/{n}.htm"] = pages[f"/post/{n}.htm"].replace("First words", "Quite other words")
    work("survey", crossing, again=True)
    assert {one.key for one in behind.late(crossing) if one.stage == "lift"} == {f"/post/{n}.htm" for n in (1, 5, 9)}
    told = work("update", crossing)
    assert {stage: row["done"] for stage, row in told.items()} == {"sort": 3, "lift": 3, "refit": 3, "route": 0}


def test_a_new_rule_moves_pages_between_kinds_and_what_hangs_on_it(crossing: int, work: Callable[..., Any]) -> None:
    change(crossing, "rule", lambda d: d["kinds"][0]["rules"].append({"address": "/shop/[0-2]\\.htm"}))
    told = work("update", crossing)
    assert told["sort"]["done"] == POSTS + SHOPS + 1 and told["refit"]["left"] >= POSTS + SHOPS - 3
    assert told["lift"]["done"] == 3 and told["route"]["done"] == 3, "three items get other places"


def test_an_item_whose_page_is_in_no_kind_any_more_goes_and_its_edit_waits(
    crossing: int, work: Callable[..., Any]
) -> None:
    edit = Edit(old="/shop/1.htm", field="title", value="By hand", by="Ann", at="2026-01-01")
    changes.change_edits(crossing, [edit], [], "Ann", "title set")
    work("lift", crossing)
    change(crossing, "kind dropped", lambda d: d["kinds"].pop(1))
    assert {one.why for one in behind.late(crossing) if one.stage == "lift"} == {Behind.GONE}
    work("update", crossing)
    assert set(lift.made(crossing)) == {f"/post/{n}.htm" for n in range(POSTS)}
    assert [(laid.item, laid.conflict) for laid in edits.laid(crossing)] == [(0, False)]
    changes.undo(crossing, "Ann")
    work("update", crossing)
    title = next(i.fields["title"] for i in lift.items(crossing) if i.key == "/shop/1.htm")
    assert title == "By hand"


# --- edits ---------------------------------------------------------------------------------------------------------


def body_of(crossing: int, key: str) -> tuple[list[str], int, Any]:
    """(the texts of the blocks that go over, how many changes do not fit any more, the body as it was refitted)."""
    item = lift.made(crossing)[key].item
    stored = refit.stored(crossing, item, "body")
    body = stored_body(stored.body)
    blocks, odd = finished(body, edits.of_item(item, "body"), stored.url)
    from grandferry.core.refit.body import shown_words

    return [shown_words(block) for block in blocks], len(odd), body


def test_edits_of_a_body_apply_to_their_block_and_conflict_when_its_words_change(
    site: tuple[Site, int], crossing: int, work: Callable[..., Any]
) -> None:
    key = "/post/1.htm"
    _, _, body = body_of(crossing, key)
    first, heading, second = body.blocks
    mine = [
        Edit(old=key, field="body", block=first.id, value="<p>Mine <b>own</b>.</p>", over=first.hash),
        Edit(old=key, field="body", block=heading.id, act="drop", over=heading.hash),
        Edit(
            old=key, field="body", block=second.id, act="after", value="<p>And more.</p><p>Still.</p>", over=second.hash
        ),
    ]
    changes.change_edits(crossing, mine, [], "Ann", "body set")
    assert body_of(crossing, key)[:2] == (["Mine own.", "More of number 1.", "And more.", "Still."], 0)
    page = site[0].pages[key]
    # what stands before it, a box around it and other markup do not matter: the words are the same
    site[0].pages[key] = page.replace("<header>", "<p>News</p><header>").replace(
        '<div class="body">', '<div class="body"><p>New at the top.</p>'
    )
    work("survey", crossing, again=True)
    work("update", crossing)
    texts, odd, _ = body_of(crossing, key)
    assert texts == ["New at the top.", "Mine own.", "More of number 1.", "And more.", "Still."] and odd == 0
    site[0].pages[key] = page.replace("First words of 1", "Rewritten words")
    work("survey", crossing, again=True)
    work("update", crossing)
    texts, odd, _ = body_of(crossing, key)
    assert texts == ["Rewritten words.", "More of number 1.", "And more.", "Still."] and odd == 1, (
        "never a silent merge"
    )


def test_an_edit_of_a_whole_body_conflicts_when_its_words_change_and_not_when_it_moves(
    site: tuple[Site, int], crossing: int, work: Callable[..., Any]
) -> None:
    key = "/post/2.htm"
    changes.change_edits(crossing, [Edit(old=key, field="body", value="<p>All mine.</p>")], [], "Ann", "body set")
    work("lift", crossing)
    page = site[0].pages[key]
    site[0].pages[key] = page.replace("<header>", "<p>One</p><p>Two</p><header>")  # other node numbers
    work("survey", crossing, again=True)
    work("update", crossing)
    assert body_of(crossing, key)[:2] == (["All mine."], 0)
    assert [laid.conflict for laid in edits.laid(crossing)] == [False]
    site[0].pages[key] = page.replace("More of", "Less of")
    work("survey", crossing, again=True)
    work("update", crossing)
    assert [laid.conflict for laid in edits.laid(crossing)] == [True]
    assert body_of(crossing, key)[:2] == (["All mine."], 1)


def test_edits_go_out_with_the_plan_and_come_in_with_it_and_are_taken_back(
    crossing: int, cross: Callable[..., int]
) -> None:
    by_hand = [
        Edit(old="/post/1.htm", field="title", value="By hand", over="abc", by="Ann", at="2026-01-02"),
        Edit(old="/post/1.htm", field="body", block="b1", act="drop", over="def", by="Ann", at="2026-01-02"),
    ]
    changes.change_edits(crossing, by_hand, [], "Ann", "two edits")
    packed = sharing.packed(crossing)
    with zipfile.ZipFile(io.BytesIO(packed)) as archive:
        lines = archive.read("edits.jsonl").decode().splitlines()
    assert {json.loads(line)["block"] for line in lines} == {"", "b1"}
    other = cross({"name": "Other", "old": {"start": "http://other.test/"}})
    sharing.take_parts(other, packed, ["steps"], "Ben")
    assert edits.edits(other) == [], "only what was chosen is taken over"
    sharing.take_parts(other, packed, ["edits"], "Ben")
    assert edits.edits(other) == sorted(by_hand, key=edits.key_of)
    assert sharing.packed(crossing) == packed, "the same plan gives the same bytes"
    changes.undo(other, "Ben")
    assert edits.edits(other) == []
