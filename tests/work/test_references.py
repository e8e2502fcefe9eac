"""Fields that lead elsewhere, as they go over: to another item's new address, to a file's new place, or as they are."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from grandferry.store import crossings, refit
from grandferry.work.land.content import Contents
from tests.servers import apps, pages_app

Make = Callable[..., int]
Run = Callable[..., dict[str, Any]]


def test_references_links_and_files_lead_to_their_new_places(cross: Make, work: Run) -> None:
    site: dict[str, Any] = {
        f"/old/{n}.htm": f"<h1>Boat {n}</h1><a class=next href='{(n + 1) % 3}.htm#deck'>next</a><a class=out "
        f"href='http://b.test/x'>out</a><a class=sheet href='/sheets/{n}.pdf'>sheet</a><b>{'yes' if n else 'no'}</b>"
        for n in range(3)
    }
    site["/"] = "".join(f"<a href={key}>{key}</a>" for key in site)
    site |= {
        f"/sheets/{n}.pdf": (200, {"Content-Type": "application/pdf"}, b"%PDF-1.4 " + bytes([n]) * 50) for n in range(3)
    }
    fields = [
        {"name": "title", "type": "line", "locators": [{"css": "h1"}]},
        {"name": "next", "type": "reference", "locators": [{"css": "a.next"}]},
        {"name": "out", "type": "link", "locators": [{"xpath": "//a[@class='out']"}]},
        {"name": "sheet", "type": "file", "locators": [{"css": "a.sheet"}]},
        {"name": "afloat", "type": "yes_no", "locators": [{"css": "b"}]},
    ]
    kind = {"name": "boat", "rules": [{"below": "/old/"}], "fields": fields, "address": "/boats/{slug}"}
    with apps(pages_app(site)) as (port,):
        crossing = cross(
            {
                "old": {"start": f"http://127.0.0.1:{port}/"},
                "survey": {"sitemaps": False},
                "kinds": [kind],
                "route": {"files": "/files/{name}"},
            }
        )
        work("survey", crossing)
    for job in ("sort", "lift", "refit", "route"):
        work(job, crossing)
    found = {content.item.key: content.fields for content in Contents(crossing, crossings.load_plan(crossing))}
    assert found["/old/0.htm"]["next"] == "/boats/boat-1#deck" and found["/old/2.htm"]["next"] == "/boats/boat-0#deck"
    assert found["/old/1.htm"]["sheet"] == "/files/1.pdf" and found["/old/1.htm"]["out"] == "http://b.test/x"
    assert [found[f"/old/{n}.htm"]["afloat"] for n in range(3)] == [False, True, True]


def test_unknown_elements_stay_in_bodies_and_lead_to_their_pages(cross: Make, work: Run) -> None:
    site: dict[str, Any] = {
        f"/p{n}": f"<h1>P{n}</h1><main><p>Text {n}</p>{'<x-meter value=3>three</x-meter>' if n % 3 == 1 else ''}</main>"
        for n in range(6)
    }
    site["/"] = "".join(f"<a href={key}>{key}</a>" for key in site)
    fields = [
        {"name": "title", "type": "line", "locators": [{"css": "h1"}]},
        {"name": "body", "type": "blocks", "locators": [{"css": "main"}]},
    ]
    kind = {"name": "page", "rules": [{"address": "/p.*"}], "fields": fields}
    with apps(pages_app(site)) as (port,):
        made = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}, "kinds": [kind]})
        work("survey", made)
    for job in ("sort", "lift", "refit"):
        work(job, made)
    (unknown,) = [one for one in refit.constructs(made) if "x-meter" in one.name]
    assert (unknown.count, unknown.bodies) == (2, 2)
    total, found = refit.bodies_window(made, [], "", "key", 0, 10, unknown.name)
    assert total == 2 and [row.key for row in found] == ["/p1", "/p4"]
    assert refit.body_position(made, [], "", "key", found[1].item, "", unknown.name) == 1
    assert all(row.unaccounted == 0 for row in found), "what is unknown is not dropped"
    assert refit.bodies_window(made, [], "", "key", 0, 10, "nothing")[0] == 0


def test_an_attribute_claims_no_word_of_its_element(cross: Make, work: Run) -> None:
    """What is read of ``html`` by an attribute, or of a link as its address, takes none of the words in there along."""
    fields = [
        {"name": "language", "type": "line", "locators": [{"css": "html", "attribute": "lang"}]},
        {"name": "more", "type": "link", "locators": [{"css": "a.more"}]},
        {"name": "same", "type": "line", "locators": [{"xpath": "//aside/@title"}]},
        {"name": "body", "type": "blocks", "locators": [{"css": "main"}]},
    ]
    page = "<html lang=en><main><p>Body.</p></main><p>Left behind.</p><a class=more href=/b>Read on</a><aside title=t>Aside</aside>"
    kind = {"name": "page", "rules": [{"below": "/"}], "fields": fields}
    with apps(pages_app({"/": page})) as (port,):
        crossing = cross(
            {"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}, "kinds": [kind]}
        )
        for stage in ("survey", "sort", "lift", "refit"):
            work(stage, crossing)
    (row,) = refit.bodies_window(crossing, [], "", "key", 0, 9)[1]
    lost = " ".join(run.text for run in refit.loss_account(row.item, "body").missing)
    assert lost == "Left behind. Read on Aside" and row.unaccounted == 5
