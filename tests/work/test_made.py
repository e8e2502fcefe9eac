"""New addresses that kinds make: readable in their own script or another, each used once, tried before they are saved."""

from __future__ import annotations

from typing import Any

import httpx
import pytest

from grandferry.core.plan import Pair
from grandferry.store import changes, crossings
from tests.api.test_api import client
from tests.servers import apps, pages_app
from tests.work.test_groups import Make, Run

__all__ = ["client"]

SITE: dict[str, Any] = {
    "/": "".join(f"<a href=/n/{n}.htm>{n}</a>" for n in range(5)),
    "/n/0.htm": "<h1>The lamp of the East</h1>",
    "/n/1.htm": "<h1>The lamp of the East</h1>",
    "/n/2.htm": "<h1>Новый паровоз</h1>",
    "/n/3.htm": "<h1>The lamp of the East</h1>",
    "/n/4.htm": "<h1>.</h1>",
}
KIND: dict[str, Any] = {
    "name": "note",
    "rules": [{"below": "/n/"}],
    "fields": [{"name": "title", "type": "line", "locators": [{"css": "h1"}]}],
    "address": "/notes/{slug}",
}


@pytest.fixture
def crossing(cross: Make, work: Run) -> int:
    with apps(pages_app(SITE)) as (port,):
        made = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}, "kinds": [KIND]})
        for job in ("survey", "sort", "lift", "route"):
            work(job, made)
    return made


def places(client: httpx.Client, crossing: int, **more: Any) -> dict[str, str]:
    rows = client.get(f"/api/crossings/{crossing}/items", params=more).json()["rows"]
    return {row["key"]: row["new_path"] for row in rows}


def test_pages_called_the_same_get_different_addresses_and_that_is_shown(
    crossing: int, work: Run, client: httpx.Client
) -> None:
    assert list(places(client, crossing).values()) == [
        "/notes/the-lamp-of-the-east",
        "/notes/the-lamp-of-the-east-2",
        "/notes/%D0%BD%D0%BE%D0%B2%D1%8B%D0%B8-%D0%BF%D0%B0%D1%80%D0%BE%D0%B2%D0%BE%D0%B7",
        "/notes/the-lamp-of-the-east-3",
        "/notes/4",
    ]
    assert places(client, crossing, clashing=True) == {
        "/n/1.htm": "/notes/the-lamp-of-the-east-2",
        "/n/3.htm": "/notes/the-lamp-of-the-east-3",
    }
    # one that is set by hand is locked, and leaves the number to the next
    changes.change_pairs(crossing, [Pair(old="/n/1.htm", new="/notes/lamp")], [], "Ann", "by hand")
    work("route", crossing)
    assert places(client, crossing, clashing=True) == {"/n/3.htm": "/notes/the-lamp-of-the-east-2"}
    assert places(client, crossing)["/n/1.htm"] == "/notes/lamp"


def test_what_a_kind_would_make_is_shown_before_it_is_saved(crossing: int, work: Run, client: httpx.Client) -> None:
    kind = KIND | {"slugs": {"script": "latin", "without": ["The", "of"], "longest": 12}}
    made = client.post(f"/api/crossings/{crossing}/addresses/made", json=kind).json()
    assert (made["items"], made["clashes"], made["without"]) == (5, 2, 0)
    assert [row["path"] for row in made["rows"]] == [
        "/notes/lamp-east-2",
        "/notes/lamp-east-3",
        "/notes/lamp-east",
        "/notes/novyi",
        "/notes/4",
    ]
    assert made["rows"][0]["note"] == "/notes/lamp-east is another item's place"
    other = KIND | {"address": "/{folder}/{author}/{slug}"}
    made = client.post(f"/api/crossings/{crossing}/addresses/made", json=other).json()
    assert made["without"] == 5 and "author" in made["rows"][0]["note"]
    assert "/notes/novyi" not in places(client, crossing).values(), "nothing is saved by it"
    plan = crossings.load_plan(crossing)
    plan.kinds[0].slugs = plan.kinds[0].slugs.model_copy(update={"script": "latin"})
    changes.change_plan(crossing, plan, changes.revision(crossing), "Ann", "Latin letters")
    assert work("sort", crossing)["done"] == 0, "how addresses are made readable is nothing that sorting rests on"
    work("route", crossing)
    assert "/notes/novyi-parovoz" in places(client, crossing).values()
