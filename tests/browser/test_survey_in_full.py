"""Survey on screen: soundings, lists, what is kept out, the effect of bounds, many addresses, alike addresses."""

from __future__ import annotations

import csv
import io
import time
from pathlib import Path
from typing import Any
from urllib.request import urlopen

import pytest

from tests.servers import apps, pages_app

from .chrome import Browser
from .conftest import Application, application


def write_in(page: Browser, label: str, text: str) -> None:
    """Fill the field with that label, as React hears it."""
    page.until(
        "[...document.querySelectorAll('.MuiFormControl-root')].some(x => x.innerText.includes(arguments[0]))", label
    )
    page.js(
        "const box = [...document.querySelectorAll('textarea, input')].find(x => x.closest('.MuiFormControl-root')"
        "?.innerText.includes(arguments[0]));"
        "Object.getOwnPropertyDescriptor(Object.getPrototypeOf(box), 'value').set.call(box, arguments[1]);"
        "box.dispatchEvent(new Event('input', {bubbles: true}));",
        label,
        text,
    )


def press(page: Browser, words: str) -> None:
    page.until(
        "[...document.querySelectorAll('button')].some(b => b.innerText.includes(arguments[0]) && !b.disabled)", words
    )
    page.js(
        "[...document.querySelectorAll('button')].find(b => b.innerText.includes(arguments[0]) && !b.disabled).click()",
        words,
    )


@pytest.fixture
def app(tmp_path: Path) -> Any:
    with application(tmp_path / "data") as made:
        yield made


SITE: dict[str, Any] = {
    "/": '<html><head><title>Home</title><meta name=generator content="RailPages 2.3"></head><p>welcome</p>'
    "<a href=/a.htm>a</a><a href=/A.htm>A</a><a href=/fr/x.htm>x</a><img src=http://pictures.localhost/one.png>",
    "/a.htm": "<title>Small a</title><p>one text</p><script src=http://measure.localhost/analytics.js></script>",
    "/A.htm": "<title>Large a</title><p>another text</p>",
    "/fr/x.htm": "<title>Le x</title><p>le texte</p>",
    "/lost.htm": "<title>Lost</title><p>no link leads here</p>",
}


def opened(app: Application, port: int) -> int:
    made = app.api("POST", "/crossings", json={"name": "Line", "start": f"http://127.0.0.1:{port}/"})["id"]
    plan = app.api("GET", f"/crossings/{made}/plan")
    plan["plan"]["manners"]["delay"] = 0
    app.api("PUT", f"/crossings/{made}/plan", json={**plan, "text": "quick"})
    return int(made)


def test_from_soundings_to_lists_and_bounds(app: Application, page: Browser) -> None:
    with apps(pages_app(SITE)) as (port,):
        crossing = opened(app, port)
        page.go(f"{app.base}/c/{crossing}/survey?tab=soundings")
        press(page, "Take soundings")
        page.sees("generator mark “RailPages 2.3”")
        page.sees("On trial")
        assert app.api("GET", f"/crossings/{crossing}/addresses")["total"] == 0, "a trial counts nothing"
        app.run(crossing, "survey")

        page.go(f"{app.base}/c/{crossing}/survey?tab=kept")
        page.sees("pictures.localhost")
        page.sees("measuring tag 1")
        press(page, "pictures.localhost")
        press(page, "Take its files")
        page.sees("files of pictures.localhost let in")
        page.until("[...document.querySelectorAll('button')].some(b => b.innerText === 'Go on')")

        page.go(f"{app.base}/c/{crossing}/survey?tab=lists")
        write_in(page, "Addresses, one a line", "/a.htm\n/lost.htm\n/A.htm/\nnonsense here\n")
        press(page, "Weigh these lines")
        page.sees("Cannot be read")
        page.sees("May be the same")
        press(page, "fetch what is new")
        for _ in range(100):
            if app.api("GET", f"/crossings/{crossing}/addresses", params={"search": "lost"})["rows"][:1]:
                break
            time.sleep(0.1)
        lost = app.api("GET", f"/crossings/{crossing}/addresses", params={"search": "lost"})["rows"][0]
        assert lost["found_by"] == "list"

        page.go(f"{app.base}/c/{crossing}/survey?tab=scope")
        page.sees("What is left out")
        write_in(page, "Never addresses like these", "^/fr/")
        page.sees("Would shut out 1 known address")

        small = app.api("GET", f"/crossings/{crossing}/addresses", params={"search": "/a.htm"})["rows"]
        first = next(row["id"] for row in small if row["key"] == "/a.htm")
        page.go(f"{app.base}/c/{crossing}/survey?open={first}&part=alike")
        page.sees("maybe one address")
        page.sees("letter case; other content")


def test_many_addresses_are_asked_ticked_and_made(app: Application, page: Browser) -> None:
    with apps(pages_app(SITE)) as (port,):
        page.go(app.base)
        press(page, "many at once")
        lines = [
            f"127.0.0.1:{port}/",
            f"http://127.0.0.1:{port}/a.htm",
            f"http://127.0.0.1:{port}/none",
            "mailto:x@y.test",
        ]
        write_in(page, "Addresses, one a line", "\n".join(lines))
        press(page, "Ask 4 addresses")
        page.sees("not there")
        assert page.js(
            "return [...document.querySelectorAll('[aria-label=Verdicts] input')].map(i => [i.checked, i.disabled])"
        ) == [
            [True, False],
            [True, False],
            [False, True],
            [False, True],
        ]
        press(page, "Make 1 crossing of 2 addresses")
        page.sees("1 in this workspace")
    made = app.api("GET", "/crossings")
    assert [c["name"] for c in made] == ["Home"]
    assert app.api("GET", f"/crossings/{made[0]['id']}/lists")[0]["addresses"] == 2


