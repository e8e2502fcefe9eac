"""A step is tried on one body before it is saved: what it changes there, and what it takes."""

from __future__ import annotations

from typing import Any

import httpx

from grandferry.store import changes, crossings
from tests.api.test_api import client
from tests.servers import apps, pages_app
from tests.work.test_groups import Make, Run

__all__ = ["client"]

SITE = {
    "/": "<main><h1>Home</h1><p>First words.</p><a href=/a.html>a</a> <a href=/b.html>b</a></main>",
    "/a.html": "<main><h1>A</h1><p>Before.</p><div class=share>Tell your friends</div><p>After.</p><h1>Second</h1></main>",
    "/b.html": "<main><h1>B</h1><p>Nothing else.</p></main>",
}


def test_a_step_is_tried(cross: Make, work: Run, client: httpx.Client) -> None:
    fields = [
        {"name": "title", "type": "line", "locators": [{"css": "h1"}]},
        {"name": "body", "type": "blocks", "locators": [{"css": "main"}]},
    ]
    kind = {"name": "page", "rules": [{"address": "/.*"}], "fields": fields, "address": "/new/{slug}"}
    with apps(pages_app(SITE)) as (port,):
        plan = {"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}, "kinds": [kind]}
        crossing = cross(plan | {"refit": {"steps": [{"name": "one h1", "tidy": "one_h1"}]}})
        for stage in ("survey", "sort", "lift", "refit"):
            work(stage, crossing)
    at = f"/api/crossings/{crossing}"
    revision = changes.revision(crossing)

    def tried(step: dict[str, Any], **more: Any) -> dict[str, Any]:
        answer = client.post(f"{at}/steps/tried", json={"step": {"name": "x", **step}, **more})
        assert answer.status_code == 200, answer.text
        return answer.json()

    found = tried({"remove": ".share"})
    assert (found["key"], found["finds"], found["words"], found["looked"]) == ("/a.html", True, 3, 2), (
        "the first it finds"
    )
    assert [(one["sign"], one["text"]) for one in found["lines"]] == [
        ("", ""), ("-", "Tell your friends"), ("-", ""), ("", "After."),
    ]  # fmt: skip
    other = next(row["item"] for row in client.get(f"{at}/bodies").json()["rows"] if row["key"] == "/b.html")
    found = tried({"remove": ".share"}, item=other)
    assert (found["key"], found["finds"], found["lines"]) == ("/b.html", False, [])
    nowhere = tried({"remove": ".nowhere"})
    assert not nowhere["finds"] and nowhere["looked"] == 3 and nowhere["lines"] == []
    box = tried({"select": ".share", "act": "callout", "box": "tip"})
    assert ("+", "> Tell your friends") in [(one["sign"], one["text"]) for one in box["lines"]] and box["words"] == 0

    a = next(row["item"] for row in client.get(f"{at}/bodies").json()["rows"] if row["key"] == "/a.html")
    there = tried({"tidy": "one_h1"}, at=0, item=a)
    signs = [(one["sign"], one["text"]) for one in there["lines"] if one["sign"]]
    assert signs == [("-", "# Second"), ("+", "## Second")] and there["finds"], "what the one that is there does"
    assert changes.revision(crossing) == revision and len(crossings.load_plan(crossing).refit.steps) == 1

    for body, says in (
        ({"step": {"name": "x", "remove": "p[["}}, "p[["),
        ({"step": {"name": "x", "remove": ".a"}, "at": 7}, "no step 8"),
        ({"step": {"name": "x", "remove": ".a"}, "item": 99_999}, "Item 99999"),
        ({"step": {"name": "x"}}, "a step removes something"),
    ):
        answer = client.post(f"{at}/steps/tried", json=body)
        assert answer.status_code in (404, 422, 400) and says in answer.text, answer.text
