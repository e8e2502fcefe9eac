"""What a person says of files: roles, texts, names, the place that crops keep; carried into items, kept over re-runs."""

from __future__ import annotations

import csv
import io
import json
from pathlib import Path
from typing import Any

import httpx
import pytest
from PIL import Image

from grandferry.core.errors import PlanError
from grandferry.core.media.remake import CannotRemake, becomes, remade, with_ending
from grandferry.core.media.said import FileSaid, Remake, Role
from grandferry.ports.planfolder import parse_files, read_plan, write_files, write_plan
from grandferry.store import changes, crossings, said
from grandferry.work.land.places import folder_of
from grandferry.work.plan.plans import bring_in
from grandferry.work.plan.sharing import plan_folder
from tests.api.test_api import client
from tests.servers import apps, pages_app
from tests.work.test_groups import Make, Run

__all__ = ["client"]


def picture(form: str, width: int, height: int, **more: Any) -> bytes:
    out = io.BytesIO()
    made = Image.effect_mandelbrot((width, height), (-2, -1, 1, 1), 20)
    made.convert("RGB").save(out, form, **more)
    return out.getvalue()


BIG, SMALL, BEHIND = picture("JPEG", 1600, 840), picture("PNG", 640, 400), picture("PNG", 300, 300)


def site() -> dict[str, Any]:
    def page(n: int, shown: str, more: str) -> str:
        return (
            f"<title>P{n}</title><main><h1>P{n}</h1><figure class=lead><img src={shown}></figure><p>Words of page {n} "
            f"that say something.</p>{more}</main>"
        )

    return {
        "/": "<h1>Home</h1>" + "".join(f"<a href=/p{n}.html>{n}</a>" for n in range(3)),
        "/p0.html": page(
            0, "/img/big.jpg", "<p><img src=/img/small.png alt='Its own words'><video src=/f.mp4></video>"
        ),
        "/p1.html": page(1, "/img/small.png", "<div style='background:url(/img/b.png) left top / cover'>x</div>"),
        "/p2.html": page(2, "/img/none.png", "<p><img src=/img/big.jpg>"),
        "/img/big.jpg": (200, {"Content-Type": "image/jpeg"}, BIG),
        "/img/small.png": (200, {"Content-Type": "image/png"}, SMALL),
        "/img/b.png": (200, {"Content-Type": "image/png"}, BEHIND),
        "/f.mp4": (200, {"Content-Type": "video/mp4"}, b"\x00\x00\x00\x18ftypmp42" + bytes(40)),
    }


def plan_of(port: int) -> dict[str, Any]:
    picture_ = {"name": "lead", "type": "picture", "locators": [{"css": "figure.lead img"}]}
    fields = [
        {"name": "title", "type": "line", "locators": [{"css": "h1"}]},
        picture_,
        {"name": "body", "type": "blocks", "locators": [{"css": "main"}]},
    ]
    kind = {"name": "page", "rules": [{"address": "/p.*"}], "fields": fields, "address": "/new/{slug}"}
    role = {"name": "banner", "width": 1200, "height": 630, "fields": ["lead"]}
    return {
        "old": {"start": f"http://127.0.0.1:{port}/"},
        "survey": {"sitemaps": False},
        "kinds": [kind],
        "route": {"files": "/media/{name}"},
        "media": {"roles": [role, {"name": "square", "shape": "1:1"}]},
        "land": {"target": "json"},
    }