def test_a_site_that_is_switched_off_is_surveyed_from_its_archive(
    app: Application, page: Browser, tmp_path: Path
) -> None:
    with apps(pages_app(SITE)) as (port,):
        first = opened(app, port)
        app.run(first, "survey")
    archive = tmp_path / "site.warc.gz"
    with urlopen(f"{app.base}/api/crossings/{first}/addresses/file/warc.gz") as answer:
        archive.write_bytes(answer.read())
    page.go(app.base)
    write_in(page, "Address of the old site", f"127.0.0.1:{port}")
    press(page, "Ask it")
    page.sees("gives no answer")
    press(page, "Make the crossing all the same")
    page.sees("Leave to copy given by")
    second = max(crossing["id"] for crossing in app.api("GET", "/crossings"))
    app.allow(second)
    page.go(f"{app.base}/c/{second}/survey?tab=lists")
    page.sees("Lists and logs")
    page.driver.find_element("css selector", "input[type=file]").send_keys(str(archive))
    press(page, "Survey from the archive")
    page.sees("Survey again")
    keys = [
        [
            (row["key"], row["status"], row["title"])
            for row in app.api("GET", f"/crossings/{crossing}/addresses")["rows"]
        ]
        for crossing in (first, second)
    ]
    assert keys[0] == keys[1] and len(keys[0]) == 4


def test_one_page_is_built_in_a_browser_from_its_detail(app: Application, page: Browser) -> None:
    site = {
        "/": "<title>Home</title><p>welcome</p><a href=/board.htm>board</a>",
        "/board.htm": "<title>Board</title><div id=b></div><script>document.getElementById('b').innerHTML = "
        "'<p>words that a script writes</p>'</script>",
    }
    with apps(pages_app(site)) as (port,):  # type: ignore[arg-type]
        crossing = opened(app, port)
        app.run(crossing, "survey")
        board = app.api("GET", f"/crossings/{crossing}/addresses", params={"search": "board"})["rows"][0]["id"]
        page.go(f"{app.base}/c/{crossing}/survey?open={board}&part=facts")
        press(page, "Capture through a browser")
        page.sees("5 words", seconds=60)
    assert app.api("GET", f"/crossings/{crossing}/plan")["plan"]["survey"]["browser"] == ["^/board\\.htm$"]
    captures = app.api("GET", f"/crossings/{crossing}/addresses/{board}")["captures"]
    assert [capture["rendered"] for capture in captures] == [False, True]


def test_decisions_given_out_altered_and_brought_back(app: Application, page: Browser, tmp_path: Path) -> None:
    with apps(pages_app(SITE)) as (port,):
        crossing = opened(app, port)
        app.run(crossing, "survey", "route")
    with urlopen(f"{app.base}/api/crossings/{crossing}/decisions/file/csv") as answer:
        given = answer.read().decode("utf-8-sig")
    rows = list(csv.DictReader(io.StringIO(given)))
    next(row for row in rows if row["address"] == "/a.htm").update({"decision": "moved", "new address": "/small-a"})
    text = io.StringIO()
    table = csv.DictWriter(text, list(rows[0]))
    table.writeheader()
    table.writerows(rows)
    altered = tmp_path / "altered.csv"
    altered.write_text(text.getvalue(), "utf-8")
    page.go(f"{app.base}/c/{crossing}/survey?tab=lists")
    page.sees("Lists and logs")
    page.driver.find_element("css selector", "input[type=file]").send_keys(str(altered))
    page.sees("a table of decisions brought back")
    page.sees("/small-a")
    press(page, "Take 1 altered row")
    for _ in range(100):
        found = app.api("GET", f"/crossings/{crossing}/addresses", params={"search": "/a.htm"})["rows"]
        row = next(one for one in found if one["key"] == "/a.htm")
        if row["fate"] == "moved":
            break
        time.sleep(0.05)
    assert row["fate"] == "moved"
    pairs = app.api("GET", f"/crossings/{crossing}/pairs")
    assert [(pair["old"], pair["new"]) for pair in pairs["rows"]] == [("/a.htm", "/small-a")]


def test_parts_of_another_plan_are_taken_over(app: Application, page: Browser) -> None:
    with apps(pages_app(SITE)) as (port,):
        crossing = opened(app, port)
        other = app.api("POST", "/crossings", json={"name": "Other line", "start": f"http://localhost:{port}/"})["id"]
        plan = app.api("GET", f"/crossings/{other}/plan")
        plan["plan"]["kinds"] = [{"name": "story", "rules": [{"below": "/a"}], "items": "none"}]
        app.api("PUT", f"/crossings/{other}/plan", json={**plan, "text": "a kind"})
        page.go(f"{app.base}/c/{crossing}/manifest?tab=changes")
        page.click("From", "field")
        page.click("Other line", "option")
        press(page, "Take over")
        page.sees("kinds with their fields, clean-up steps of Other line taken over")
    kinds = app.api("GET", f"/crossings/{crossing}/plan")["plan"]["kinds"]
    assert [kind["name"] for kind in kinds] == ["story"]
