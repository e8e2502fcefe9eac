"""The building blocks all views share, as a person uses them on the demo."""

from __future__ import annotations

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from .chrome import Browser
from .conftest import Application

AT = "document.querySelector('.list .r.at')?.innerText.split('\\n')[1]"
CHOSEN = "document.querySelectorAll('.list input:checked').length"


def keys(page: Browser, *sent: str) -> None:
    ActionChains(page.driver, duration=0).send_keys(*sent).perform()


def listed(page: Browser, url: str) -> None:
    page.go(url)
    page.until(
        "document.querySelectorAll('.list .r').length > 5 && !document.querySelector('.list').innerText.includes('…\\n…')"
    )


def test_a_list_is_walked_and_chosen_from_by_key(crossed: Application, page: Browser) -> None:
    listed(page, f"{crossed.base}/c/1/survey")
    keys(page, "j")
    page.until(f"{AT} === '/'")
    keys(page, "j", "j")
    page.until(f"{AT} === '/Volunteer/Signalling.htm'")
    keys(page, "k")
    page.until(f"{AT} === '/Volunteer/Roles.htm'")
    page.until("document.querySelector('[aria-label=Address] h2')?.innerText.trim() === '/Volunteer/Roles.htm'")
    keys(page, "x", "j", "x")
    page.until(f"{CHOSEN} === 2")
    page.sees("2 chosen")
    keys(page, "/")
    page.until("document.activeElement.placeholder === 'find in address or title'")
    keys(page, "glossary")
    page.until("document.querySelector('[data-testid=total]').innerText === '1'")
    keys(page, Keys.ESCAPE)
    page.until("document.activeElement === document.body")


def test_rows_are_chosen_with_shift_and_ctrl(crossed: Application, page: Browser) -> None:
    listed(page, f"{crossed.base}/c/1/survey")
    rows = page.driver.find_elements(By.CSS_SELECTOR, ".list .r")
    rows = sorted(rows, key=lambda r: int(r.get_attribute("data-i") or 0))
    chain = ActionChains(page.driver, duration=0)
    chain.key_down(Keys.CONTROL).click(rows[1]).key_up(Keys.CONTROL)
    chain.key_down(Keys.SHIFT).click(rows[5]).key_up(Keys.SHIFT).perform()
    page.until(f"{CHOSEN} === 5")
    page.click("choose all that match")
    page.sees("139 chosen")
    page.js("arguments[0].querySelector('input').click()", rows[2])
    page.sees("138 chosen")
    page.sees("Set aside…")
    page.click("choose none")
    page.until(f"{CHOSEN} === 0")


def test_the_end_of_a_list_and_a_deep_link_into_it(crossed: Application, page: Browser) -> None:
    listed(page, f"{crossed.base}/c/1/survey")
    page.js("document.querySelector('.list').focus()")
    keys(page, Keys.END)
    page.until("location.search.includes('open=')")
    last = page.until(AT)
    whole = crossed.api("GET", "/crossings/1/addresses", params={"limit": 200})["rows"]
    assert last == whole[-1]["key"]
    target = next(r for r in whole if r["key"] == "/visit/timetable.htm")
    listed(page, f"{crossed.base}/c/1/survey?open={target['id']}")
    page.until(f"{AT} === '/visit/timetable.htm'")
    assert page.js("return document.querySelector('.list').scrollTop") > 1000


def test_a_list_is_copied_as_tab_separated_text(crossed: Application, page: Browser) -> None:
    grant = {"permissions": ["clipboardReadWrite", "clipboardSanitizedWrite"], "origin": crossed.base}
    page.driver.execute_cdp_cmd("Browser.grantPermissions", grant)
    listed(page, f"{crossed.base}/c/1/survey?below=%2Fabout%2F")
    page.click("copy as text")
    page.sees("8 rows copied")
    lines = page.js("return navigator.clipboard.readText()").splitlines()
    assert lines[0] == "status\tkey\ttitle\tfate" and len(lines) == 9
    assert all(line.split("\t")[1].startswith("/about/") for line in lines[1:])


