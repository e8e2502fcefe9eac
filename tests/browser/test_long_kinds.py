"""A kind of more pages than any window holds: every cell, every page and every body is within reach."""

from __future__ import annotations

import shutil
from collections.abc import Iterator

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.servers import apps, pages_app

from .chrome import Browser
from .conftest import Application, application

PAGES = 620
BARE = 612  # the page without a summary
TORN = 615  # the page with words outside its body


def _page(n: int) -> str:
    summary = "" if n == BARE else f"<p class=summary>Summary of {n}</p>"
    outside = f"<p>Torn words {n}</p>" if n == TORN else ""
    following = f"<a href=/p/{n + 1:03}>next</a>" if n < PAGES else ""
    return f"<title>Page {n}</title><h1>Page {n}</h1>{summary}<main><p>Body of page {n}.</p></main>{outside}{following}"


@pytest.fixture(scope="module")
def long_kind(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Application]:
    folder = tmp_path_factory.mktemp("long")
    links = "".join(f"<a href=/p/{n:03}>{n}</a>" for n in range(1, PAGES + 1))
    site = {"/": f"<title>All</title>{links}", **{f"/p/{n:03}": _page(n) for n in range(1, PAGES + 1)}}
    with apps(pages_app(site)) as (port,), application(folder) as made:  # type: ignore[arg-type]
        made.api("POST", "/crossings", json={"name": "Long", "start": f"http://127.0.0.1:{port}/"})
        known = made.api("GET", "/crossings/1/plan")
        known["plan"]["manners"] |= {"delay": 0, "at_once": 8}
        fields = [
            {"name": "title", "type": "line", "locators": [{"css": "h1"}]},
            {"name": "summary", "type": "line", "locators": [{"css": ".summary"}]},
            {"name": "body", "type": "blocks", "locators": [{"css": "main"}]},
        ]
        known["plan"]["kinds"] = [
            {"name": "page", "rules": [{"below": "/p/"}], "fields": fields, "address": "/n/{slug}"}
        ]
        made.api("PUT", "/crossings/1/plan", json={**known, "text": "one kind"})
        made.run(1, "survey", "sort", "lift", "refit", "route")
        yield made
    shutil.rmtree(folder, ignore_errors=True)


def test_a_cell_far_down_leads_to_its_page(long_kind: Application, page: Browser) -> None:
    page.go(f"{long_kind.base}/c/1/lift?kind=page")
    page.sees(f"1 of {PAGES}")
    page.until("[...document.querySelectorAll('.cov svg title')].some(t => t.textContent.includes('summary empty'))")
    empty = [
        cell
        for cell in page.driver.find_elements(By.CSS_SELECTOR, ".cov svg > g:nth-of-type(2) > g")
        if "summary empty" in (cell.find_element(By.TAG_NAME, "title").get_attribute("textContent") or "")
    ]
    assert len(empty) == 1
    empty[0].click()
    page.sees(f"/p/{BARE} · {BARE} of {PAGES}")
    page.until("document.querySelector(\"form[aria-label='Field summary']\") !== null")
    page.sees("nothing found")
    page.js("document.activeElement.blur()")
    page.keys("j", "j", "k")
    page.sees(f"/p/{BARE + 1} · {BARE + 1} of {PAGES}")


def test_pages_are_stepped_through_beyond_a_window(long_kind: Application, page: Browser) -> None:
    rows = long_kind.api("GET", "/crossings/1/kinds/page/pages", params={"offset": 98, "limit": 1})["rows"]
    page.go(f"{long_kind.base}/c/1/lift?kind=page&page={rows[0]['address']}")
    page.sees(f"/p/099 · 99 of {PAGES}")
    page.keys("j", "j", "j")  # quicker than the next window comes
    page.sees(f"/p/102 · 102 of {PAGES}")


def test_bodies_come_the_worst_first_and_all_of_them(long_kind: Application, page: Browser) -> None:
    page.go(f"{long_kind.base}/c/1/refit")
    page.sees(f"/p/{TORN}")
    page.sees("3 words unaccounted")
    page.keys("k")
    page.sees(f"1/{PAGES}")
    last = long_kind.api("GET", "/crossings/1/bodies", params={"offset": PAGES - 1})["rows"][0]
    page.go(f"{long_kind.base}/c/1/refit?item={last['item']}&field=body")
    page.sees(f"{PAGES}/{PAGES}")
    page.sees(last["key"])
    page.go(f"{long_kind.base}/c/1/refit?tab=losses")
    page.until("document.querySelector('[data-testid=total]')?.innerText === arguments[0]", str(PAGES))
    page.js("document.querySelector('.list').focus()")
    page.keys(Keys.END, Keys.ENTER)
    page.sees(f"{PAGES}/{PAGES}")


def test_constructs_are_counted_over_all_bodies(long_kind: Application, page: Browser) -> None:
    page.go(f"{long_kind.base}/c/1/refit?tab=constructs")
    page.sees("Nothing is counted yet.")  # plain paragraphs are no construct
    assert long_kind.api("GET", "/crossings/1/constructs") == []
