"""Media: every file once by its content, where it is shown and with which text, what is wrong, what could not be had."""

from __future__ import annotations

from typing import Any

import httpx

from grandferry.core.side import Side
from grandferry.store import media
from tests.api.test_api import client
from tests.core.test_media_facts import picture
from tests.servers import apps, pages_app
from tests.work.test_groups import Make, Run

ONE, OTHER = picture("PNG"), picture("JPEG", 640, 400)


def site() -> dict[str, Any]:
    def png(content: bytes, type_: str = "image/png") -> Any:
        return (200, {"Content-Type": type_}, content)

    return {
        "/": "<h1>Home</h1><img src=/a.png alt='A boat'><img src=/b.png><a href=/p.html>p</a><a href=/x.pdf>paper</a>",
        "/p.html": "<h1>P</h1><div style='background: url(/back.jpg)'>x</div><img src=/a.png alt=''>"
        "<img src=/gone.png alt=g><img src=/late.png alt=l><img src=/page.png alt=p>",
        "/a.png": png(ONE),
        "/b.png": png(ONE),
        "/back.jpg": png(OTHER, "image/jpeg"),
        "/x.pdf": png(b"%PDF-1.4 text", "application/pdf"),
        "/page.png": png(b"<!doctype html><h1>Sorry", "image/png"),
        "/late.png": (500, {"Content-Type": "text/plain"}, b"down"),
    }


__all__ = ["client"]


def test_files_by_their_content(cross: Make, work: Run, client: httpx.Client) -> None:
    pages = site()
    with apps(pages_app(pages)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        work("survey", crossing)
        at = f"/api/crossings/{crossing}/media"
        found = client.get(at).json()
        files = {row["url"].rpartition("/")[2]: row for row in found["rows"]}
        assert set(files) == {"a.png", "back.jpg", "x.pdf", "page.png"} and found["total"] == 4
        assert found["families"] == {"pictures": 2, "documents": 2}
        twin = files["a.png"]
        assert (twin["sources"], twin["width"], twin["height"], twin["bytes"]) == (2, 30, 20, len(ONE))
        assert twin["mute"] == 2, "once on each page"
        assert files["back.jpg"]["pages"] == 1 and files["back.jpg"]["shown"] == 0, "named in a style alone"
        assert files["page.png"]["fault"] == "page"
        for only, names in (("mute", {"a.png"}), ("twins", {"a.png"}), ("fault", {"page.png"}), ("unused", set())):
            rows = client.get(at, params={"only": only}).json()
            assert {row["url"].rpartition("/")[2] for row in rows["rows"]} == names, only
            assert found["counts"][only] == len(names)
        assert [r["url"][-8:] for r in client.get(at, params={"order": "pixels", "limit": 1}).json()["rows"]] == [
            "back.jpg"
        ]
        detail = client.get(f"{at}/{twin['id']}").json()
        assert [one["url"][-6:] for one in detail["sources"]] == ["/a.png", "/b.png"] and detail["uses_all"] == 3
        assert {(use["key"], use["words"]) for use in detail["uses"]} == {
            ("/", "A boat"),
            ("/", ""),
            ("/p.html", ""),
        }
        small = client.get(f"{at}/{files['back.jpg']['id']}/small")
        assert small.headers["content-type"] == "image/png" and small.content.startswith(b"\x89PNG")
        assert client.get(f"{at}/{files['x.pdf']['id']}/small").status_code == 404
        assert client.get(f"{at}/999999").status_code == 404
        lacking = {row["url"].rpartition("/")[2]: row for row in client.get(f"{at}/missing").json()}
        assert {name: row["status"] for name, row in lacking.items()} == {"gone.png": 404, "late.png": 500}
        pages["/late.png"] = (200, {"Content-Type": "image/png"}, picture("PNG", 5, 5))
        work("survey", crossing, only=lacking["late.png"]["id"])
        assert [row["url"][-9:] for row in client.get(f"{at}/missing").json()] == ["/gone.png"]
        assert client.get(at, params={"search": "late"}).json()["rows"][0]["width"] == 5
    assert media.unlooked(Side(crossing)) == []