def test_the_tree_opens_and_narrows_the_list(crossed: Application, page: Browser) -> None:
    listed(page, f"{crossed.base}/c/1/survey")
    item = (
        "[...document.querySelectorAll('[role=treeitem]')].find(e => e.querySelector('.nm').innerText === arguments[0])"
    )
    page.until(f"{item} !== undefined", "news/")
    page.js(f"{item}.querySelector('.tw').click()", "news/")
    page.until(f"{item} !== undefined", "2018/")
    page.js(f"{item}.focus()", "2018/")
    keys(page, Keys.ENTER)
    page.until("location.search.includes('below=%2Fnews%2F2018%2F')")
    count = crossed.api("GET", "/crossings/1/addresses", params={"below": "/news/2018/"})["total"]
    page.until("document.querySelector('[data-testid=total]').innerText === arguments[0]", str(count))
    keys(page, Keys.ARROW_LEFT)
    page.click("/news/2018/ ×")
    page.until("document.querySelector('[data-testid=total]').innerText === '139'")


def test_the_fate_bar_filters_the_view_in_sight(crossed: Application, page: Browser) -> None:
    listed(page, f"{crossed.base}/c/1/survey")
    page.click("13", "button", ".fatebar")
    page.until("document.querySelector('[data-testid=total]').innerText === '13'")
    assert "fate=merged" in page.js("return location.search")
    page.go(f"{crossed.base}/c/1/route")
    page.click("4", "button", ".fatebar")
    page.until("document.querySelector('[data-testid=total]')?.innerText === '4'")
    assert "tab=decisions" in page.js("return location.search")
    moved = {"fate": "moved", "limit": 1}
    pages = crossed.api("GET", "/crossings/1/addresses", params={**moved, "family": "page"})["total"]
    landing = crossed.api("GET", "/crossings/1/landings")[0]["id"]
    things = crossed.api("GET", f"/crossings/1/landings/{landing}/things", params=moved)["total"]
    bodies = crossed.api("GET", "/crossings/1/bodies", params=moved)["total"]
    assert 0 < bodies < pages < 101 and 0 < things < 204
    for view, seen in (("sort", pages), ("land", things), ("refit?tab=losses", bodies)):
        page.go(f"{crossed.base}/c/1/{view}")
        page.click("76", "button", ".fatebar")
        page.until("document.querySelector('[data-testid=total]')?.innerText === arguments[0]", str(seen))
        assert "fate=moved" in page.js("return location.search"), view
    page.click("Page by page", "link")
    page.sees(f"1/{bodies}")
    page.go(f"{crossed.base}/c/1/lift?kind=engine")
    page.sees("of 12")
    page.click("4", "button", ".fatebar")
    page.sees("No page of this kind has this fate.")
    page.click("only retired ×")
    page.sees("of 12")


def test_the_palette_finds_addresses_items_and_commands(crossed: Application, page: Browser) -> None:
    page.go(f"{crossed.base}/c/1/manifest")
    page.sees("Evidence")
    for text, place in (("id=7", "/survey"), ("gwennol", "/"), ("go to route", "/route")):
        ActionChains(page.driver, duration=0).key_down(Keys.CONTROL).send_keys("k").key_up(Keys.CONTROL).perform()
        page.until("document.querySelector('.palette input') !== null")
        keys(page, text)
        keys(page, Keys.ENTER)  # at once: it means what is coming, not what was there for fewer letters
        page.until("document.querySelector('.palette') === null && location.pathname.includes(arguments[0])", place)