def test_said_of_files(cross: Make, work: Run, client: httpx.Client, tmp_path: Path) -> None:
    with apps(pages_app(site())) as (port,):
        crossing = cross(plan_of(port))
        for stage in ("survey", "sort", "lift", "refit", "route", "land"):
            work(stage, crossing)
        at = f"/api/crossings/{crossing}/media"

        def files() -> dict[str, Any]:
            return {row["url"].rpartition("/")[2]: row for row in client.get(at).json()["rows"]}

        def landed(name: str) -> Any:
            found = next(folder_of(crossings.load_plan(crossing)).rglob(name))
            return json.loads(found.read_text("utf-8"))

        shown = files()
        assert (shown["big.jpg"]["role"], shown["big.jpg"]["unsuited"]) == ("banner", "")
        assert (shown["small.png"]["role"], shown["small.png"]["unsuited"]) == ("banner", "small")
        assert shown["b.png"]["role"] == ""
        counts = client.get(at).json()["counts"]
        assert (counts["role"], counts["unsuited"], counts["decided"]) == (2, 1, 0)
        behind = client.get(f"{at}/{shown['b.png']['id']}").json()
        assert [use["words"] for use in behind["uses"]] == ["cover, at left top"], "position and fit (G4)"
        said_of_open = {one["what"]: one["count"] for one in landed("account.json")["open"]}
        assert (said_of_open["pictures with a role"], said_of_open["films"]) == (1, 1)

        def say(of: str, **what: Any) -> httpx.Response:
            return client.post(f"{at}/said", json={"files": [files()[of]["id"]], **what})

        assert say("big.jpg", alt="The harbour", focus="25% 40%", name="harbour").status_code == 200
        assert say("small.png", alt="A pier", role="square").status_code == 200
        assert say("f.mp4", poster="/img/b.png").status_code == 200
        assert say("b.png", aside="only looks").status_code == 200
        assert "no role" in say("b.png", role="nothing").text
        assert "no place" in say("b.png", focus="left").text
        both = {"files": [files()["b.png"]["id"], files()["big.jpg"]["id"]], "focus": "1% 1%"}
        assert "one file at a time" in client.post(f"{at}/said", json=both).text
        assert (files()["small.png"]["role"], files()["small.png"]["unsuited"]) == ("square", "shape")
        assert client.get(at).json()["counts"]["decided"] == 4
        assert client.get(f"/api/crossings/{crossing}/behind").json()["stages"]["route"] > 0

        work("survey", crossing)  # again: what was said stays
        for stage in ("route", "land"):
            work(stage, crossing)
        shown = files()
        assert shown["big.jpg"]["new_path"] == "/media/harbour.jpg" and shown["b.png"]["says"] == "only looks"
        first, other, third = (landed(f"p{n}.json") for n in range(3))
        assert first["lead"] == {"src": "/media/harbour.jpg", "alt": "The harbour", "caption": "", "focus": "25% 40%"}
        assert "Its own words" in first["body_html"] and "A pier" not in first["body_html"], "a page's own text stands"
        assert other["lead"]["alt"] == "A pier"
        assert "![The harbour](/media/harbour.jpg)" in third["body_markdown"]
        assert f'poster="http://127.0.0.1:{port}/img/b.png"' in first["body_html"], "given, and itself left behind"
        say("small.png", over=True)
        work("land", crossing)
        assert "Its own words" not in landed("p0.json")["body_html"] and "A pier" in landed("p0.json")["body_html"]
        rows = csv.DictReader(io.StringIO((folder_of(crossings.load_plan(crossing)) / "files.csv").read_text("utf-8")))
        told = {row["new"]: row for row in rows}
        assert told["/media/harbour.jpg"]["focus"] == "25% 40%" and told["/media/small.png"]["unsuited"] == "shape"

        changes.change_files(crossing, [FileSaid(file="/img/mistyped.png", alt="x")], [], "me", "mistyped")
        assert work("route", crossing)["of_no_file"] == ["/img/mistyped.png"], "told, and not silently nothing"
        changes.undo(crossing, "")

        # out with the plan, in again, and back
        write_plan(tmp_path / "plan", plan_folder(crossing))
        assert {one.file for one in read_plan(tmp_path / "plan").files} == {
            "/img/b.png", "/img/big.jpg", "/img/small.png", "/f.mp4",
        }  # fmt: skip
        kept = said.every(crossing)
        changes.undo(crossing, "")
        assert not said.of_file(crossing, "/img/small.png").over
        bring_in(tmp_path / "plan")
        assert said.every(crossing) == kept
        for name in ("big.jpg", "small.png", "f.mp4", "b.png"):
            blank = {"role": "", "alt": "", "over": False, "name": "", "focus": "", "poster": "", "aside": ""}
            say(name, **blank)
        assert said.every(crossing) == []


