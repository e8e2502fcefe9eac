"""One crossing in every form of delivery: the same content in each; what an item lacks is marked before it goes."""

from __future__ import annotations

import json
import re
from datetime import date
from email.utils import parsedate_to_datetime
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import httpx
import pytest
import yaml
from selectolax.lexbor import LexborHTMLParser

from grandferry.core.land.profile import PROFILES
from grandferry.core.refit.blocks import from_json
from grandferry.core.refit.write import to_text
from grandferry.store import changes, crossings
from tests.api.test_api import client
from tests.core.rendering import visible_text
from tests.servers import apps, pages_app
from tests.work.test_folders import PNG
from tests.work.test_groups import Make, Run

__all__ = ["client"]

TITLE, TAGS = 'Boats: "old" & new #3', ["harbour", "boats, small"]
WORDS = "Two * stars and _lines_ in one text, with bold words and a link."
SITE: dict[str, Any] = {
    "/": "<h1>Home</h1><a href=/boats.html>b</a>",
    "/boats.html": '<main><h1>Boats: "old" &amp; new #3</h1><p class=date>2021-05-06</p><ul class=tags><li>harbour'
    "<li>boats, small</ul><figure class=lead><img src=/p.png alt=''></figure><div class=text><p>Two * stars and _lines_ in "
    "one text, with <b>bold words</b> and a <a href=/>link</a>.</p><img src=/p.png></div></main>",
    "/p.png": (200, {"Content-Type": "image/png"}, PNG),
}
FIELDS = [
    {"name": "title", "type": "line", "required": True, "locators": [{"css": "h1"}]},
    {"name": "published", "type": "date", "locators": [{"css": ".date"}]},
    {"name": "tags", "type": "list", "locators": [{"css": ".tags li"}]},
    {"name": "lead", "type": "picture", "locators": [{"css": ".lead img"}]},
    {"name": "about", "type": "line", "required": True, "locators": [{"css": ".none"}]},
    {"name": "body", "type": "blocks", "locators": [{"css": ".text"}]},
]


@pytest.fixture
def crossing(cross: Make, work: Run) -> int:
    with apps(pages_app(SITE)) as (port,):
        kind = {"name": "page", "rules": [{"element": "main"}], "fields": FIELDS, "address": "/new/{slug}"}
        plan = {"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}, "kinds": [kind]}
        number = cross(plan | {"route": {"files": "/media/{name}"}, "land": {"target": "markdown"}})
        for job in ("survey", "sort", "lift", "refit", "route"):
            work(job, number)
    return number


def plain(text: str) -> str:
    return " ".join(text.split())


def test_every_form_says_the_same(crossing: int, work: Run, tmp_path: Path) -> None:
    for form in ("markdown", "json", "jsonl", "html", "feed"):
        work("land", crossing, out=str(tmp_path / form), target={"target": form})
    _, header, body = next((tmp_path / "markdown").rglob("boats*.md")).read_text("utf-8").split("---\n", 2)
    said = yaml.safe_load(header)
    assert (said["title"], said["date"], said["tags"]) == (TITLE, "2021-05-06", TAGS)
    assert plain(visible_text(body)) == WORDS, "read as Markdown"
    row = json.loads(next((tmp_path / "json").rglob("boats*.json")).read_text("utf-8"))
    lines = next(path for path in (tmp_path / "jsonl").rglob("*.jsonl") if path.name != "shared.jsonl")
    (line,) = map(json.loads, lines.read_text("utf-8").splitlines())
    page = LexborHTMLParser(
        next(p for p in (tmp_path / "html").rglob("*.html") if "boats" in str(p)).read_text("utf-8")
    )
    for one in (row, line):
        assert (one["title"], one["published"], one["tags"]) == (TITLE, "2021-05-06", TAGS)
        assert plain(to_text(from_json(one["body"]["blocks"]))) == WORDS
    meta = {node.attributes["name"]: node.attributes["content"] for node in page.css("meta[name][content]")}
    assert (page.css_first("title").text(), meta["published"], meta["tags"]) == (TITLE, "2021-05-06", ", ".join(TAGS))  # type: ignore[union-attr]
    shown = plain(page.css_first("main").text())  # type: ignore[union-attr]
    assert shown.endswith(WORDS), shown
    feed = ElementTree.parse(tmp_path / "feed" / "items" / "page.xml").getroot().find(".//item")
    assert feed is not None
    assert (feed.findtext("title"), [one.text for one in feed.iterfind("category")]) == (TITLE, TAGS)
    assert parsedate_to_datetime(feed.findtext("pubDate", "")).date() == date(2021, 5, 6)
    assert (feed.findtext("guid"), feed.findtext("link")) == ("/boats.html", "/new/boats-old-and-new-3")
    whole = feed.findtext("{http://purl.org/rss/1.0/modules/content/}encoded", "")
    assert plain(LexborHTMLParser(whole).body.text()) == WORDS  # type: ignore[union-attr]
    fields = {one.get("name"): one.text for one in feed.iterfind("{urn:grandferry:fields}field")}
    assert json.loads(fields["lead"] or "")["src"] == "/media/p.png"
    assert (tmp_path / "feed" / "files" / "media" / "p.png").read_bytes() == PNG


def test_a_lead_picture_has_the_path_that_each_target_wants(crossing: int, work: Run, tmp_path: Path) -> None:
    """The same lifted values, two profiles: in one the place of the file's address, in one the folder of its files."""
    key = {"key": "image", "value": "lead", "form": "source"}
    for name in ("eleventy", "pelican"):
        ready = PROFILES[name].model_dump()
        profile = ready | {"keys": [*ready["keys"], key], "left_out": [*ready["left_out"], "lead"]}
        target = {"target": "markdown", "profile": profile}
        work("land", crossing, out=str(tmp_path / name), target=target)
        text = next((tmp_path / name).rglob("boats*.md")).read_text("utf-8")
        (path,) = re.findall(r'(?m)^image: "?([^"\n]+)"?$', text)
        assert path == "/media/p.png"
        folder = {"eleventy": "static", "pelican": "content"}[name]
        assert (tmp_path / name / folder / path.lstrip("/")).read_bytes() == PNG


def test_what_an_item_lacks_is_marked_before_it_goes(crossing: int, work: Run, client: httpx.Client) -> None:
    at = f"/api/crossings/{crossing}"
    shown = client.get(f"{at}/landing-file", params={"item": "/boats.html"}).json()
    assert [(one["what"], one["of"]) for one in shown["lacks"]] == [
        ("field", "about"), ("template", "page"), ("link", "/"), ("text", "/media/p.png"),
    ]  # fmt: skip
    assert shown["text"].startswith("---\ntitle:") and "layout" not in shown["text"]

    def named(template: str) -> dict[str, str]:
        plan = crossings.load_plan(crossing).model_dump()
        plan["land"]["profile"] = PROFILES["eleventy"].model_dump() | {
            "templates": {"page": template} if template else {}
        }
        changed = type(crossings.load_plan(crossing)).model_validate(plan)
        changes.change_plan(crossing, changed, changes.revision(crossing), "me", "template")
        result = work("land", crossing)
        account = json.loads((Path(result["folder"]) / "account.json").read_text("utf-8"))
        return {one["what"]: one["why"] for one in account["open"]}

    assert named("")["items of page"] == "no template is named", "once, however many items there are"
    assert "items of page" not in named("boat.njk")
    shown = client.get(f"{at}/landing-file", params={"item": "/boats.html"}).json()
    assert 'layout: "boat.njk"' in shown["text"] and ("template", "page") not in [
        tuple(one.values()) for one in shown["lacks"]
    ]
