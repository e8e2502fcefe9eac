"""Asking the owner, the answer, and tabs for which a head has no room."""

from __future__ import annotations

from selenium.webdriver.common.by import By

from .chrome import Browser
from .conftest import Application


def test_the_owner_is_asked_and_the_answer_is_taken(crossed: Application, copied: int, page: Browser) -> None:
    at = f"/crossings/{copied}"
    keys = [row["old"] for row in crossed.api("GET", f"{at}/pairs")["rows"]]
    crossed.api("POST", f"{at}/pairs", json={"set": [], "drop": keys})
    crossed.run(copied, "route")
    rows = [row for group in crossed.api("GET", f"{at}/open") for row in group["rows"] if row["fate"] == "unaccounted"]
    one = rows[0]
    page.go(f"{crossed.base}/c/{copied}/route?at={one['id']}")
    page.sees(one["key"])
    page.driver.find_element(By.CSS_SELECTOR, "body").click()
    page.keys("q")
    page.until("document.activeElement?.closest('[aria-label=\"Ask the owner\"]') !== null")
    page.keys("Is it still needed?")
    assert page.axe() == []
    page.driver.find_elements(By.CSS_SELECTOR, "[aria-label='Until then'] input")[1].click()
    page.write("Where it leads for now", "/for-now")
    page.driver.find_element(By.CSS_SELECTOR, "[aria-label='Ask the owner'] [type=submit]").click()
    page.until("document.querySelector('[aria-label=\"Ask the owner\"]') === null")
    (asked,) = crossed.api("GET", f"{at}/questions")["rows"]
    assert (asked["key"], asked["asked"], asked["until"]) == (one["key"], "Is it still needed?", "/for-now")
    crossed.run(copied, "route")
    assert crossed.api("GET", f"{at}/questions/counts") == {"open": 1, "answered": 0, "provisional": 1}
    page.go(f"{crossed.base}/c/{copied}/route?tab=questions")
    page.sees("1 address leads on for now")
    page.driver.find_element(By.CSS_SELECTOR, "[aria-label=Questions] [role=row] input[type=checkbox]").click()
    page.sees("1 open question chosen")
    assert page.axe() == []
    box = page.driver.find_element(By.CSS_SELECTOR, "[aria-label=Answer] input[placeholder='/new/place']")
    box.send_keys("/kept")
    page.click("Take the answer")
    page.sees("answered: " + one["key"])
    (pair,) = crossed.api("GET", f"{at}/pairs")["rows"]
    assert (pair["old"], pair["new"], pair["status"]) == (one["key"], "/kept", 301)
    (asked,) = crossed.api("GET", f"{at}/questions")["rows"]
    assert asked["answer"] == "moved /kept"


def test_tabs_without_room_stand_in_a_menu(crossed: Application, page: Browser) -> None:
    try:
        page.resize(900, 800)
        page.go(f"{crossed.base}/c/1/route")
        page.click("More (")
        page.sees("Write out")
        assert page.axe() == []
        page.click("Write out", "menuitem")
        page.until("location.search.includes('tab=write')")
        page.sees("Write out ▾")
    finally:
        page.resize(1280, 800)


def test_an_empty_list_is_a_closing_statement(crossed: Application, page: Browser) -> None:
    known = sum(
        sum(row[state] for state in ("planned", "proven")) for row in crossed.api("GET", "/crossings/1")["account"]
    )
    page.go(f"{crossed.base}/c/1/route")
    page.sees("Every old address in the account has a proven fate.")
    page.sees(f"{known:,} asked of {crossed.new}")
    page.sees(": 0 left.")
