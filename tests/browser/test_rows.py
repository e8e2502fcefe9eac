"""What a specialist tries in each view, on the demo."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import time
from collections.abc import Callable
from pathlib import Path
from urllib.parse import quote

from selenium.webdriver.common.keys import Keys

from tests.servers import apps, pages_app

from .chrome import Browser, browser
from .conftest import Application, application


def total(page: Browser, number: int) -> None:
    page.until("document.querySelector('[data-testid=total]')?.innerText === arguments[0]", f"{number:,}")


def pick_filter(page: Browser, chip: str, *values: str) -> None:
    page.click(chip)
    for value in values:
        page.click(value, "menuitem")
    page.keys(Keys.ESCAPE)
    page.until("document.querySelector('[role=menu]') === null")


def test_filters_by_host_sort_and_answer(crossed: Application, page: Browser) -> None:
    truth = json.loads((crossed.folder / "truth.json").read_text("utf-8"))
    page.go(f"{crossed.base}/c/1/survey")
    total(page, 139)
    pick_filter(page, "host: any", "own")
    pick_filter(page, "what: any", "page")
    own = [
        r for r in crossed.api("GET", "/crossings/1/addresses", params={"limit": 500})["rows"] if r["type"] == "page"
    ]
    own = [r for r in own if r["url"].startswith(crossed.old + "/")]
    assert len(own) >= len(truth["pages"])
    total(page, len(own))
    pick_filter(page, "answer: any", "2xx")
    total(page, sum(r["status"] == 200 for r in own))


def test_look_alike_folders_stay_apart(tmp_path: Path, page: Browser) -> None:
    folders = {"engine": 3, "engines": 2, "engine-sheds": 4}
    keys = [f"/{folder}/{n}" for folder, many in folders.items() for n in range(many)]
    site = {"/": "".join(f"<a href={key}>x</a>" for key in keys), **dict.fromkeys(keys, "<title>t</title>")}
    with apps(pages_app(site)) as (port,), application(tmp_path / "w") as app:  # type: ignore[arg-type]
        number = app.api("POST", "/crossings", json={"name": "F", "start": f"http://127.0.0.1:{port}/"})["id"]
        plan = app.api("GET", f"/crossings/{number}/plan")
        plan["plan"]["manners"]["delay"] = 0
        app.api("PUT", f"/crossings/{number}/plan", json=plan)
        app.run(number, "survey")
        page.go(f"{app.base}/c/{number}/survey")
        page.until("document.querySelectorAll('[role=treeitem]').length === 4")
        lines = [line.split("\n") for line in page.all_text("[role=treeitem]")[1:]]
        tree = {line[1] if len(line[0]) == 1 else line[0]: int(line[-1].split()[-1]) for line in lines}
        assert tree == {"engine/": 3, "engine-sheds/": 4, "engines/": 2}
        page.js(
            "[...document.querySelectorAll('[role=treeitem]')].find(e => e.querySelector('.nm').innerText === 'engine/').click()"
        )
        total(page, 3)
        page.go("about:blank")


def test_sort_and_filter_survive_a_run_and_coming_back(crossed: Application, copied: int, page: Browser) -> None:
    page.go(f"{crossed.base}/c/{copied}/survey")
    page.until("Number(document.querySelector('[data-testid=total]')?.innerText) > 80")
    pick_filter(page, "answer: any", "2xx")
    page.js("[...document.querySelectorAll('[role=columnheader]')].find(e => e.innerText === 'visits').click()")
    page.until("location.search.includes('order=visits')")
    page.click("columns")
    page.click("words", "menuitem")
    page.keys(Keys.ESCAPE)
    before = page.js("return [location.search, document.querySelector('[data-testid=total]').innerText]")
    page.click("Survey again")
    page.until("!document.querySelector('.runline')", seconds=30)
    time.sleep(0.5)
    assert page.js("return [location.search, document.querySelector('[data-testid=total]').innerText]") == before
    page.click("Sort", "link", "nav.rail")
    page.sees("Kinds on the new shore")
    page.click("Survey", "link", "nav.rail")
    page.until("location.search === arguments[0]", before[0])
    page.until("[...document.querySelectorAll('[role=columnheader]')].some(e => e.innerText === 'words')")
    page.js("history.back()")
    page.sees("Kinds on the new shore")
    page.click("Survey", "link", "nav.rail")
    page.until("location.search === arguments[0]", before[0])
    page.click("Soundings", "link", "nav.tabs")
    page.until("location.search.includes('tab=soundings')")
    page.click("Addresses", "link", "nav.tabs")
    page.until("location.search === arguments[0]", before[0])
    page.go(crossed.base + "/")
    page.js("sessionStorage.clear()")  # the application was closed in the meantime
    page.go(f"{crossed.base}/c/{copied}/manifest")
    page.click("Survey", "link", "nav.rail")
    page.until("location.search === arguments[0]", before[0])
    page.until("[...document.querySelectorAll('[role=columnheader]')].some(e => e.innerText === 'words')")
    assert "visits ↑" in page.all_text("[role=columnheader]")
    # the same number in another workspace is another crossing
    page.js("localStorage.setItem(arguments[0], 'long ago')", f"grandferry.begun.{copied}")
    page.go(f"{crossed.base}/c/{copied}/manifest")
    page.until("localStorage.getItem(arguments[0]) !== 'long ago'", f"grandferry.begun.{copied}")
    page.click("Survey", "link", "nav.rail")
    page.until("location.pathname.endsWith('/survey') && location.search === ''")


def test_counts_add_up(crossed: Application, page: Browser) -> None:
    page.go(f"{crossed.base}/c/1/survey")
    page.until("document.querySelectorAll('.seg').length > 2")
    parts = [int(text.split("\n")[0].replace(",", "")) for text in page.all_text(".seg b")]
    head = int(page.js("return document.querySelector('.ftot b').innerText"))
    assert sum(parts) == head == 101
    sums: dict[str, int] = {}
    for name in ("account", "fate", "family", "answer", "proof"):
        found = crossed.api("GET", "/crossings/1/addresses/choices", params={"name": name})
        sums[name] = sum(c["count"] for c in found)
    assert set(sums.values()) == {139}
    account = {
        c["value"]: c["count"] for c in crossed.api("GET", "/crossings/1/addresses/choices", params={"name": "account"})
    }
    assert account.pop("in") == 101 and sum(account.values()) == 38 and "not in" not in account, "each says why"
    fates = {
        c["value"]: c["count"] for c in crossed.api("GET", "/crossings/1/addresses/choices", params={"name": "fate"})
    }
    assert fates.pop("not in the account") == 38
    for part in crossed.api("GET", "/crossings/1")["account"]:
        number = part["planned"] + part["proven"]
        listed = crossed.api("GET", "/crossings/1/addresses", params={"fate": part["fate"], "limit": 1})["total"]
        assert fates.get(part["fate"], 0) == listed == number, "bar, filter and list give the same number"
        if number:
            page.js(
                "[...document.querySelectorAll('.seg')].find(e => e.title.startsWith(arguments[0])).click()",
                f"{number} {part['fate']}",
            )
            page.until(f"/(^|\\n){number} rows?(\\n|$)/.test(document.body.innerText)")


def test_from_a_row_to_the_old_and_the_new_page(crossed: Application, page: Browser) -> None:
    row = crossed.api("GET", "/crossings/1/addresses", params={"search": "/engines.aspx?id=4"})["rows"][0]
    page.go(f"{crossed.base}/c/1/survey?open={row['id']}")
    page.sees("Open old")
    assert page.find("Open old", "link").get_attribute("href") == f"{crossed.old}/engines.aspx?id=4"
    assert page.find("Open new", "link").get_attribute("href") == crossed.new + row["decision_target"]
    page.driver.execute_cdp_cmd(
        "Browser.grantPermissions",
        {"permissions": ["clipboardReadWrite", "clipboardSanitizedWrite"], "origin": crossed.base},
    )
    page.click("Copy path")
    page.sees("copied")
    assert page.js("return navigator.clipboard.readText()") == "/engines.aspx?id=4"


def test_values_follow_the_selector_without_a_run(crossed: Application, page: Browser) -> None:
    jobs = len(crossed.api("GET", "/jobs"))
    page.go(f"{crossed.base}/c/1/lift?kind=engine&field=title")
    form = "form[aria-label='Field title']"
    page.until("document.querySelector('[data-testid=tried]')?.innerText.includes('Lady Osmer')")
    page.write("what", "table.data td", form)
    page.until("document.querySelector('[data-testid=tried]')?.innerText.includes('places match')")
    page.write("what", "table.data tr:nth-child(2) td + td", form)
    page.until("document.querySelector('[data-testid=tried]')?.innerText.includes('Brindle')")
    page.write("what", "h1[", form)
    page.sees("cannot be read")
    page.sees("not saved: the field title")
    # a click in the captured page teaches
    frame = page.driver.find_element("css selector", "iframe.page")
    page.driver.switch_to.frame(frame)
    page.driver.find_element("css selector", "h1").click()
    page.driver.switch_to.default_content()
    page.until("document.querySelector('[data-testid=tried]')?.innerText.trim() === 'Lady Osmer'")
    page.sees("Taught by 1 place · tried on 12 pages")
    page.sees("filled on 12 of 12 pages")
    page.click("Try on five")
    page.until("document.querySelectorAll('[data-testid=tried] .value').length === 5")
    assert len(crossed.api("GET", "/jobs")) == jobs


def test_one_page_is_lifted_again_alone(crossed: Application, copied: int, page: Browser) -> None:
    plan = crossed.api("GET", f"/crossings/{copied}/plan")
    engine = next(k for k in plan["plan"]["kinds"] if k["name"] == "engine")
    engine["fields"][0]["locators"] = [{"css": "table.data tr:nth-child(2) td + td"}]
    crossed.api("PUT", f"/crossings/{copied}/plan", json=plan)
    before = {
        i["key"]: i["id"] for i in crossed.api("GET", f"/crossings/{copied}/items", params={"limit": 200})["rows"]
    }
    page.go(f"{crossed.base}/c/{copied}/lift?kind=engine")
    page.sees("Lady Osmer")
    page.click("lift this page again")
    page.until("[...document.querySelectorAll('.card')][0]?.innerText.includes('Brindle')", seconds=30)
    items = crossed.api("GET", f"/crossings/{copied}/items", params={"limit": 200})["rows"]
    assert {i["key"]: i["id"] for i in items} == before
    titles = []
    for item in (i for i in items if i["kind"] == "engine"):
        fields = crossed.api("GET", f"/crossings/{copied}/items/{item['id']}")["fields"]
        titles.append(next(f["lifted"] for f in fields if f["field"] == "title"))
    assert sum("Brindle" in t for t in titles) == 1 and len(titles) == 12


def test_a_rule_that_hides_a_page_is_warned_of(crossed: Application, copied: int, page: Browser) -> None:
    page.go(f"{crossed.base}/c/{copied}/route?tab=rules")
    page.click("+ rule")
    form = "form[aria-label=Rule]"
    page.write("Old", "/news/", form)
    page.write("New", "/elsewhere/", form)
    page.sees("would wrongly catch 1")
    page.sees("would hide an address that stays")
    button = page.js("return [...document.querySelectorAll(arguments[0] + ' button[type=submit]')][0].disabled", form)
    assert button is True, "not before it is said to be wanted"
    page.click("Leave it")


def test_what_is_wrong_with_rules_is_told_and_mended(crossed: Application, copied: int, page: Browser) -> None:
    plan = crossed.api("GET", f"/crossings/{copied}/plan")
    first = plan["plan"]["route"]["rules"][0]
    plan["plan"]["route"]["rules"] += [
        first | {"reason": ""},
        {"old": "/not-there", "new": "/news/", "match": "prefix"},
    ]
    crossed.api("PUT", f"/crossings/{copied}/plan", json=plan)
    crossed.run(copied, "route")
    page.go(f"{crossed.base}/c/{copied}/route?tab=rules")
    page.sees("It says the same as rule 1.")
    page.sees("It fits no known old address.")
    assert page.axe() == []
    page.click("Take it out")
    page.until("!document.body.innerText.includes('It says the same as rule 1.')")
    page.click("Take it out")
    page.until("!document.body.innerText.includes('It fits no known old address.')")
    page.sees("to what is nothing known of the new site")  # no survey of it, and no check as yet
    rules = crossed.api("GET", f"/crossings/{copied}/plan")["plan"]["route"]["rules"]
    assert [rule["old"] for rule in rules] == [rule["old"] for rule in plan["plan"]["route"]["rules"][:-2]]


def test_a_rule_is_written_handed_over_and_seen_working(crossed: Application, copied: int, page: Browser) -> None:
    state = "[...document.querySelectorAll('[aria-label=Rules] tbody tr')].map(r => r.querySelector('.pill').innerText)"
    page.go(f"{crossed.base}/c/{copied}/route?tab=rules")
    page.until(f"{state}.join() === 'written,written'")
    page.sees("not seen yet")
    page.go(f"{crossed.base}/c/{copied}/route?tab=write&server=nginx")
    page.sees("location")
    page.click("Take 2 files, hand over")
    page.sees("Handed over.")
    page.go(f"{crossed.base}/c/{copied}/route?tab=rules")
    page.until(f"{state}.join() === 'handed over,handed over'")
    crossed.run(copied, "land", "check")
    page.until(f"{state}[0] === 'seen working'", seconds=30)


def test_a_shape_is_settled_over_its_folders_at_once(crossed: Application, copied: int, page: Browser) -> None:
    at = f"/crossings/{copied}"
    plan = crossed.api("GET", f"{at}/plan")
    plan["plan"]["kinds"] = []
    crossed.api("PUT", f"{at}/plan", json=plan)
    keys = [row["old"] for row in crossed.api("GET", f"{at}/pairs")["rows"]]
    crossed.api("POST", f"{at}/pairs", json={"set": [], "drop": keys})
    crossed.run(copied, "sort", "route")
    groups = crossed.api("GET", f"{at}/open")
    fold = next(group for group in groups if group["folded"] and group["unaccounted"])
    page.go(f"{crossed.base}/c/{copied}/route")
    page.sees(fold["shape"])
    page.go(f"{crossed.base}/c/{copied}/route?shape={quote(fold['shape'])}")
    page.sees("with open addresses of this shape")
    assert page.axe() == []
    page.driver.find_element("css selector", "body").click()
    page.keys("d")
    page.until("!location.search.includes('shape=')")
    pairs = crossed.api("GET", f"{at}/pairs")["rows"]
    assert sum(pair["status"] == 410 for pair in pairs) == fold["unaccounted"]
    left = [group["unaccounted"] for group in crossed.api("GET", f"{at}/open") if group["shape"] == fold["shape"]]
    assert sum(left) in (0, fold["unaccounted"]), "decided with the next deciding at the latest"


def test_a_likely_place_is_chosen_by_its_number(crossed: Application, copied: int, page: Browser) -> None:
    keys = [row["old"] for row in crossed.api("GET", f"/crossings/{copied}/pairs")["rows"]]
    crossed.api("POST", f"/crossings/{copied}/pairs", json={"set": [], "drop": keys})
    crossed.run(copied, "route")
    found = {
        (row["id"], row["key"]): crossed.api("GET", f"/crossings/{copied}/likely", params={"address": row["key"]})
        for group in crossed.api("GET", f"/crossings/{copied}/open")
        for row in group["rows"]
        if row["fate"] == "unaccounted"
    }
    (number, old), (best, *_) = next(one for one in found.items() if one[1])
    page.go(f"{crossed.base}/c/{copied}/route?at={number}")
    page.sees("Likely places")
    page.sees(best["new"])
    page.driver.find_element("css selector", "body").click()
    page.keys("1")
    page.until("document.getElementById('new-place').value === arguments[0]", best["new"])
    assert page.axe() == []
    page.click("Lead there")
    page.until("document.querySelector('[aria-label=Decision] h2')?.innerText !== arguments[0]", old)
    pairs = crossed.api("GET", f"/crossings/{copied}/pairs")["rows"]
    assert [(row["old"], row["new"]) for row in pairs] == [(old, best["new"])]


def test_rounds_tell_what_was_fixed_by_what(crossed: Application, copied: int, page: Browser) -> None:
    plan = crossed.api("GET", f"/crossings/{copied}/plan")
    plan["plan"]["route"]["rules"] = []
    crossed.api("PUT", f"/crossings/{copied}/plan", json=plan)
    crossed.api("POST", f"/crossings/{copied}/pairs", json={"set": [], "drop": ["/news/", "/ring/a", "/ring/b"]})
    crossed.run(copied, "route", "land", "check")
    page.go(f"{crossed.base}/c/{copied}/route?tab=rounds")
    page.sees("open")
    first = crossed.api("GET", f"/crossings/{copied}/rounds")[-1]
    assert first["open"] > 2
    crossed.api(
        "POST",
        f"/crossings/{copied}/pairs",
        json={"set": [{"old": "/ring/a", "new": "", "status": 410, "match": "exact"}]},
    )
    crossed.run(copied, "route", "land", "check")
    last = crossed.api("GET", f"/crossings/{copied}/rounds")[-1]
    # the other address of the ring redirects to the one that is gone now, and is settled with it
    assert last["before"] == first["open"] and last["open"] == first["open"] - 2 and not last["broken"]
    assert last["fixed_by"] == {"pair": 1, "old redirect": 1}
    page.sees(f"{first['open']} → {last['open']} open")
    page.sees("2 fixed (1 by old redirect, 1 by pair), 0 newly broken")


def test_pasted_pairs_are_set_and_what_holds_none_is_told(crossed: Application, copied: int, page: Browser) -> None:
    before = crossed.api("GET", f"/crossings/{copied}/pairs")
    page.go(f"{crossed.base}/c/{copied}/route?tab=pairs")
    page.write(
        "old and new, one pair a line",
        "/pasted/a.htm -> /a\n/pasted/b.htm nowhere\n/pasted/c.htm 410\n/pasted/d.htm https://else.test/d",
    )
    page.click("Set these pairs")
    page.sees("3 pairs set. 1 leave for else.test. 1 line left above, not set:")
    page.sees("The new address “nowhere” is neither a path nor an http address.")
    found = crossed.api("GET", f"/crossings/{copied}/pairs", params={"search": "/pasted/"})["rows"]
    assert [(p["old"], p["new"], p["status"]) for p in found] == [
        ("/pasted/a.htm", "/a", 301),
        ("/pasted/c.htm", "", 410),
        ("/pasted/d.htm", "https://else.test/d", 301),
    ]
    crossed.api("POST", f"/crossings/{copied}/undo")
    assert crossed.api("GET", f"/crossings/{copied}/pairs") == before


def test_a_new_address_of_a_foreign_host_is_asked_about(crossed: Application, copied: int, page: Browser) -> None:
    def led() -> list[str]:
        return [
            p["new"] for p in crossed.api("GET", f"/crossings/{copied}/pairs", params={"search": "else.test"})["rows"]
        ]

    page.go(f"{crossed.base}/c/{copied}/route?planned=with")
    page.until("document.querySelector('.grp .row') !== null")
    page.js("document.querySelector('.grp .row').click()")
    page.write("Its new address", "https://else.test/there")
    page.sees("else.test is none of this crossing’s hosts")
    page.keys(Keys.ENTER)
    assert led() == []
    page.click("Yes, lead there")
    page.until("!document.body.innerText.includes('none of this crossing’s hosts')")
    assert led() == ["https://else.test/there"]


def test_the_interim_host_changes_nothing_but_where_checks_go(crossed: Application, copied: int, page: Browser) -> None:
    before = crossed.api("GET", f"/crossings/{copied}/plan")["plan"]
    pairs = crossed.api("GET", f"/crossings/{copied}/pairs")
    rules = crossed.api("GET", f"/crossings/{copied}/rules")
    page.go(f"{crossed.base}/c/{copied}/survey?tab=scope")
    host = crossed.new.replace("new.quillmere.localhost", "127.0.0.1")
    page.write("Interim host", host)
    page.sees("not saved: scope and manners")
    page.click("Save")
    page.sees("Saved.")
    after = crossed.api("GET", f"/crossings/{copied}/plan")["plan"]
    assert after.pop("interim").rstrip("/") == host and before.pop("interim")
    assert after == before
    assert crossed.api("GET", f"/crossings/{copied}/pairs") == pairs
    lines = crossed.api("GET", f"/crossings/{copied}/rules")
    assert [(rule["old"], rule["new"]) for rule in lines] == [(rule["old"], rule["new"]) for rule in rules]
    assert all(rule["state"] != "seen working" for rule in lines), "nothing was seen on this host yet"
    crossed.run(copied, "check")
    assert crossed.api("GET", f"/crossings/{copied}/rounds")[-1]["base"].rstrip("/") == host
    page.go(f"{crossed.base}/c/{copied}/route?tab=rounds")
    page.sees(host)


def test_a_survey_goes_on_with_the_tab_closed(tmp_path: Path, page: Browser) -> None:
    keys = [f"/p{n}" for n in range(400)]  # longer than the test needs, however slow the machine
    site = {"/": "".join(f"<a href={key}>x</a>" for key in keys), **dict.fromkeys(keys, "<title>t</title>")}
    with apps(pages_app(site)) as (port,), application(tmp_path / "w") as app:  # type: ignore[arg-type]
        number = app.api("POST", "/crossings", json={"name": "Long", "start": f"http://127.0.0.1:{port}/"})["id"]
        plan = app.api("GET", f"/crossings/{number}/plan")
        plan["plan"]["manners"].update(delay=0.1, at_once=1)
        plan["plan"]["old"]["permission"] = {"by": "Bea Quill", "date": "1 May 2026"}
        app.api("PUT", f"/crossings/{number}/plan", json=plan)
        page.go(f"{app.base}/c/{number}/survey")
        page.click("Start the survey", "button", ".title")
        page.until("document.querySelector('.runline b')?.innerText.match(/ of /)")
        done = "Number(document.querySelector('.jobline .text').innerText.match(/· ([\\d,]+) of/)?.[1] || 999)"
        first = page.js(f"return {done}")
        page.until("Number(document.querySelector('.ftot b').innerText) > 2")  # the account grows with the survey
        page.go("about:blank")
        time.sleep(2)
        page.go(f"{app.base}/c/{number}/survey?tab=log")
        page.sees("survey started")
        assert page.until(f"{done} > arguments[0]", first + 5)
        lines = app.api("GET", f"/crossings/{number}/log")
        assert [line["text"] for line in lines if line["kind"] == "job"] == ["survey started", "survey queued"]
        page.click("Stop")
        page.sees("Survey stopped")
        page.go("about:blank")


def test_leaving_with_an_unsaved_rule_asks_once(crossed: Application, page: Browser) -> None:
    page.go(f"{crossed.base}/c/1/route?tab=rules")
    page.click("+ rule")
    page.write("Old", "/somewhere/", "form[aria-label=Rule]")
    page.sees("not saved: the rule")
    page.click("Land", "link", "nav.rail")
    page.sees("If you go now, this is lost.")
    page.click("Stay here")
    assert page.js("return location.pathname").endswith("/route")
    page.click("Pairs", "link", "nav.tabs")
    page.sees("If you go now, this is lost.")
    page.click("Stay here")
    assert page.js("return location.search") == "?tab=rules"
    page.click("+ rule")
    page.sees("If you go now, this is lost.")
    page.click("Stay here")
    page.sees("not saved: the rule")
    page.click("Land", "link", "nav.rail")
    page.click("Go without saving")
    page.sees("Landings")


def test_what_is_saved_while_one_leaves_is_not_asked_about(crossed: Application, copied: int, page: Browser) -> None:
    page.go(f"{crossed.base}/c/{copied}/survey?tab=scope")
    page.write("At once", "2")
    page.sees("not saved: scope and manners")
    # the answer to the saving comes late: one leaves in between
    page.js(
        "const real=window.fetch;window.fetch=async(...a)=>{const r=await real(...a);"
        "if((a[0].method||a[1]?.method)==='PUT')await new Promise(f=>setTimeout(f,1500));return r}"
    )
    page.click("Save")
    page.click("Log", "link", "nav.tabs")
    page.until("location.search.includes('tab=log')", seconds=10)
    page.until("!document.querySelector('[role=dialog]')")


def test_another_kind_or_field_asks_once_when_something_is_unsaved(crossed: Application, page: Browser) -> None:
    def stays(act: Callable[[], object], unsaved: str) -> None:
        page.sees(f"not saved: {unsaved}")
        act()
        page.sees("If you go now, this is lost.")
        page.click("Stay here")
        page.until("!document.querySelector('[role=dialog]')")
        page.sees(f"not saved: {unsaved}")

    page.go(f"{crossed.base}/c/1/sort?kind=news")
    page.write("Name of the kind", "Another name")
    stays(lambda: page.click("Engine", "button", "section[aria-label='Kinds']"), "the kind Another name")
    stays(lambda: page.click("New kind"), "the kind Another name")
    stays(lambda: page.click("Pages", "link", "nav.tabs"), "the kind Another name")
    page.click("New kind")
    page.click("Go without saving")
    page.until("!document.body.innerText.includes('not saved')")
    page.go(f"{crossed.base}/c/1/lift?kind=engine&field=built")
    page.write("Field", "built_in")
    stays(lambda: page.click("News post", "link", "nav.tabs"), "the field built_in")
    stays(lambda: page.click("+ field"), "the field built_in")
    page.click("+ field")
    page.click("Go without saving")
    page.sees("not saved: the field (new)")
    page.click("Leave it")
    page.until("!document.body.innerText.includes('not saved')")


def test_two_tabs_changing_the_same_plan(crossed: Application, copied: int, page: Browser) -> None:
    page.go(f"{crossed.base}/c/{copied}/survey?tab=scope")
    page.write("At once", "3")
    known = crossed.api("GET", f"/crossings/{copied}/plan")
    known["plan"]["manners"]["at_once"] = 5
    crossed.api(
        "PUT", f"/crossings/{copied}/plan", json={**known, "text": "at once to 5"}, headers={"X-Ferry-Name": "Bea"}
    )
    page.click("Save")
    page.sees("The plan was changed elsewhere in the meantime (at once to 5, Bea).")
    assert crossed.api("GET", f"/crossings/{copied}/plan")["plan"]["manners"]["at_once"] == 5
    page.click("Load it as it is now")
    page.until(
        "[...document.querySelectorAll('input')].some(i => i.labels?.[0]?.innerText.startsWith('At once') && i.value === '5')"
    )


def test_a_change_of_many_is_seen_and_taken_back(crossed: Application, copied: int, page: Browser) -> None:
    page.go(f"{crossed.base}/c/{copied}/survey?below=%2Fring%2F")
    total(page, 2)
    page.click("choose all that match")
    page.sees("2 chosen")
    page.click("Set aside…")
    page.write("Why they are left out", "the ring was never ours")
    page.click("Set aside 2")
    page.until("document.querySelector('[role=dialog]') === null")
    crossed.run(copied, "route")
    plan = crossed.api("GET", f"/crossings/{copied}/plan")["plan"]
    assert plan["route"]["aside"][-1]["reason"] == "the ring was never ours"
    page.js("document.activeElement.blur()")
    page.driver.find_element("css selector", "body").send_keys("z")
    page.sees("Taken back: 2 addresses set aside: the ring was never ours")
    plan = crossed.api("GET", f"/crossings/{copied}/plan")["plan"]
    assert all(a["reason"] != "the ring was never ours" for a in plan["route"]["aside"])
    page.go(f"{crossed.base}/c/{copied}/manifest?tab=changes")
    page.sees("Mara Quill")


def test_the_server_gone_and_back_and_the_worker_replaced(tmp_path: Path) -> None:
    folder = tmp_path / "w"
    with browser() as page:
        with application(folder) as app:
            port = app.port
            app.api("POST", "/crossings", json={"name": "Lone", "start": "http://127.0.0.1:9/"})
            app.allow(1)
            page.go(f"{app.base}/c/1/survey")
            page.sees("The old site is not surveyed yet.")
            worker = subprocess.run(
                ["pgrep", "-P", str(app.process.pid), "-f", "grandferry.work.jobs.worker"],
                capture_output=True,
                text=True,
            ).stdout.split()
            assert worker
            os.kill(int(worker[0]), signal.SIGKILL)
            page.sees("The worker ended and was started again")
        page.sees("The server does not answer.", seconds=30)
        page.click("Start the survey", "button", ".title")
        page.sees("Grand Ferry does not answer")
        with application(folder, port=port):
            page.until("!document.body.innerText.includes('The server does not answer.')", seconds=40)
            page.click("Start the survey", "button", ".title")
            page.sees("Survey failed", seconds=40)


def test_a_second_survey_names_what_is_different(tmp_path: Path, page: Browser) -> None:
    site = {
        "/": "".join(f"<a href=/p{n}>x</a>" for n in range(6)),
        **{f"/p{n}": f"<title>Page {n}</title><p>{n}" for n in range(6)},
    }
    with apps(pages_app(site)) as (port,), application(tmp_path / "w") as app:  # type: ignore[arg-type]
        number = app.api("POST", "/crossings", json={"name": "Twice", "start": f"http://127.0.0.1:{port}/"})["id"]
        page.go(f"{app.base}/c/{number}/survey")
        page.click("Start the survey", "button", ".title")
        page.sees("Without somebody's leave no survey starts")
        page.write("Leave to copy given by", "Dilys Marrow")
        page.write("Seconds between requests", "0")
        page.click("Save")
        page.sees("Saved.")
        page.click("Start the survey", "button", ".title")
        page.sees("Survey again")
        site["/p2"], site["/p6"] = "<title>Page 2</title><p>two", "<title>Page 6</title>six"
        site["/"] += "<a href=/p6>x</a>"
        del site["/p4"]
        page.click("Survey again", "button", ".title")
        page.click("Changes 4", "link")
        page.until("document.querySelector('[data-testid=total]')?.innerText === '4'")
        page.until(
            "[...document.querySelectorAll('.list [data-i]')].filter(r => !r.innerText.includes('…')).length === 4"
        )
        seen = page.js("return [...document.querySelectorAll('.list [data-i]')].map(r => r.innerText.split('\\n'))")
        told = {line[1]: line[-2:] for line in (["", *row] if row[0].startswith("/") else row for row in seen)}
        assert {key: [word for word in last if word] for key, last in told.items()} == {
            "/": ["changed", "text, links"],
            "/p2": ["changed", "text"],
            "/p4": ["gone", "answer"],
            "/p6": ["Page 6", "added"],
        }
        pick_filter(page, "change: any", "gone")
        page.until("document.querySelector('[data-testid=total]')?.innerText === '1'")
        page.sees("/p4")
        found = app.api("GET", f"/crossings/{number}/addresses", params={"search": "/p2"})["rows"]
        page.go(f"{app.base}/c/{number}/survey?tab=changes&open={found[0]['id']}&part=captures")
        page.until("document.querySelector('.diff')?.innerText === 'Page 2 2two'")
        assert page.js("return ['del', 'ins'].map(tag => document.querySelector('.diff ' + tag).innerText)") == [
            "2",
            "two",
        ]


def test_what_is_suggested_is_looked_through_and_taken(crossed: Application, copied: int, page: Browser) -> None:
    at = f"/crossings/{copied}"
    keys = [row["old"] for row in crossed.api("GET", f"{at}/pairs")["rows"]]
    crossed.api("POST", f"{at}/pairs", json={"set": [], "drop": keys})
    crossed.run(copied, "route")
    page.go(f"{crossed.base}/c/{copied}/route?tab=suggested")
    page.sees("Nothing is suggested.")
    page.driver.find_element("css selector", "body").click()
    page.keys("g")
    page.until("document.querySelectorAll('[aria-label=\"Suggested pairs\"] .list .r').length > 0")
    first = crossed.api("GET", f"{at}/suggested")["rows"][0]
    page.go(f"{crossed.base}/c/{copied}/route?tab=suggested&at={first['id']}")
    page.until("document.querySelector('[aria-label=\"One suggestion\"] li button') !== null")
    assert page.axe() == []
    page.driver.find_element("css selector", "body").click()
    page.keys("1")
    page.sees("1 pair taken as suggested.")
    (pair,) = crossed.api("GET", f"{at}/pairs")["rows"]
    assert (pair["old"], pair["new"]) == (first["key"], first["new"]) and pair["reason"].startswith("suggested, ")
