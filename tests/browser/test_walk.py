"""The same crossing in the browser: made, surveyed, decided, landed and checked by hand, by mouse and by keyboard."""

from __future__ import annotations

from pathlib import Path

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from .chrome import Browser, browser
from .conftest import Application, application


class Mouse:
    """Does everything with the mouse, and types only into fields."""

    def __init__(self, page: Browser):
        self.page = page

    def press(self, name: str, role: str = "button", within: str = "body") -> None:
        self.page.click(name, role, within)

    def write(self, label: str, text: str, within: str = "body") -> None:
        field = self.page.find(label, "field", within)
        self.page.js("arguments[0].scrollIntoView({block:'nearest'})", field)
        field.click()
        self._type(text)

    def choose(self, label: str, option: str, within: str = "body") -> None:
        self.page.choose(label, option, within)

    def _type(self, text: str) -> None:
        self.page.keys(Keys.CONTROL, "a")
        self.page.keys(Keys.DELETE)
        self.page.keys(text.replace("\n", Keys.ENTER))

    def stage(self, number: int, name: str) -> None:
        self.press(name, "link", "nav.rail")

    def run(self, button: str, key: str) -> None:
        self.press(button)

    def fresh(self, button: str) -> None:
        self.press(button)

    def decide(self, key: str, to: str) -> None:
        """Choose an open address and lead it somewhere (``same``, ``gone`` or a path)."""
        self.press(key, "any", ".grp .row")
        self.page.until("document.querySelector('[aria-label=Decision] h2')?.innerText.trim() === arguments[0]", key)
        if to == "same":
            self.press("It stays")
        elif to == "gone":
            self.press("Retire (410)")
        else:
            self.write("Its new address", to)
            self.press("Lead there")


class Keyboard(Mouse):
    """Never touches the mouse: keys of the views, and Tab to reach what has none."""

    def _reach(self, name: str, role: str, within: str) -> None:
        target = self.page.find(name, role, within)
        driver = self.page.driver
        for back in (Keys.TAB, (Keys.SHIFT, Keys.TAB)):
            for _ in range(260):
                if self.page.js("return document.activeElement === arguments[0]", target):
                    return
                chain = ActionChains(driver, duration=0)
                if isinstance(back, tuple):
                    chain.key_down(back[0]).send_keys(back[1]).key_up(back[0])
                else:
                    chain.send_keys(back)
                chain.perform()
                if not self.page.js("return arguments[0].isConnected", target):
                    target = self.page.find(name, role, within)
        raise AssertionError(f"“{name}” cannot be reached by Tab")

    def _send(self, *keys: str) -> None:
        ActionChains(self.page.driver, duration=0).send_keys(*keys).perform()

    def press(self, name: str, role: str = "button", within: str = "body") -> None:
        self._reach(name, role, within)
        self._send(Keys.ENTER)

    def write(self, label: str, text: str, within: str = "body") -> None:
        self._reach(label, "field", within)
        self._type(text)

    def choose(self, label: str, option: str, within: str = "body") -> None:
        self._reach(label, "field", within)
        self._send(Keys.ENTER)
        self.page.until("document.querySelectorAll('[role=option]').length > 0")
        chosen = "document.activeElement.getAttribute('role') === 'option' && document.activeElement.innerText.trim()"
        for _ in range(20):
            if self.page.js(f"return {chosen}") == option:
                break
            self._send(Keys.ARROW_DOWN)
        self._send(Keys.ENTER)
        self.page.until("document.querySelectorAll('[role=listbox]').length === 0")

    def _out(self) -> None:
        """Leave whatever field is being written in, so that keys mean the view's."""
        if self.page.js("return /^(INPUT|TEXTAREA)$/.test(document.activeElement?.tagName)"):
            self._send(Keys.ESCAPE)

    def stage(self, number: int, name: str) -> None:
        self._out()
        self._send(str(number))

    def run(self, button: str, key: str) -> None:
        self.page.find(button)
        self._out()
        self._send(key)

    def fresh(self, button: str) -> None:
        self.page.find(button)
        self._out()
        self._send("n")

    def decide(self, key: str, to: str) -> None:
        self._out()
        here = "return document.querySelector('[aria-label=Decision] h2')?.innerText.trim()"
        # to the top of the list, then down to the address
        for step in ("k", "j"):
            for _ in range(60):
                if self.page.js(here) == key:
                    break
                self._send(step)
        self.page.until("document.querySelector('[aria-label=Decision] h2')?.innerText.trim() === arguments[0]", key)
        if to == "same":
            self._send("a")
        elif to == "gone":
            self._send("d")
        else:
            self._send("e")
            self._type(to)
            self._send(Keys.ENTER)


