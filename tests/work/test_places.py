"""Places within pages that other pages' links lead to: kept on the page that holds them, whatever spelling led there."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from grandferry.core.because import sentence
from grandferry.core.refit.write import to_markdown
from grandferry.store import changes, crossings, refit, route
from grandferry.work.land.content import Contents
from tests.servers import apps, pages_app

Make = Callable[..., int]
Run = Callable[..., dict[str, Any]]
FIELDS = [
    {"name": "title", "type": "line", "locators": [{"css": "h1"}]},
    {"name": "body", "type": "blocks", "locators": [{"css": "main"}]},
]
KIND = {"name": "page", "rules": [{"address": "/[a-z]+.htm"}], "fields": FIELDS, "address": "/new/{slug}/"}


def bodies(crossing: int) -> dict[str, str]:
    contents = Contents(crossing, crossings.load_plan(crossing))
    return {content.item.key: to_markdown(content.fields["body"].blocks) for content in contents}


def test_what_other_pages_lead_to_is_kept_and_only_that(cross: Make, work: Run) -> None:
    site: dict[str, Any] = {
        "/": "<a href=yard.htm>y</a> <a href=shed.htm>s</a>",
        "/yard.htm": "<h1>Yard</h1><main><p id=gate>Gate</p><p id='n%C3%A4chste'>Next</p><p id=idle>Idle</p></main>",
        "/shed.htm": "<h1>Shed</h1><base href='/sub/'><main><p><a href='../yard.htm#gate'>gate</a> "
        "<a href='/moved.htm#idle'>idle</a> <a href='/shed.htm#door'>door</a></p><p id=door>Door</p></main>",
        "/moved.htm": (301, {"Location": "/yard.htm"}, b""),
    }
    with apps(pages_app(site)) as (port,):
        made = cross(
            {"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}, "kinds": [KIND]},
        )
        work("survey", made)
        for job in ("sort", "lift", "refit", "route"):
            work(job, made)
        found = bodies(made)
        assert found["/yard.htm"] == '<a id="gate"></a>Gate\n\nNext\n\n<a id="idle"></a>Idle\n'
        assert found["/shed.htm"] == (
            '[gate](/new/yard/#gate) [idle](/new/yard/#idle) [door](#door)\n\n<a id="door"></a>Door\n'
        )
        anchors = next(row for row in refit.things(made) if row.name == "anchors")
        assert (anchors.have, anchors.lost) == (3, 0)

        # a later survey in which one more link leads there moves that body alone
        site["/shed.htm"] = site["/shed.htm"].replace("<main>", "<main><a href='/yard.htm#n%25C3%25A4chste'>next</a> ")
        work("survey", made, again=True)
    done = [work(job, made) for job in ("sort", "lift", "refit")][-1]
    assert done["done"] == 2 and done["left"] == 0
    assert '<a id="n%C3%A4chste"></a>Next' in bodies(made)["/yard.htm"]


def test_files_go_along_with_the_pages_they_stand_on_where_nobody_says_otherwise(cross: Make, work: Run) -> None:
    site: dict[str, Any] = {
        "/yard.htm": "<h1>Yard</h1><main><p>Gate</p><img src=/img/gate.png></main><a href=/odd/>o</a>",
        "/odd/": "<h1>Odd</h1><img src=/img/odd.png>",
        "/img/gate.png": (200, {"Content-Type": "image/png"}, b"\x89PNG\r\n\x1a\n gate"),
        "/img/odd.png": (200, {"Content-Type": "image/png"}, b"\x89PNG\r\n\x1a\n odd"),
    }
    with apps(pages_app(site)) as (port,):
        made = cross(
            {"old": {"start": f"http://127.0.0.1:{port}/yard.htm"}, "survey": {"sitemaps": False}, "kinds": [KIND]},
        )
        for job in ("survey", "sort", "lift", "refit", "route"):
            work(job, made)
    decided = route.decisions(made)
    gate, odd = decided["/img/gate.png"], decided["/img/odd.png"]
    assert (gate.fate, gate.target, gate.origin) == ("moved", "/new/yard/gate.png", "file")
    assert sentence(gate.reason) == "goes along with /yard.htm, on which it stands"
    assert odd.fate is None, "the page that it stands on goes nowhere"
    plan = crossings.load_plan(made)
    plan.route.files = "/media/{name}"
    changes.change_plan(made, plan, changes.revision(made), "Ann", "where files go")
    work("route", made)
    decided = route.decisions(made)
    assert decided["/img/gate.png"].target == "/media/gate.png" and not decided["/img/gate.png"].reason
    assert decided["/img/odd.png"].target == "/media/odd.png"