def test_a_cell_of_the_coverage_leads_to_its_page_and_field(crossed: Application, page: Browser) -> None:
    page.go(f"{crossed.base}/c/1/lift?kind=news")
    page.until("document.querySelectorAll('.cov svg > g').length === 6")
    grid = crossed.api("GET", "/crossings/1/coverage/news")
    empty = grid["fields"]["lead"].index("e")
    cells = page.driver.find_elements(By.CSS_SELECTOR, ".cov svg > g:nth-of-type(5) > g")
    cells[empty].click()
    page.until("document.querySelector(\"form[aria-label='Field lead']\") !== null")
    page.sees(grid["items"][empty]["key"])
    page.sees("nothing found")


def test_old_and_new_scroll_together(crossed: Application, page: Browser) -> None:
    body = max(crossed.api("GET", "/crossings/1/bodies", params={"limit": 200})["rows"], key=lambda b: b["words"])
    page.go(f"{crossed.base}/c/1/refit?item={body['item']}")
    page.until("document.querySelectorAll('iframe.page').length === 2")
    place = "return document.scrollingElement.scrollTop / (document.scrollingElement.scrollHeight - document.scrollingElement.clientHeight)"
    old, new = page.driver.find_elements(By.CSS_SELECTOR, "iframe.page")
    import time

    time.sleep(1)
    page.driver.switch_to.frame(new)
    page.js("document.scrollingElement.scrollTop = 1e6")
    page.driver.switch_to.default_content()
    time.sleep(0.5)
    page.driver.switch_to.frame(old)
    assert page.js(place) == pytest.approx(1, abs=0.05)
    page.driver.switch_to.default_content()


def test_a_body_in_every_form(crossed: Application, page: Browser) -> None:
    row = next(
        b for b in crossed.api("GET", "/crossings/1/bodies", params={"limit": 200})["rows"] if b["kind"] == "news"
    )
    page.go(f"{crossed.base}/c/1/refit?item={row['item']}")
    for form, text in (("Markdown", "\n"), ("HTML", "<p>"), ("Blocks", '"type": "Paragraph"')):
        page.click(form, "button", "[aria-label='New page']")
        page.until("document.querySelector('[aria-label=\"New page\"] pre')?.innerText.includes(arguments[0])", text)
    page.click("Words", "button", "[aria-label='New page']")
    page.until("document.querySelector('.diff')?.innerText.length > 100")


def test_the_try_box_says_what_the_map_answers(crossed: Application, page: Browser) -> None:
    page.go(f"{crossed.base}/c/1/route?tab=rules")
    page.write("Try an old address", "http://old.quillmere.localhost/engines.aspx?id=4")
    page.click("Try", "button", "form[aria-label='Try an address']")
    page.sees("/engines/old-fennick")
    page.write("Try an old address", "/never-there")
    page.click("Try", "button", "form[aria-label='Try an address']")
    page.sees("the map says nothing")


def test_jobs_are_listed_with_their_ends(crossed: Application, page: Browser) -> None:
    page.go(f"{crossed.base}/c/1/manifest")
    page.until("document.querySelector('.jobline .text')?.innerText.includes(' done')")
    page.driver.find_element(By.CSS_SELECTOR, ".jobline").click()
    page.until("document.querySelector('[aria-label=Jobs]') !== null")
    text = page.js("return document.querySelector('[aria-label=Jobs]').innerText")
    assert all(
        word in text
        for word in ("Survey done", "Sorting done", "Lifting done", "Refitting done", "Landing done", "Checking done")
    )
    keys(page, Keys.ESCAPE)


