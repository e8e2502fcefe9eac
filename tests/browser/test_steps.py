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
