"""What an old address is likely to have become, among our items and the pages of a new site that was surveyed."""

from __future__ import annotations

from typing import Any

import httpx

from tests.api.test_api import client
from tests.servers import apps, pages_app
from tests.work.test_groups import Make, Run

__all__ = ["client"]

OLD: dict[str, Any] = {
    "/": "<title>Home - Sheds</title><h1>Home</h1><a href=/print.php?id=4>p</a><a href=/lamp.htm>l</a>"
    "<a href=/x.htm>x</a><a href=/guides/>g</a>" + "".join(f"<a href=/s{n}.htm>{n}</a>" for n in range(4)),
    "/lamp.htm": "<title>The red lamp - Sheds</title><main><h1>The red lamp</h1><p>Words.</main>",
    "/print.php?id=4": "<title>The red lamp - Sheds</title><p>Words.",
    "/x.htm": "<title>Contact - Sheds</title><p>Write.",
    "/guides/": "<title>Zwq - Sheds</title><a href=oil.htm>o</a><a href=rag.png>r</a>",
    "/guides/oil.htm": "<title>Oiling round - Sheds</title><main><h1>Oiling round</h1><p>Words.</main>",
    **{f"/s{n}.htm": f"<title>Shed {n} - Sheds</title><p>{n}" for n in range(4)},
}
NEW: dict[str, Any] = {
    "/": "<title>New</title><a href=/contact-us>c</a>",
    "/contact-us": "<title>Contact us</title><p>Write.",
}


def test_candidates_come_from_items_and_from_the_new_site(cross: Make, work: Run, client: httpx.Client) -> None:
    fields = [{"name": "title", "type": "line", "locators": [{"css": "h1"}]}]
    kind = {"name": "piece", "rules": [{"element": "main"}], "fields": fields, "address": "/pieces/{slug}"}
    with apps(pages_app(OLD), pages_app(NEW)) as (old, new):
        plan = {"old": {"start": f"http://127.0.0.1:{old}/"}, "survey": {"sitemaps": False}, "kinds": [kind]}
        crossing = cross(plan | {"interim": f"http://127.0.0.1:{new}/", "new": {"survey": {"sitemaps": False}}})
        for job in ("survey", "sort", "lift", "route"):
            work(job, crossing)
        work("survey", crossing, side="new")

    def likely(address: str) -> list[dict[str, Any]]:
        answer = client.get(f"/api/crossings/{crossing}/likely", params={"address": address})
        return answer.json() if answer.status_code == 200 else [answer.json()]

    (lamp, *_) = likely("/print.php?id=4")
    assert lamp["new"] == "/pieces/the-red-lamp" and lamp["confidence"] > 0.9
    assert "the title is in the path" in lamp["reasons"] or "same title" in lamp["reasons"]
    assert likely("/x.htm")[0]["new"] == "/contact-us"
    assert likely("/s1.htm") == [] or likely("/s1.htm")[0]["confidence"] < 0.2
    (child, *_) = likely("/guides/")
    assert (child["new"], child["reasons"]) == (
        "/pieces/oiling-round",
        ["to choose: the first page below it: /guides/oil.htm"],
    )
    assert child["confidence"] < 0.1, "nothing takes it by itself"
    assert "There is no old address" in likely("/never")[0]["detail"]