def test_a_shared_part_is_read_once_and_shown_on_its_page(crossed: Application, page: Browser) -> None:
    steps = crossed.api("GET", "/crossings/1/steps")
    page.go(f"{crossed.base}/c/1/refit?tab=shared")
    for place, step in enumerate(steps):
        said = crossed.api("GET", f"/crossings/1/steps/{place}")
        page.sees(f"{step['on']} of {step['of']}" if step["on"] else "finds nothing")
        page.sees("the version that is read" if said["versions"] else "finds nothing on any page")
        assert sum(one["pages"] for one in said["versions"]) == step["on"], "no more versions than are told, here"
        page.keys("j")
    page.go(f"{crossed.base}/c/1/refit?tab=shared")
    page.until("document.querySelector('iframe.page') !== null")
    page.driver.switch_to.frame(page.driver.find_element(By.CSS_SELECTOR, "iframe.page"))
    page.until("document.querySelector('[data-gf-as=chosen]') !== null")
    page.driver.switch_to.default_content()
    page.click("what was read")
    page.sees(crossed.api("GET", "/crossings/1/steps/0")["markdown"].split()[0])


def test_a_block_of_the_new_page_shows_where_it_comes_from(crossed: Application, page: Browser) -> None:
    row = max(crossed.api("GET", "/crossings/1/bodies", params={"limit": 200})["rows"], key=lambda b: b["words"])
    body = crossed.api("GET", f"/crossings/1/bodies/{row['item']}/{row['field']}")
    assert len(body["block_nodes"]) >= 3
    page.go(f"{crossed.base}/c/1/refit?item={row['item']}")
    page.until("document.querySelectorAll('iframe.page').length === 2")
    old, new = page.driver.find_elements(By.CSS_SELECTOR, "iframe.page")
    page.driver.switch_to.frame(new)
    page.until("document.querySelector(`[data-gf='${arguments[0]}']`) !== null", body["block_nodes"][2]["new"])
    page.driver.find_element(By.CSS_SELECTOR, f"[data-gf='{body['block_nodes'][2]['new']}']").click()
    page.driver.switch_to.default_content()
    page.sees(f"Block 3 of {len(body['block_nodes'])}")
    page.driver.switch_to.frame(old)
    chosen = "document.querySelector('[data-gf-as=chosen]')?.getAttribute('data-gf')"
    page.until(f"{chosen} === String(arguments[0])", body["block_nodes"][2]["old"])
    page.driver.switch_to.default_content()
    page.keys("o")
    page.driver.switch_to.frame(old)
    page.until("document.querySelectorAll('[data-gf-said]').length === arguments[0]", len(body["block_nodes"]))
    page.driver.switch_to.default_content()


def test_blocks_are_changed_by_hand_with_keys(crossed: Application, page: Browser) -> None:
    body = next(b for b in crossed.api("GET", "/crossings/1/bodies", params={"limit": 200})["rows"] if b["key"] == "/")
    at = f"/crossings/1/bodies/{body['item']}/{body['field']}"
    before = crossed.api("GET", at)["markdown"]
    page.go(f"{crossed.base}/c/1/refit?item={body['item']}&field={body['field']}&form=hand")
    page.until("document.activeElement.matches('.block.on')")
    keys(page, "e")
    page.until("document.activeElement.tagName === 'TEXTAREA'")
    keys(page, " More of it.", Keys.ENTER, Keys.ENTER, "A second text.")
    ActionChains(page.driver, duration=0).key_down(Keys.CONTROL).send_keys(Keys.ENTER).key_up(Keys.CONTROL).perform()
    page.until("document.querySelectorAll('.block')[0].innerText.includes('set by hand')")
    keys(page, Keys.ARROW_DOWN)
    page.until("document.querySelectorAll('.block')[1].matches('.on')")
    keys(page, "d")
    page.until("document.querySelectorAll('.block')[1].matches('.out')")
    now = crossed.api("GET", at)["markdown"]
    assert "More of it.\n\nA second text." in now and before.strip().splitlines()[-1] not in now
    assert page.axe() == []
    for n in (1, 0):
        page.until(f"document.querySelectorAll('.block')[{n}].matches('.on')")
        keys(page, Keys.BACKSPACE)
        page.until(f"document.querySelectorAll('.block em')[{n}].innerText.trim() === ''")
        keys(page, Keys.ARROW_UP)
    assert crossed.api("GET", at)["markdown"] == before