def test_pictures_are_made_anew_on_their_way(cross: Make, work: Run, client: httpx.Client) -> None:
    with apps(pages_app(site())) as (port,):
        plan = plan_of(port)
        plan["media"] = {"remake": {"widest": 800, "form": "webp"}}
        crossing = cross(plan)
        for stage in ("survey", "sort", "lift", "refit", "route"):
            work(stage, crossing)
        at = f"/api/crossings/{crossing}/media"
        ids = {row["url"].rpartition("/")[2]: row["id"] for row in client.get(at).json()["rows"]}
        client.post(f"{at}/said", json={"files": [ids["b.png"]], "same": True})
        for stage in ("route", "land"):
            work(stage, crossing)
        place = folder_of(crossings.load_plan(crossing))
        made = next(place.rglob("big.webp")).read_bytes()
        with Image.open(io.BytesIO(made)) as shown:
            assert (shown.format, shown.size) == ("WEBP", (800, 420))
        assert next(place.rglob("b.png")).read_bytes() == BEHIND
        body = json.loads(next(place.rglob("p2.json")).read_text("utf-8"))["body_html"]
        assert "/media/big.webp" in body, "links follow"
        assert work("land", crossing)["changed"] == 0, "the same picture, the same bytes"


def test_what_can_be_made_anew() -> None:
    assert becomes(Remake(widest=100), "image/gif", 500, 500) is None, "what may move"
    assert becomes(Remake(widest=1000), "image/png", 500, 500) is None
    assert becomes(Remake(form="webp"), "image/png", 9000, 9000) is None, "too many pixels"
    assert becomes(Remake(form="webp"), "image/svg+xml", 50, 50) is None
    turned = picture("JPEG", 400, 200, exif=_turned())
    into = becomes(Remake(widest=100), "image/jpeg", 400, 200)
    assert into is not None
    with Image.open(io.BytesIO(remade(turned, into, 80))) as shown:
        assert shown.size == (50, 100) and not shown.getexif(), "as it is to be seen, without where it was taken"
    with pytest.raises(CannotRemake):
        remade(turned[:900], into, 80)
    assert [with_ending(name, "image/webp") for name in ("a.b.png", "a", ".png", "x/y.JPG")] == [
        "a.b.webp", "a.webp", ".png.webp", "x/y.webp",
    ]  # fmt: skip
    assert with_ending("a.JPEG", "image/jpeg") == "a.JPEG"


def _turned() -> bytes:
    exif = Image.Exif()
    exif[0x0112] = 6
    exif[0x010F] = "Somebody's camera"
    return exif.tobytes()


def test_roles() -> None:
    wide = Role(name="wide", width=1200, shape="16:9")
    assert wide.fault(1600, 900) is None and wide.fault(1600, 902) is None
    assert (wide.fault(1000, 900), wide.fault(1600, 1200), wide.fault(0, 0)) == ("small", "shape", "unknown")
    assert Role(name="any").fault(0, 0) is None


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("file,colour\n/a.png,red\n", "“colour” is no column"),
        ("alt\nx\n", "the column “file” is missing"),
        ("file,focus\n/a.png,middle\n", "no place on a picture"),
        ("file,over\n/a.png,perhaps\n", "neither yes nor no"),
        ("file,alt\n/a.png,x\n/a.png,y\n", "stands there twice"),
        ("file,name\n/a.png,../x\n", "“name”"),
        ("file,alt\nnothing at all,x\n", "“file”"),
    ],
)
def test_a_sheet_of_files_that_cannot_be(text: str, says: str) -> None:
    with pytest.raises(PlanError, match=says):
        parse_files(text.encode(), "media.csv")


def test_a_sheet_of_files_comes_back() -> None:
    some = [
        FileSaid(file="/a,b.png", alt='A "boat"; red', over=True, focus="0% 100%"),
        FileSaid(file="http://files.test/x.jpg", role="lead", same=True),
    ]
    assert parse_files(write_files(some).encode(), "media.csv") == some
