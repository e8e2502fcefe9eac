"""Forms: each once by what it asks, to be wired up until a person says what became of it."""

from __future__ import annotations

import json

import httpx

from grandferry.store import changes, crossings
from grandferry.work.land.places import folder_of
from tests.api.test_api import client
from tests.servers import apps, pages_app
from tests.work.test_groups import Make, Run

__all__ = ["client"]

LETTER = (
    "<form action=/cgi/letter method=post><label for=a>Name</label><input id=a name=name required>"
    "<label for=b>Mail</label><input id=b name=mail type=email required><label for=c>Day</label>"
    "<input id=c name=day type=date><label for=d>About</label><select id=d name=about><option>Trains<option>Tea</select>"
    "<label for=e>Words</label><textarea id=e name=words></textarea><button>Send</button></form>"
)
SEEK = "<form action=http://seek.test/find><input name=q placeholder='What?'><button>Find</button></form>"


def test_a_form_waits_until_a_person_says_what_became_of_it(cross: Make, work: Run, client: httpx.Client) -> None:
    site = {
        "/": "<main><h1>Home</h1><p>Some words</p><a href=/a.html>a</a><a href=/b.html>b</a></main>",
        "/a.html": f"<main><h1>A</h1><p>Write to us.</p>{LETTER}{SEEK}</main>",
        "/b.html": f"<main><h1>B</h1><p>Or from here.</p>{SEEK}</main>",
    }
    fields = [
        {"name": "title", "type": "line", "locators": [{"css": "h1"}]},
        {"name": "body", "type": "blocks", "locators": [{"css": "main"}]},
    ]
    kind = {"name": "page", "rules": [{"address": "/.*"}], "fields": fields, "address": "/new/{slug}"}
    with apps(pages_app(site)) as (port,):
        plan = {
            "old": {"start": f"http://127.0.0.1:{port}/"},
            "survey": {"sitemaps": False},
            "kinds": [kind],
            "land": {"target": "json"},
        }
        crossing = cross(plan)
        for stage in ("survey", "sort", "lift", "refit", "route", "land"):
            work(stage, crossing)
        at = f"/api/crossings/{crossing}"

        def delivered(name: str) -> list[dict[str, object]]:
            return json.loads((folder_of(crossings.load_plan(crossing)) / name).read_text("utf-8"))

        def left() -> list[tuple[str, int]]:
            steps = client.get(f"{at}/manifest").json()["next"]
            return [(step["text"], step["settles"]) for step in steps if step["of"] == "forms"]

        seek, letter = client.get(f"{at}/forms").json()
        assert (seek["bodies"], seek["posts_to"], letter["bodies"]) == (2, "http://seek.test/find", 1)
        assert [(f["label"], f["sort"], f["required"]) for f in letter["fields"]] == [
            ("Name", "text", True), ("Mail", "email", True), ("Day", "date", False), ("About", "select", False),
            ("Words", "textarea", False),
        ]  # fmt: skip
        assert left() == [("2 forms are to be wired up in the new system, or dropped on purpose", 2)]
        assert [one["count"] for one in delivered("account.json")["open"] if one["what"] == "forms"] == [3]  # type: ignore[call-overload]
        asked = delivered("forms.json")
        assert {len(one["fields"]) for one in asked} == {5, 1} and {one["state"] for one in asked} == {""}  # type: ignore[arg-type]
        assert asked[0]["posts_to"] == f"http://127.0.0.1:{port}/cgi/letter"
        body = json.loads(next(folder_of(crossings.load_plan(crossing)).rglob("a.json")).read_text("utf-8"))[
            "body_html"
        ]
        assert "/cgi/letter" not in body and "http://seek.test/find" in body, "nothing posts to the old site"

        plan_ = crossings.load_plan(crossing)
        said = [
            {"form": letter["mark"], "state": "wired up", "note": "as /letters"},
            {"form": seek["mark"], "state": "dropped", "note": ""},
        ]
        plan_ = type(plan_).model_validate(plan_.model_dump() | {"refit": plan_.refit.model_dump() | {"forms": said}})
        changes.change_plan(crossing, plan_, changes.revision(crossing), "Ada", "forms")
        assert left() == []
        assert client.get(f"{at}/behind").json()["stages"].get("refit", 0) == 0, "no body is touched by that"
        work("land", crossing)
        assert [one for one in delivered("account.json")["open"] if one["what"] == "forms"] == []  # type: ignore[call-overload]
        assert {(one["state"], one["note"]) for one in delivered("forms.json")} == {
            ("wired up", "as /letters"),
            ("dropped", ""),
        }
        changes.undo(crossing, "Ada")
        assert len(left()) == 1
