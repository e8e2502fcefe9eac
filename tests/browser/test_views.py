"""Every view in both schemes, empty and full: shown without a fault, within reach of everybody, with its help."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium.webdriver.common.keys import Keys

from .chrome import Browser, browser
from .conftest import Application, application

VIEWS = {
    "manifest": "Manifest",
    "manifest?tab=changes": "Changes of the plan",
    "manifest?tab=log": "survey queued",
    "survey": "Old shore",
    "survey?tab=scope": "What is left out",
    "survey?tab=log": "survey queued",
    "sort": "pages like",
    "sort?tab=kinds": "Kinds on the new shore",
    "sort?kind=news": "News post",
    "sort?tab=pages": "86 rows",
    "sort?tab=unsorted": "1 row",
    "sort?tab=double": "No page fits two kinds.",
    "lift?kind=engine": "Coverage",
    "lift?kind=engine&field=built": "Try on five",
    "refit": "This page",
    "refit?form=words": "This page",
    "refit?tab=constructs": "by count",
    "refit?tab=losses": "in raw islands",
    "refit?tab=shared": "Steps, in order",
    "route": "Old shore",
    "route?tab=decisions": "rows",
    "route?tab=pairs": "Paste or write pairs",
    "route?tab=suggested": "Nothing is suggested.",
    "route?tab=rules": "Try-box",
    "route?tab=rounds": "open addresses after each",
    "route?tab=write": "hand over",
    "route?tab=shore": "Choose a place",
    "land": "Landings",
    "land?tab=trial": "One item as a trial",
    "land?tab=target": "over JSON:API",
    "land?tab=links": "that do not go over",
    "media": "rows",
    "media?tab=grid": "of other hosts",
    "refit?tab=forms": "to be wired up in the new system",
    "media?tab=missing": "Could not be had",
    "media?tab=roles": "What pictures are for",
}
EMPTY = {
    "manifest": "No old address is in the account yet.",
    "survey": "The old site is not surveyed yet.",
    "survey?tab=scope": "What is left out",
    "sort": "There are no pages yet.",
    "sort?tab=kinds": "There is no kind yet.",
    "sort?tab=unsorted": "There are no pages yet",
    "lift": "There is no kind to lift yet.",
    "refit": "No body is refitted yet.",
    "route": "No old address is in the account yet.",
    "route?tab=pairs": "There is no pair yet.",
    "route?tab=suggested": "Nothing is suggested.",
    "route?tab=rules": "There is no rule yet.",
    "route?tab=rounds": "No round yet.",
    "land": "No target is named.",
    "land?tab=trial": "No item has a new address yet.",
    "media": "No file is here yet.",
}


@pytest.fixture(scope="module", params=["light", "dark"])
def looked(request: pytest.FixtureRequest) -> Iterator[Browser]:
    with browser(scheme=request.param) as made:
        yield made


def visit(page: Browser, url: str, text: str) -> None:
    page.go(url)
    page.sees(text)
    page.until(
        "!document.querySelector('.list') || document.querySelectorAll('.list .r').length > 0 || document.querySelector('.nothing')"
    )
    assert page.axe() == [], url
    for name, contrast, reason in page.unusable():
        assert contrast >= 3 and len(reason) > 8, (url, name, contrast, reason)
    assert page.problems() == [], url


def test_full_views_are_within_reach(crossed: Application, looked: Browser) -> None:
    for view, text in VIEWS.items():
        visit(looked, f"{crossed.base}/c/1/{view}", text)
    address = crossed.api("GET", "/crossings/1/addresses", params={"search": "id=4"})["rows"][0]["id"]
    for part in ("page", "facts", "in", "out"):
        visit(looked, f"{crossed.base}/c/1/survey?open={address}&part={part}", "Open old")
    visit(looked, crossed.base, "All crossings")


def test_empty_views_say_what_to_do(crossed: Application, looked: Browser) -> None:
    found = [c for c in crossed.api("GET", "/crossings") if c["name"] == "Nothing yet"]
    made = found[0] if found else crossed.api("POST", "/crossings", json={"name": "Nothing yet", "start": crossed.old})
    unusable = set()
    for view, text in EMPTY.items():
        visit(looked, f"{crossed.base}/c/{made['id']}/{view}", text)
        unusable |= {reason for _, _, reason in looked.unusable()}
    assert len(unusable) > 3


def test_menus_and_dialogs_are_within_reach(crossed: Application, looked: Browser) -> None:
    looked.go(f"{crossed.base}/c/1/survey")
    looked.sees("rows")
    for opener, inside in (("columns", "[role=menu]"), ("answer: any", "[role=menu]"), ("+ filter", "[role=menu]")):
        looked.click(opener)
        looked.until("document.querySelector(arguments[0]) !== null", inside)
        assert looked.axe() == [], opener
        looked.keys(Keys.ESCAPE)
        looked.until("document.querySelector(arguments[0]) === null", inside)
    looked.js("document.activeElement.blur()")
    looked.driver.find_element("css selector", "body").send_keys(Keys.CONTROL, "k")
    looked.until("document.querySelector('.palette') !== null")
    looked.keys("engines")
    looked.sees("/engines.aspx?id=1")
    assert looked.axe() == []
    looked.keys(Keys.ESCAPE)


@pytest.mark.parametrize("view", ["", "manifest", "survey", "sort", "lift", "refit", "route", "land", "media"])
def test_every_view_has_its_help_and_keys(crossed: Application, page: Browser, view: str) -> None:
    page.go(f"{crossed.base}/c/1/{view}" if view else crossed.base)
    page.until("document.querySelector('main h1') !== null")
    page.driver.find_element("css selector", "body").send_keys("?")
    page.until("document.querySelector('[role=dialog] p')?.innerText.length > 80")
    title = page.js("return document.querySelector('[role=dialog] h2').innerText")
    heading = page.js("return document.querySelector('main h1').innerText.split(' ')[0]")
    assert title.startswith(heading)
    assert len(page.all_text("[role=dialog] dt")) >= 3
    page.keys(Keys.ESCAPE)


def test_what_the_fate_bar_says_is_seen_whole(crossed: Application, page: Browser) -> None:
    page.go(f"{crossed.base}/c/1/route")
    page.until("document.querySelectorAll('.fatebar .seg b').length > 3")
    assert page.js(
        "return [...document.querySelectorAll('.fatebar .seg .say > b')].filter(b => {"
        " const a = b.getBoundingClientRect(), s = b.closest('.say').getBoundingClientRect();"
        " return a.top < s.top - 1 || a.bottom > s.bottom + 1 || a.height < 8; }).map(b => b.innerText)"
    ) == []  # fmt: skip


def test_long_titles_and_foreign_scripts_break_nothing(tmp_path: Path, page: Browser) -> None:
    from tests.servers import apps, pages_app

    long = "An address so long that it fits no column " * 8
    site = {
        "/": "<title>Home</title>" + "".join(f"<a href=/p{n}>x</a>" for n in range(4)),
        "/p0": f"<title>{long}</title><h1>{long}</h1>",
        "/p1": "<html dir=rtl lang=he><title>שלום לכל הנוסעים</title><h1>שלום</h1>",
        "/p2": "<html lang=ja><title>蒸気機関車の時刻表</title><h1>時刻表</h1>",
        "/p3": "<title>&lt;script&gt;alert(1)&lt;/script&gt;</title><h1>x</h1>",
    }
    with apps(pages_app(site)) as (port,), application(tmp_path / "w") as app:  # type: ignore[arg-type]
        number = app.api("POST", "/crossings", json={"name": "N" * 190, "start": f"http://127.0.0.1:{port}/"})["id"]
        app.run(number, "survey")
        for view in ("survey", "manifest", "survey?open=2", "survey?tab=scope"):
            page.go(f"{app.base}/c/{number}/{view}")
            page.until("document.querySelector('main h1') !== null")
            page.sees("old addresses")
            assert page.js("return document.documentElement.scrollWidth <= innerWidth")
            assert page.js("return document.querySelector('header').scrollWidth <= innerWidth")
        page.go(f"{app.base}/c/{number}/survey")
        page.sees("שלום לכל הנוסעים")
        page.sees("<script>alert(1)</script>")
        page.sees("蒸気機関車の時刻表")


def test_first_load_is_light(crossed: Application, page: Browser) -> None:
    page.driver.execute_cdp_cmd("Network.clearBrowserCache", {})
    page.go(f"{crossed.base}/c/1/manifest")
    page.sees("Evidence")
    entries = page.js("return performance.getEntriesByType('resource').map(e => [e.name, e.transferSize])")
    assert all(name.startswith(crossed.base) for name, _ in entries), "nothing is asked of another host"
    assert 50_000 < sum(size for name, size in entries if name.endswith(".js")) < 350_000


def test_the_name_is_asked_once_per_browser(crossed: Application) -> None:
    with browser(named=False) as page:
        page.go(crossed.base)
        page.sees("Who is working here?")
        assert page.axe() == []
        page.write("Your name", "Bea Strake")
        page.click("Go on")
        page.until("document.querySelector('[role=dialog]') === null")
        page.go(f"{crossed.base}/c/1/survey")
        page.sees("rows")
        assert page.js("return document.querySelector('[role=dialog]')") is None
        page.click("You and the looks")
        page.sees("Bea Strake")
        page.click("Dark looks", "menuitem")
        page.until("document.documentElement.dataset.scheme === 'dark'")