PLACES = {
    "/": "same",
    "/news/": "same",
    "/index.htm": "/",
    "/engines.aspx": "/engines/",
    "/help/": "/questions/",
}


def idle(page: Browser, kind: str) -> None:
    """Wait until no job runs and the last one was of this kind and done."""
    page.until(
        "fetch('/api/jobs?crossing=' + location.pathname.split('/')[2]).then(r => r.json()).then(j => "
        "j.length && j.every(x => !['queued','running'].includes(x.state)) && j.some(x => x.kind === arguments[0] && x.state === 'done'))".replace(
            "arguments[0]", f"'{kind}'"
        ),
        seconds=60,
    )


def settle(hand: Mouse, page: Browser, verdict: str) -> None:
    """Accept what a round found with one verdict, where it found any."""
    chip = f"[...document.querySelectorAll('.filters .chip')].find(e => e.innerText.startsWith('{verdict}'))"
    if page.js(f"return {chip} === undefined"):
        return
    hand.press(page.js(f"return {chip}.innerText.trim()"), "button", ".filters")
    hand.write("Why these are the right pages", "lists are made by the new system")
    hand.press("All of them are right", "button", "form[aria-label=Settle]")
    page.sees("accepted: lists are made by the new system")
    idle(page, "route")


def new_kind(hand: Mouse, label: str, address: str, element: str, body: str) -> None:
    hand.fresh("New kind")
    hand.page.find("Leave it")
    hand.write("Name of the kind", label)
    if address:
        hand.write("New address", address)
    else:
        hand.choose("Items", "none (lists the new system builds itself)", "[aria-label=Kind]")
    if element:
        hand.write("its path lies below", "")
        hand.write("it holds an element", element)
    hand.page.until("Number(document.querySelector('[data-testid=rule-count]')?.innerText.replace(',', '')) > 0")
    hand.press("Make this kind")
    hand.page.until(
        "[...document.querySelectorAll('[aria-label=Kinds] .card.on b')].some(b => b.innerText === arguments[0])", label
    )


@pytest.mark.parametrize("way", [Mouse, Keyboard])
def test_a_crossing_by_hand_to_nothing_unaccounted(way: type[Mouse], tmp_path: Path) -> None:
    with application(tmp_path / "demo", demo=True) as app, browser() as page:
        walk(way(page), page, app)
        assert page.problems() == []


