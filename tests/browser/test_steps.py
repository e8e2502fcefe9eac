"""A step is seen at work before it is saved."""

from __future__ import annotations

from .chrome import Browser
from .conftest import Application


def test_a_new_step_shows_what_it_changes(crossed: Application, page: Browser) -> None:
    page.go(f"{crossed.base}/c/1/refit?tab=shared")
    page.click("+ step")
    page.write("It finds (CSS selector)", ".nowhere-at-all")
    page.sees("It finds nothing on")
    page.write("It finds (CSS selector)", ".note.warning")
    page.until("document.querySelector('.tried del')?.innerText.includes('Mind the wire')")
    page.sees("words taken")
    assert page.axe() == []
    page.write("It finds (CSS selector)", "p[[")
    page.until("document.querySelector('.form [role=alert], .form .told, .form .error') !== null")
    assert [one["name"] for one in crossed.api("GET", "/crossings/1/steps")] == [
        one["name"] for one in crossed.api("GET", "/crossings/1/plan")["plan"]["refit"]["steps"]
    ], "nothing is saved by trying"


def test_who_has_left_for_another_view_is_not_called_back(crossed: Application, copied: int, page: Browser) -> None:
    """What is saved late writes into the address of its own view alone, also while the next one is being fetched."""
    page.go(f"{crossed.base}/c/{copied}/refit?tab=shared&suggest=%7C.share")
    page.write("Name of the step", "share box again")
    page.js(  # answers come late, and so does what follows from them
        "const first = window.fetch; window.fetch = (...a) => first(...a).then((r) => "
        "new Promise((done) => setTimeout(() => done(r), (a[0].method ?? a[1]?.method ?? 'GET') === 'GET' ? 900 : 0)))"
    )
    page.click("Add and refit")
    page.until("[...document.querySelectorAll('[aria-label=Steps] b')].some(b => b.innerText === 'share box again')")
    page.driver.execute_cdp_cmd("Network.enable", {})
    page.driver.execute_cdp_cmd(
        "Network.emulateNetworkConditions",
        {"offline": False, "latency": 2500, "downloadThroughput": -1, "uploadThroughput": -1},
    )
    page.js("document.querySelector('nav.rail a[href*=land]').click()")
    page.until("document.querySelector('nav.tabs a.on')?.innerText === 'Landings'")
    page.driver.execute_cdp_cmd("Network.disable", {})
    assert page.js("return location.pathname") == f"/c/{copied}/land"
