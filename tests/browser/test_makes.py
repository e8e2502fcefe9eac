"""Groups of pages that are made alike, on screen: seen before anything is written, made kinds of by keys alone."""

from __future__ import annotations

import pytest
from selenium.webdriver.common.keys import Keys

from tests.core.test_grouping import boat, report
from tests.servers import apps, pages_app

from .chrome import Browser
from .conftest import Application

KIND = (
    "[...document.querySelectorAll('[aria-label=Kinds] .card .top')].map(e => e.innerText.replace(/\\s+/g, ' ').trim())"
)


@pytest.fixture
def fleet(crossed: Application) -> int:
    """A crossing of a site with reports and boats, surveyed and nothing else."""
    site: dict[str, object] = {f"/r{n}": report(n) for n in range(14)} | {f"/b{n}": boat(n) for n in range(9)}
    site["/"] = "<main>" + "".join(f"<a href={key}>{key}</a>" for key in site) + "</main>"
    with apps(pages_app(site)) as (port,):  # type: ignore[arg-type]
        made = crossed.api("POST", "/crossings", json={"name": f"Fleet {port}", "start": f"http://127.0.0.1:{port}/"})[
            "id"
        ]
        crossed.run(made, "survey")
    return int(made)


def test_a_newcomer_sees_groups_and_makes_kinds_of_them_by_keys(
    crossed: Application, page: Browser, fleet: int
) -> None:
    page.go(f"{crossed.base}/c/{fleet}/sort")
    page.until("document.querySelectorAll('.card.make').length === 3")
    page.sees("14 pages like /r")
    page.sees("14 right · 0 missed · 0 of others")
    assert page.js("return document.querySelectorAll('.card.make .miniature .own').length") > 3
    page.keys("n")
    page.until("document.activeElement?.tagName === 'INPUT'")
    page.keys("Report", Keys.ENTER)
    page.until(f"{KIND}.join() === 'Report 14'")
    page.sees("→ report")
    page.keys("j", "n")
    page.until("document.activeElement?.tagName === 'INPUT'")
    page.keys("Report", Keys.ENTER)
    page.sees("There is a kind “report” already.")
    page.keys(Keys.CONTROL + "a" + Keys.NULL, "Boat", Keys.ENTER)
    page.until(f"{KIND}.join() === 'Report 14,Boat 9'")
    kinds = crossed.api("GET", f"/crossings/{fleet}/plan")["plan"]["kinds"]
    fields = {field["name"]: field["locators"][0]["css"] for field in kinds[0]["fields"]}
    assert fields == {"title": "h1", "body": "div.text", "day": "p.day"}, "read as its pages have them"
    crossed.api("POST", f"/crossings/{fleet}/undo")
    assert [kind["name"] for kind in crossed.api("GET", f"/crossings/{fleet}/plan")["plan"]["kinds"]] == ["report"]


def test_a_draft_by_one_key_is_marked_until_somebody_says_yes(crossed: Application, page: Browser, fleet: int) -> None:
    def marks() -> int:
        return sum(bool(kind["proposed"]) for kind in crossed.api("GET", f"/crossings/{fleet}/plan")["plan"]["kinds"])

    page.go(f"{crossed.base}/c/{fleet}/sort")
    page.until("document.querySelectorAll('.card.make').length === 3")
    page.keys("d")
    page.until(f"{KIND}.length === 3")
    page.until("document.querySelectorAll('[aria-label=Kinds] .proposed').length === 3")
    page.sees("24 of 24 pages sorted")
    assert marks() == 3 and crossed.api("GET", f"/crossings/{fleet}/items")["total"] == 24
    page.keys("y")
    page.until("document.querySelectorAll('.proposed').length === 0")
    assert marks() == 0
    crossed.api("POST", f"/crossings/{fleet}/undo")
    assert marks() == 3, "the yes is taken back by one undo"
    crossed.api("POST", f"/crossings/{fleet}/undo")
    assert crossed.api("GET", f"/crossings/{fleet}/plan")["plan"]["kinds"] == [], "and the draft by another"


def test_groups_are_chosen_joined_and_set_aside_by_keys(crossed: Application, page: Browser, fleet: int) -> None:
    page.go(f"{crossed.base}/c/{fleet}/sort")
    page.until("document.querySelectorAll('.card.make').length === 3")
    page.keys("x", "j", "x", "n")
    page.sees("2 groups chosen, 23 pages")
    page.sees("their make alone, no rule")
    page.sees("23 right · 0 missed · 0 of others")
    page.write("Name of the kind", "Fleet", "form[aria-label='New kind']")
    page.click("Make it")
    page.until(f"{KIND}.join() === 'Fleet 23'")
    crossed.api("POST", f"/crossings/{fleet}/undo")
    page.go(f"{crossed.base}/c/{fleet}/sort")
    page.until("document.querySelectorAll('.card.make').length === 3")
    page.keys("j", "s")
    page.write("Why they are left out", "sold", "form[aria-label='Set these groups aside']")
    page.click("Set aside", within="form[aria-label='Set these groups aside']")
    page.sees("9 pages made alike set aside: sold. Z takes it back.")
    crossed.api("POST", f"/crossings/{fleet}/undo")
    page.go(f"{crossed.base}/c/{fleet}/sort?cut=0")
    page.until("document.querySelectorAll('.card.make').length > 0")
    page.keys("v")
    page.sees("do not come apart")


def test_how_coarse_is_kept_in_the_page_and_shown_at_once(crossed: Application, page: Browser, fleet: int) -> None:
    page.go(f"{crossed.base}/c/{fleet}/sort?cut=4")
    page.until("document.querySelectorAll('.card.make').length > 0")
    counts = crossed.api("GET", f"/crossings/{fleet}/groups?cut=0")["cuts"]
    assert counts == sorted(counts, reverse=True) and len(counts) == 5
    page.until("document.querySelectorAll('.card.make').length === arguments[0]", counts[4])
    page.keys("]", "]")
    page.until("new URLSearchParams(location.search).get('cut') === '2'")
    page.until("document.querySelectorAll('.card.make').length === arguments[0]", counts[2])
    page.keys("j")
    page.until("document.querySelectorAll('.grouppages li').length === 9")


def test_why_a_page_is_in_no_kind(crossed: Application, page: Browser, fleet: int) -> None:
    known = crossed.api("GET", f"/crossings/{fleet}/plan")
    known["plan"]["kinds"] = [
        {"name": "boat", "rules": [{"below": "/", "element": "img.lead"}]},
        {"name": "barge", "rules": [{"address": "/b[0-9]"}]},
    ]
    crossed.api("PUT", f"/crossings/{fleet}/plan", json={"plan": known["plan"], "revision": known["revision"]})
    numbers = {row["key"]: row["id"] for row in crossed.api("GET", f"/crossings/{fleet}/addresses?limit=500")["rows"]}
    page.go(f"{crossed.base}/c/{fleet}/survey?open={numbers['/r3']}")
    page.click("Kind", within="[aria-label=Address]")
    page.sees("In no kind: of every rule something does not hold.")
    assert page.all_text(".why .holds") == ["below / holds"]
    assert page.all_text(".why .fails") == ["has img.lead does not hold", "address /b[0-9] does not hold"]
    page.go(f"{crossed.base}/c/{fleet}/survey?open={numbers['/b3']}&part=kinds")
    page.sees("In the kind boat, the first whose rule holds.")
    page.sees("would also fit")
