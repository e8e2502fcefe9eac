"""New addresses with the menu's entries above a page in them."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from grandferry.core.because import sentence
from grandferry.core.plan import Plan
from grandferry.store import changes, crossings, lift
from grandferry.work.route.made import made_by
from tests.servers import apps, pages_app

Make = Callable[..., int]
Run = Callable[..., dict[str, Any]]
MENU = "<nav><ul><li><a href=p1.htm>Visit</a><ul><li>Getting Here<ul><li><a href='p2.htm#top'>By train</a></ul></ul></ul></nav>"
SITE = {
    "/p0.htm": f"<base href=/old/><title>Home</title><h1>Home</h1>{MENU}<p><a href=/old/p3.htm>Lost</a>",
    "/old/p1.htm": f"<h1>Visit</h1>{MENU}",
    "/old/p2.htm": f"<h1>By train</h1>{MENU}",
    "/old/p3.htm": f"<h1>Lost</h1>{MENU}",
}
KIND = {
    "name": "page",
    "rules": [{"address": ".*"}],
    "address": "/{menu}/{slug}",
    "fields": [{"name": "title", "type": "line", "locators": [{"css": "h1"}]}],
}


def test_an_address_has_the_entries_above_its_page_in_it(cross: Make, work: Run) -> None:
    with apps(pages_app(SITE)) as (port,):
        crossing = cross(
            {
                "old": {"start": f"http://127.0.0.1:{port}/p0.htm"},
                "survey": {"sitemaps": False},
                "kinds": [KIND],
            }
        )
        for stage in ("survey", "sort", "lift", "route"):
            work(stage, crossing)
    items = {item.key: item for item in lift.items(crossing)}
    assert {key: item.new_path for key, item in items.items()} == {
        "/p0.htm": "/home",
        "/old/p1.htm": "/visit",
        "/old/p2.htm": "/visit/getting-here/by-train",
        "/old/p3.htm": "/lost",
    }
    assert sentence(items["/old/p3.htm"].note).startswith("it stands in no menu") and not items["/old/p1.htm"].note
    # while the kind is written: another pattern, nothing of it kept
    plan = crossings.load_plan(crossing)
    tried = Plan.model_validate(plan.model_dump()).kinds[0].model_copy(update={"address": "/x/{menu}/{slug}"})
    made = made_by(crossing, tried)
    assert ("/old/p2.htm", "/x/visit/getting-here/by-train") in [(key, place.path) for key, place in made.rows]
    plan.kinds[0].address = "/m/{menu}/{slug}"
    changes.change_plan(crossing, plan, changes.revision(crossing), "Ann", "below m")
    work("route", crossing)
    assert {item.new_path for item in lift.items(crossing)} >= {"/m/home", "/m/visit/getting-here/by-train"}
