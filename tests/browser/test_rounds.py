"""Rounds on screen: what is behind, brought up to date by a key; hand edits; items without an address; failed questions."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from typing import Any

import pytest

from .chrome import Browser
from .conftest import Application, application


@pytest.fixture(scope="module")
def app(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Application]:
    """The demo crossed once, its plan to be changed here."""
    folder = tmp_path_factory.mktemp("rounds")
    with application(folder, demo=True) as made:
        made.run(1, "survey", "sort", "lift", "refit", "route", "land", "check")
        yield made
    shutil.rmtree(folder, ignore_errors=True)


def change(app: Application, how: Any) -> None:
    known = app.api("GET", "/crossings/1/plan")
    how(known["plan"])
    app.api("PUT", "/crossings/1/plan", json={**known, "text": "changed"})


def idle(app: Application, page: Browser) -> None:
    page.until("!document.querySelector('.runline .dot')")


def test_what_is_behind_is_counted_listed_and_brought_up_to_date_by_a_key(app: Application, page: Browser) -> None:
    page.go(f"{app.base}/c/1/manifest")
    page.sees("No rule catches 1 page")
    assert page.js("return document.querySelector('.behind')") is None
    change(
        app,
        lambda p: next(k for k in p["kinds"] if k["name"] == "engine")["fields"][0]["locators"].append({"css": "h9"}),
    )
    engines = app.api("GET", "/crossings/1/behind")
    assert engines["stages"] == {"lift": 12}
    page.go(f"{app.base}/c/1/lift")
    page.until("document.querySelector('.behind')?.innerText.startsWith('12 behind')")
    page.until("document.querySelector('.rail u')?.innerText.includes('12')")
    page.click("12 behind")
    page.sees("its page or the plan has changed")
    page.js("document.querySelector('.MuiBackdrop-root').click()")
    page.until("!document.querySelector('.MuiPopover-root')")
    page.js("document.activeElement.blur()")
    page.driver.find_element("tag name", "body").send_keys("u")
    page.until("!document.querySelector('.behind')")
    page.sees("12 done")
    assert app.api("GET", "/crossings/1/behind")["total"] == 0


def test_a_value_is_set_by_hand_and_taken_back(app: Application, page: Browser) -> None:
    page.go(f"{app.base}/c/1/lift?kind=engine")
    page.until("document.querySelectorAll('.held .value').length > 3")
    before = page.js("return document.querySelectorAll('.held .value')[2].innerText")
    page.js(
        "[...document.querySelectorAll('.held')[2].querySelectorAll('button')].find(b => b.innerText === 'set it by hand').click()"
    )
    page.write("builder, by hand", "Marrow & Daughters")
    page.click("Set", within=".hand")
    page.until("document.querySelectorAll('.held .value')[2].innerText === 'Marrow & Daughters'")
    page.sees("by hand, Mara Quill; found: ")
    page.go(f"{app.base}/c/1/manifest?tab=changes")
    page.until("document.querySelector('[aria-label=\"Set by hand\"]')?.innerText.includes('Marrow & Daughters')")
    page.click("take what was found")
    page.until("!document.querySelector('[aria-label=\"Set by hand\"]')")
    page.go(f"{app.base}/c/1/lift?kind=engine")
    page.until("document.querySelectorAll('.held .value')[2]?.innerText === arguments[0]", before)


def test_an_edit_over_something_that_changed_is_settled(app: Application, page: Browser) -> None:
    key = app.api("GET", "/crossings/1/items?kind=engine&limit=1")["rows"][0]["key"]
    edit = {"old": key, "field": "builder", "value": "Mine", "over": "otherwise"}
    app.api("POST", "/crossings/1/edits", json={"set": [edit], "text": "by hand"})
    page.go(f"{app.base}/c/1/manifest?tab=changes")
    page.sees("under 1 value something has changed")
    page.click("keep mine")
    page.until("!document.body.innerText.includes('has changed since')")
    assert [(row["value"], row["conflict"]) for row in app.api("GET", "/crossings/1/edits")] == [("Mine", False)]
    app.api("POST", "/crossings/1/undo")
    assert [row["conflict"] for row in app.api("GET", "/crossings/1/edits")] == [True], "as it was before"
    app.api("POST", "/crossings/1/undo")
    assert app.api("GET", "/crossings/1/edits") == []


def test_a_pattern_with_a_field_the_kind_has_not_got_is_refused_where_it_is_typed(
    app: Application, page: Browser
) -> None:
    page.go(f"{app.base}/c/1/sort?kind=engine")
    page.until("document.querySelector('input[placeholder=\"/news/{slug}\"]')")
    page.write("New address", "/engines/{maker}/{slug}")
    page.click("Save")
    page.sees("names the field “maker”, which it has not got")
    page.write("New address", "/engines/{slug}")


def test_items_without_an_address_are_listed_with_the_reason(app: Application, page: Browser) -> None:
    change(app, lambda p: next(k for k in p["kinds"] if k["name"] == "engine").update(address=None))
    app.run(1, "route")
    page.go(f"{app.base}/c/1/manifest")
    page.sees("12 items of the kind engine get no new address: its kind names no pattern for new addresses")
    page.go(f"{app.base}/c/1/route?tab=places")
    page.sees("No address 12")
    page.until("document.querySelectorAll('.list .r').length === 12")
    page.sees("its kind names no pattern for new addresses")
    app.api("POST", "/crossings/1/undo")
    app.run(1, "route")


@pytest.mark.parametrize(
    ("view", "asked"),
    [
        ("refit", "*/bodies/*/body*"),
        ("refit", "*/crossings/1/steps"),
        ("lift", "*/crossings/1/coverage/*"),
        ("manifest", "*/crossings/1/folders"),
        ("manifest?tab=changes", "*/crossings/1/edits"),
        ("route?tab=open", "*/crossings/1/open*"),
        ("route?tab=places", "*/items/without-address"),
        ("survey?tab=scope", "*/bounds/lines"),
    ],
)
def test_a_question_that_fails_is_told_in_place(app: Application, page: Browser, view: str, asked: str) -> None:
    page.driver.execute_cdp_cmd("Network.enable", {})
    page.driver.execute_cdp_cmd("Network.setBlockedURLs", {"urls": [asked]})
    try:
        page.go(f"{app.base}/c/1/{view}")
        page.until("document.querySelector('main [role=alert]')?.innerText.includes('does not answer')", seconds=30)
    finally:
        page.driver.execute_cdp_cmd("Network.setBlockedURLs", {"urls": []})
        page.go("about:blank")
