"""The new site surveyed on screen: a list, a tree and facts of its own on the new shore, no part in the account."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest

from .chrome import Browser
from .conftest import Application, application


@pytest.fixture(scope="module")
def app(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Application]:
    """The demo crossed once; its new site is surveyed here."""
    folder = tmp_path_factory.mktemp("sides")
    with application(folder, demo=True) as made:
        made.run(1, "survey", "sort", "lift", "refit", "route", "land", "check")
        yield made
    shutil.rmtree(folder, ignore_errors=True)


def test_the_new_site_is_surveyed_beside_the_old_one(page: Browser, app: Application) -> None:
    account = app.api("GET", "/crossings/1/account")
    page.go(f"{app.base}/c/1/survey")
    page.sees("Old shore")
    page.click("New site")
    page.sees("The new site is not surveyed yet.")
    page.click("Start the survey", within=".empty")
    page.sees("/engines/captain-idris")
    page.sees("New shore")
    assert "side=new" in page.js("return location.search")
    left = page.js("return document.querySelector('.list').getBoundingClientRect().left")
    assert page.js("return document.querySelector('.shore.new').getBoundingClientRect().left") > left
    folder = (
        "[...document.querySelectorAll('[role=treeitem]')].find(e => e.querySelector('.nm').innerText === 'engines/')"
    )
    page.until(folder + "?.innerText.trim().endsWith('13')")
    assert page.js("return document.querySelectorAll('.list input[type=checkbox]').length") == 0, "nothing to decide"
    page.until(folder).click()
    page.until("document.querySelector('.count')?.innerText.startsWith('13 rows')")
    page.go(f"{app.base}/c/1/survey?side=new&search=captain-idris")
    page.until("document.querySelector('.list .r')?.innerText.includes('captain-idris')")
    page.js("document.querySelector('.list .r').dispatchEvent(new MouseEvent('dblclick', {bubbles: true}))")
    page.sees("Copy path")
    page.click("Facts")
    assert "Fate" not in page.all_text("dl.facts dt") and "Heading" in page.all_text("dl.facts dt")
    assert app.api("GET", "/crossings/1/account") == account
    assert page.axe() == []
    page.js("[...document.querySelectorAll('.fatebar .seg')].find(e => e.title.includes(' moved')).click()")
    page.sees("Old shore")
    assert "side=new" not in page.js("return location.search"), "only the old site has fates"


def test_bounds_of_the_new_site_are_saved_as_its_own(page: Browser, app: Application) -> None:
    page.go(f"{app.base}/c/1/survey?side=new&tab=scope")
    page.write("Never addresses like these (RE2 patterns)", "^/shop/")
    page.click("Save")
    page.sees("Saved.")
    plan = app.api("GET", "/crossings/1/plan")["plan"]
    assert plan["new"]["survey"]["exclude"] == ["^/shop/"] and plan["survey"]["exclude"] == []
    page.go(f"{app.base}/c/1/survey?tab=scope")
    page.sees("Leave to copy given by")
    assert "^/shop/" not in page.js("return [...document.querySelectorAll('textarea, input')].map(e => e.value)")


def test_a_list_serves_as_the_new_shore(page: Browser, app: Application, tmp_path: Path) -> None:
    table = tmp_path / "new.csv"
    table.write_text("address,title\n/handbook/firing/,Firing a boiler\n/handbook/oiling/,Oiling round\n")
    page.go(f"{app.base}/c/1/survey?side=new")
    page.click("Lists", "link", "nav.tabs")
    page.sees("serves as the new shore where the new site cannot be walked")
    page.driver.find_element("css selector", "input[type=file]").send_keys(str(table))
    page.sees("Oiling round")
    page.click("Take 2 addresses")
    page.sees("list of addresses, 2 addresses")
    page.go(f"{app.base}/c/1/route?tab=shore")
    page.write("find a new address or title", "boiler")
    page.sees("/handbook/firing")