def walk(hand: Mouse, page: Browser, app: Application) -> None:
    page.go(app.base)
    # a new crossing from the old address, which is asked at once
    hand.write("Address of the old site", app.old.removeprefix("http://"))
    hand.press("Ask it")
    page.sees("RailPages 2.3")
    hand.write("Name of the crossing", "By hand")
    hand.press("Make the crossing")
    page.sees("What is left out")
    # scope, manners, leave, hosts
    hand.write("Leave to copy given by", "Dilys Marrow")
    hand.write("Hosts that give files only", app.files)
    hand.write("Seconds between requests", "0")
    hand.write("At once", "8")
    hand.write("Interim host", app.new)
    hand.press("Save")
    page.sees("Saved.")
    hand.run("Start the survey", "r")
    idle(page, "survey")
    # kinds, written by hand
    hand.stage(2, "Sort")
    hand.press("Kinds", "link", "nav.tabs")
    for label, address, element, body in (
        ("News", "/news/{slug}", "div.story", ""),
        ("Engine", "/engines/{slug}", "table.data", ""),
        ("Lists", "", "body.list-page", ""),
        ("Page", "/pages/{slug}", "", ""),
    ):
        new_kind(hand, label, address, element, body)
    hand.run("Sort all", "r")
    idle(page, "sort")
    page.sees("Unsorted 0")
    # fields: each kind starts with a title and a body; only where the body stands is told
    hand.stage(3, "Lift")
    for label, places in (("News", ["div.story"]), ("Engine", ["#history"]), ("Page", [".main", "div.faq"])):
        hand.press(label, "link", "nav.tabs")
        hand.press("body", "button", "[aria-label=Fields]")
        within = "form[aria-label='Field body']"
        page.find("Field", "field", within)
        second = page.js("return document.querySelectorAll(arguments[0] + ' [class*=mono] input')", within)
        assert len(second) == 2
        for n, place in enumerate([*places, places[0]][:2]):
            if isinstance(hand, Keyboard):
                while not page.js("return document.activeElement === arguments[0]", second[n]):
                    hand._send(Keys.TAB)
            else:
                second[n].click()
            hand._type(place)
        page.until("document.querySelector('[data-testid=tried]')?.innerText.includes('of the page')")
        hand.press("Save", "button", within)
        page.sees("fields")
        hand.press("Close", "button", within)
    hand.run("Lift all", "r")
    idle(page, "lift")
    # markup: two steps, until nothing is lost but on purpose
    hand.stage(4, "Refit")
    hand.run("Refit all", "r")
    idle(page, "refit")
    hand.press("Steps", "link", "nav.tabs")
    hand.press("+ step")
    for name, selector in (("cookie bar", "#cookies"), ("share box", ".share")):
        hand.write("Name of the step", name)
        hand.write("It finds", selector)
        hand.press("Add and refit")
        page.until(
            "[...document.querySelectorAll('[aria-label=Steps] b')].some(b => b.innerText === arguments[0])", name
        )
        idle(page, "refit")
    # the target
    hand.stage(6, "Land")
    hand.press("Target", "link", "nav.tabs")
    hand.write("Base address of the new system", app.new)
    hand.write("New address of files", "/media/{name}")
    for label, type_ in (("News", "posts"), ("Engine", "engines"), ("Page", "pages")):
        hand.write(f"“{label}” is called there", type_)
    hand.press("Save")
    page.sees("Saved.")
    idle(page, "route")
    # fates: reasons for what is left out, a rule for a shape, and the rest one by one
    hand.stage(5, "Route")
    hand.press("Rules", "link", "nav.tabs")
    hand.write("Addresses of this pattern", r"/(?:style\.css|flip\.js|img/.*|sitemap\.xml|news\.rss)")
    hand.write("Why", "the new system makes its own")
    hand.press("Set aside", "button", "[aria-label='Set aside'] form")
    page.sees("the new system makes its own")
    hand.fresh("+ rule") if isinstance(hand, Keyboard) else hand.press("+ rule")
    hand.write("Old", "/news/", "form[aria-label=Rule]")
    hand.write("New", "/news/", "form[aria-label=Rule]")
    page.until("document.querySelector('[data-testid=rule-effect]') !== null")
    hand.press("Make this rule")
    page.until("document.querySelectorAll('[aria-label=Rules] tbody tr').length >= 1")
    idle(page, "route")
    hand.press("Open", "link", "nav.tabs")
    for _ in range(40):
        idle(page, "route")
        page.until("document.querySelector('[aria-label=\"Open addresses\"] h2 small') !== null")
        left = page.js("return fetch(`/api/crossings/${location.pathname.split('/')[2]}/open`).then(r => r.json())")
        keys = [row["key"] for group in left for row in group["rows"] if row["fate"] == "unaccounted"]
        if not keys:
            break
        page.until("[...document.querySelectorAll('.grp .row .mono')].some(e => e.innerText === arguments[0])", keys[0])
        hand.decide(keys[0], PLACES.get(keys[0], "/news/" if keys[0].startswith("/news/?") else "gone"))
        # the next address is shown when this one is decided; before that, all is as it was
        page.until("document.querySelector('[aria-label=Decision] h2')?.innerText.trim() !== arguments[0]", keys[0])
    page.sees("0 unaccounted")
    # one dry run, the landing, the check
    hand.stage(6, "Land")
    hand.press("Landings", "link", "nav.tabs")
    hand.run("Dry run", "t")
    idle(page, "land")
    page.sees("would create")
    hand.run("Land all", "r")
    page.until("document.querySelectorAll('[aria-label=\"All landings\"] .card').length === 2", seconds=60)
    idle(page, "land")
    hand.stage(5, "Route")
    hand.run("Check", "r")
    idle(page, "check")
    # landing pages that say something else than the old ones did are a person's to settle
    hand.press("Rounds", "link", "nav.tabs")
    page.until("document.querySelectorAll('.filters .chip').length > 1", seconds=30)
    settle(hand, page, "doubtful")
    settle(hand, page, "wrong page")
    page.until("document.querySelector('.fun').innerText.trim() === '0 unaccounted'", seconds=30)
    account = page.js("return fetch('/api/crossings').then(r => r.json())")[1]
    assert account["name"] == "By hand" and account["addresses"] > 80
    assert all(f["planned"] == 0 for f in account["account"])
    assert sum(f["proven"] for f in account["account"]) == account["addresses"]
