"""A second survey of the same site: what was added, what changed and how, what is gone; asked only what it must."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from typing import Any

import pytest
from aiohttp import web

from grandferry.core.side import Side
from grandferry.store import crossings, jobs, secrets
from grandferry.store.db import rows
from grandferry.store.lists import details, waits
from grandferry.store.survey import runs, sounded
from grandferry.work.refit.preview import capture_texts
from tests.servers import apps, pages_app

Run = Callable[..., dict[str, Any]]
Make = Callable[..., int]


class Site:
    """Pages that may change between two surveys; with entity tags, and a log of what was asked and answered."""

    def __init__(self, pages: dict[str, str], tags: bool = True):
        self.pages, self.tags = pages, tags
        self.asked: list[tuple[str, int]] = []
        self.broken: dict[str, int] = {}

    def app(self) -> web.Application:
        async def answer(request: web.Request) -> web.Response:
            made = self._answer(request)
            self.asked.append((request.path, made.status))
            return made

        app = web.Application()
        app.router.add_route("*", "/{rest:.*}", answer)
        return app

    def _answer(self, request: web.Request) -> web.Response:
        text = self.pages.get(request.path)
        if request.path in self.broken:
            return web.Response(status=self.broken[request.path])
        if text is None:
            return web.Response(status=404, text="nothing here")
        if text.startswith("-> "):
            return web.Response(status=301, headers={"Location": text[3:]})
        tag = f'"{hash(text)}"'
        if self.tags and request.headers.get("If-None-Match") == tag:
            return web.Response(status=304, headers={"ETag": tag})
        headers = {"ETag": tag} if self.tags else {}
        return web.Response(text=text, content_type="text/html", headers=headers)


def page(n: int, more: str = "", title: str = "") -> str:
    return f"<title>{title or f'Page {n}'}</title><a href=/>home</a><p>Text of page {n}.{more}</p>"


def first(cross: Make, work: Run, site: Site, port: int) -> int:
    crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
    work("survey", crossing)
    site.asked.clear()
    return crossing


def pages_of(count: int) -> dict[str, str]:
    links = "".join(f"<a href=/p{n}>{n}</a>" for n in range(count))
    return {"/": f"<title>Home</title>{links}", **{f"/p{n}": page(n) for n in range(count)}}


def told(crossing: int, run: int = 2) -> dict[str, tuple[str, list[str]]]:
    return {row.key: (row.change, row.what) for row in runs.changed(Side(crossing), run, 0, 100)[1]}


def test_a_start_that_is_knocked_at_is_held_against_its_capture_like_any_other(cross: Make, work: Run) -> None:
    """With access given it is asked first of all, before it is known what changes at every request."""
    asked = itertools.count(1)

    async def answer(request: web.Request) -> web.Response:
        if request.headers.get("X-Key") != "open":
            return web.Response(status=401)
        if request.path not in ("/", "/a", "/b"):
            return web.Response(status=404)
        links = "<a href=/a>a</a><a href=/b>b</a>" if request.path == "/" else ""
        text = f"<title>{request.path}</title><p>Some words.</p>{links}<footer>Visitor {next(asked)}</footer>"
        return web.Response(text=text, content_type="text/html")

    app = web.Application()
    app.router.add_route("*", "/{rest:.*}", answer)
    with apps(app) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        secrets.give(crossing, secrets.Secret(f"127.0.0.1:{port}", "header", "X-Key", "open"))
        assert work("survey", crossing)["pages"] == 3
        assert work("survey", crossing, again=True)["changes"] == {}


def test_what_was_closed_or_broken_and_is_so_still_is_no_change(cross: Make, work: Run) -> None:
    pages = pages_of(6)
    pages["/p3"] = "<title>Sign in</title><form action=/login><input name=n><input type=password name=p></form>"
    site = Site(pages)
    site.broken = {"/p1": 500, "/p2": 403}
    with apps(site.app()) as (port,):
        crossing = first(cross, work, site, port)
        for _ in range(2):
            before = rows("SELECT key, status, type, reason FROM address ORDER BY key")
            assert work("survey", crossing, again=True)["changes"] == {}
            assert rows("SELECT key, status, type, reason FROM address ORDER BY key") == before
        site.broken = {"/p1": 403}
        assert work("survey", crossing, again=True)["changes"] == {"no answer": 1, "added": 1}


def test_exactly_what_was_added_changed_and_removed_is_named(cross: Make, work: Run) -> None:
    site = Site(pages_of(12))
    with apps(site.app()) as (port,):
        crossing = first(cross, work, site, port)
        before = rows("SELECT count(*) FROM capture")[0][0]
        del site.pages["/p3"]
        site.pages["/p5"] = page(5, " One sentence more.")
        site.pages["/p6"] = page(6) + "<a href=/p12>new</a>"
        site.pages["/p12"] = page(12)
        result = work("survey", crossing, again=True)
    assert told(crossing) == {
        "/p3": ("gone", ["answer"]),
        "/p5": ("changed", ["text"]),
        "/p6": ("changed", ["text", "links"]),
        "/p12": ("added", []),
    }
    assert result["changes"] == {"gone": 1, "changed": 2, "added": 1} and result["run"] == 2
    answers = [status for path, status in site.asked if path.startswith("/p") or path == "/"]
    assert sorted(answers) == [200, 200, 200] + [304] * 10 + [404]
    assert rows("SELECT count(*) FROM capture")[0][0] == before + 3  # the gone page's last content stays the latest
    detail = details.address(crossing, rows("SELECT id FROM address WHERE key = '/p5'")[0][0])
    assert len(detail.captures) == 2 and detail.row.words == 8
    earlier, later = (capture.id for capture in detail.captures)
    was = "Page 5 home Text of page 5."
    assert capture_texts(crossing, detail.row.id, earlier, later) == (was, f"{was} One sentence more.")
    linked = details.address(crossing, rows("SELECT id FROM address WHERE key = '/p12'")[0][0])
    assert [link.url.rpartition("/")[2] for link in linked.links_in] == ["p6"]
    assert rows("SELECT in_links FROM address WHERE key = '/'")[0][0] == 12  # eleven pages still there, one new


def test_a_gone_page_stays_in_the_account_and_a_third_survey_is_quiet(cross: Make, work: Run) -> None:
    site = Site(pages_of(4), tags=False)
    with apps(site.app()) as (port,):
        crossing = first(cross, work, site, port)
        assert crossings.counted(crossing) == 5
        del site.pages["/p3"]
        work("survey", crossing, again=True)
        assert told(crossing) == {"/p3": ("gone", ["answer"])} and crossings.counted(crossing) == 5
        work("survey", crossing, again=True)
        assert told(crossing, 3) == {} and crossings.counted(crossing) == 5
        site.pages["/p3"] = page(3)
        work("survey", crossing, again=True)
    assert told(crossing, 4) == {"/p3": ("back", ["answer"])}
    assert [run.changes for run in runs.runs(Side(crossing))] == [{}, {"gone": 1}, {}, {"back": 1}]
    assert all(run.ended for run in runs.runs(Side(crossing)))


def test_title_files_redirects_and_silence_are_told_apart(cross: Make, work: Run) -> None:
    site = Site(pages_of(5) | {"/p3": "-> /p1", "/pic.png": "picture"})
    with apps(site.app()) as (port,):
        crossing = first(cross, work, site, port)
        site.pages |= {"/p0": page(0, title="Another title"), "/p1": page(1) + "<img src=/pic.png>", "/p3": "-> /p2"}
        site.pages["/p2"] = page(2).replace("<p>", '<p class="x">')
        site.broken["/p4"] = 500
        result = work("survey", crossing, again=True)
    assert told(crossing) == {
        "/p0": ("changed", ["title"]),
        "/p1": ("changed", ["files"]),
        "/p2": ("changed", ["markup"]),
        "/p3": ("changed", ["answer"]),
        "/p4": ("no answer", ["answer"]),
        "/pic.png": ("added", []),
    }
    assert result["changes"]["no answer"] == 1
    row = details.address(crossing, rows("SELECT id FROM address WHERE key = '/p4'")[0][0]).row
    assert row.status == 200 and row.reason == "not answered in the last survey: answers 500"
    assert rows("SELECT count(*) FROM address WHERE capture IS NULL AND state = 'done'")[0][0] == 0


def test_without_again_an_ended_survey_asks_nothing_twice(cross: Make, work: Run) -> None:
    site = Site(pages_of(3))
    with apps(site.app()) as (port,):
        crossing = first(cross, work, site, port)
        result = work("survey", crossing)
    assert not any(path.startswith("/p") for path, _ in site.asked) and result["run"] == 1


def test_a_sign_in_page_in_the_place_of_a_page_leaves_its_content_alone(cross: Make, work: Run) -> None:
    site = Site(pages_of(3), tags=False)
    with apps(site.app()) as (port,):
        crossing = first(cross, work, site, port)
        site.pages["/p1"] = "<title>Sign in</title><form><input type=password></form>"
        work("survey", crossing, again=True)
    assert told(crossing) == {"/p1": ("no answer", ["answer"])}
    row = details.address(crossing, rows("SELECT id FROM address WHERE key = '/p1'")[0][0]).row
    assert (row.title, row.type, row.status) == ("Page 1", "page", 200) and "sign-in needed" in row.reason


def test_a_host_that_only_refuses_is_left_alone_and_asked_in_the_next_run(cross: Make, work: Run) -> None:
    site = Site(pages_of(60))
    busy = {"now": False}

    async def answer(request: web.Request) -> web.Response:
        if busy["now"] and request.path.startswith("/p"):
            return web.Response(status=429, headers={"Retry-After": "0"})
        return site._answer(request)

    app = web.Application()
    app.router.add_route("*", "/{rest:.*}", answer)
    with apps(app) as (port,):
        crossing = cross(
            {
                "old": {"start": f"http://127.0.0.1:{port}/"},
                "survey": {"sitemaps": False},
                "manners": {"delay": 0, "at_once": 1, "timeout": 5},
            }
        )
        work("survey", crossing)
        busy["now"] = True
        result = work("survey", crossing, again=True)
        assert result["left_alone"] == {f"127.0.0.1:{port}": result["not_visited"]} and result["not_visited"] > 40
        assert waits.waiting(Side(crossing)) == result["not_visited"] and not runs.runs(Side(crossing))[-1].ended
        busy["now"] = False
        site.pages["/p50"] = page(50, " More.")
        again = work("survey", crossing)
    assert again["run"] == 2 and again["not_visited"] == 0 and told(crossing)["/p50"] == ("changed", ["text"])
    assert waits.waiting(Side(crossing)) == 0 and runs.runs(Side(crossing))[-1].ended


CHECK = "<title>One moment</title><p>Please verify that you are human."


@pytest.mark.parametrize(
    "wall", [(403, b"no"), (429, b"slowly"), (200, b"<title>One moment</title><p>Please verify that you are a human.")]
)
def test_a_ban_in_a_later_survey_changes_nothing_and_is_asked_again(
    cross: Make, work: Run, wall: tuple[int, bytes], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("grandferry.net.manners.STEP", 0.002)
    monkeypatch.setattr("grandferry.net.manners.BACKOFF", 0.001)
    pages, asked, banned = 150, 0, False
    links = "".join(f"<a href=/p{n}>{n}</a>" for n in range(pages))

    async def answer(request: web.Request) -> web.Response:
        nonlocal asked
        asked += 1
        if banned and asked > 20:
            return web.Response(status=wall[0], body=wall[1], content_type="text/html")
        text = links if request.path == "/" else f"<title>Page {request.path}</title><p>What {request.path} says"
        return web.Response(text=text, content_type="text/html")

    app = web.Application()
    app.router.add_route("*", "/{rest:.*}", answer)
    with apps(app) as (port,):
        crossing = cross(
            {
                "old": {"start": f"http://127.0.0.1:{port}/"},
                "manners": {"delay": 0, "at_once": 4},
                "survey": {"sitemaps": False},
            }
        )
        assert work("survey", crossing)["pages"] == pages + 1
        asked, banned = 0, True
        result = work("survey", crossing, again=True)
        assert result["left_alone"] and result["not_visited"] > 100 and result["changes"] == {}
        assert rows("SELECT count(*) FROM address WHERE title LIKE 'Page /p%'") == [(pages,)], "nothing is lost by it"
        asked, banned = 0, False
        result = work("survey", crossing, again=True)
    assert (result["run"], result["not_visited"], result["changes"]) == (2, 0, {})
    assert asked > 100, "what was refused is asked again"


@pytest.mark.parametrize(
    ("wall", "said"),
    [
        ((403, {}, b"no"), "refused"),
        ((200, {"Content-Type": "text/html"}, CHECK.encode()), "checked the visitor"),
        ((200, {"Content-Type": "text/html"}, b""), "checked the visitor"),
        (
            (200, {"Content-Type": "text/html"}, b"<title>Farm</title><p>Welcome to the farm shop of the week"),
            "the same page",
        ),
    ],
)
def test_a_ban_is_noticed_whatever_its_code_and_asked_again_by_the_next_run(
    cross: Make, work: Run, wall: Any, said: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    """After ten good answers the host turns us away; later it lets us in again."""
    monkeypatch.setattr("grandferry.net.manners.STEP", 0.002)
    pages = 400
    links = "".join(f"<a href=/p{n}>{n}</a>" for n in range(pages))
    answered, banned = 0, True

    async def answer(request: web.Request) -> web.Response:
        nonlocal answered
        answered += request.path != "/robots.txt"
        if banned and answered > 10:
            return web.Response(status=wall[0], headers=wall[1], body=wall[2])
        if request.path == "/":
            return web.Response(text=links, content_type="text/html")
        return web.Response(
            text=f"<title>Page {request.path}</title><p>What {request.path} says", content_type="text/html"
        )

    app = web.Application()
    app.router.add_route("*", "/{rest:.*}", answer)
    with apps(app) as (port,):
        crossing = cross(
            {
                "old": {"start": f"http://127.0.0.1:{port}/"},
                "manners": {"delay": 0, "at_once": 8},
                "survey": {"sitemaps": False},
            }
        )
        result = work("survey", crossing)
        told = [line.text for line in jobs.log_lines(crossing, 0, 200, "")]
        assert result["not_visited"] > 250 and result["left_alone"], "it is left alone at once, also without delay"
        assert any(said in text and "going slower" in text for text in told)
        assert any(said in text and "left alone" in text for text in told)
        walls = "title IN ('One moment', 'Farm')"
        assert rows(f"SELECT count(*) FROM address WHERE {walls}") == [(0,)] and answered < 140, "no wall is content"
        banned = False
        result = work("survey", crossing, again=True)
    assert result["not_visited"] == 0 and result["pages"] == pages + 1
    assert rows("SELECT count(*) FROM address WHERE title LIKE 'Page /p%'") == [(pages,)]


@pytest.mark.parametrize(
    "wall",
    [
        "<title>Checking your browser</title><p>Just a moment",
        "<title>Farm</title><p>Welcome to the farm shop",
        (403, {}, b"<h1>Forbidden</h1>"),
    ],
)
def test_a_small_site_that_turns_us_away_at_its_end_is_asked_again(
    cross: Make, work: Run, monkeypatch: pytest.MonkeyPatch, wall: Any
) -> None:
    """When nothing else is left to ask, what was turned away still waits, and the survey says so; what answers in the
    same way when it is asked again is the site's own answer."""
    monkeypatch.setattr("grandferry.net.manners.STEP", 0.002)
    site: dict[str, Any] = {f"/p{n}": f"<title>Page {n}</title><p>Number {n}" for n in range(30)}
    site["/"] = "<a href=/p0>first</a>"
    site["/p0"] = "<title>Page 0</title>" + "".join(f"<a href={key}>{key}</a>" for key in site)
    served = site | {f"/p{n}": wall for n in range(1, 30)}
    with apps(pages_app(served)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "manners": {"delay": 0, "at_once": 32}})
        result = work("survey", crossing)
        assert result["not_visited"] == 29 and result["left_alone"] == {f"127.0.0.1:{port}": 29}
        assert "29 known addresses" in runs.runs(Side(crossing, "old"))[-1].stopped
        assert rows("SELECT count(*) FROM address WHERE title IN ('Farm', 'Checking your browser')") == [(0,)]
        served.update(site)
        result = work("survey", crossing)
        assert result["not_visited"] == 0 and result["pages"] == 31
        assert rows("SELECT count(*) FROM address WHERE title LIKE 'Page %'") == [(30,)]


def test_a_folder_that_is_closed_to_us_is_no_ban(cross: Make, work: Run, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("grandferry.net.manners.STEP", 0.002)
    keys = [f"/closed/{n}" for n in range(30)]
    site: dict[str, Any] = dict.fromkeys(keys, (403, {}, b"closed"))
    site |= {"/": "<a href=/list>list</a>", "/list": "".join(f"<a href={key}>{key}</a>" for key in keys)}
    with apps(pages_app(site)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "manners": {"delay": 0}})
        assert work("survey", crossing)["not_visited"] == 30, "it may be one"
        assert work("survey", crossing)["not_visited"] == 0, "the same answer again is the site's own"


def test_what_changes_at_every_request_is_no_change(cross: Make, work: Run) -> None:
    """Tokens, times and counters differ at each request; one page really changed, and a dead link leads somewhere."""
    pages = {f"/{folder}/{n}": f"Words of {folder} {n}" for folder in ("a", "b", "c", "d") for n in range(4)}
    asked = 0

    async def answer(request: web.Request) -> web.Response:
        nonlocal asked
        asked += 1
        text = "".join(f"<a href={key}>{key}</a>" for key in sorted({*pages, "/dead"})) if request.path == "/" else None
        text = text or pages.get(request.path)
        if text is None:
            return web.Response(status=404, text=f"<p>nothing, {asked}", content_type="text/html")
        made = (
            f"<head><title>{request.path}</title><meta name=token content={asked * 7919:x}></head><p>{text}</p>"
            f"<footer>Made {asked * 31} by number {asked}</footer><img src='/pixel.gif?p={request.path}&r={asked * 17}'>"
        )
        return web.Response(text=made, content_type="text/html")

    app = web.Application()
    app.router.add_route("*", "/{rest:.*}", answer)
    with apps(app) as (port,):
        scope = {"sitemaps": False, "exclude": ["pixel"]}
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "manners": {"delay": 0}, "survey": scope})
        work("survey", crossing)
        captures = rows("SELECT count(*) FROM capture")[0][0]
        asked = 5000
        pages["/b/2"] += ", and more"
        pages["/dead"] = "Alive"
        work("survey", crossing, again=True)
        assert told(crossing) == {"/b/2": ("changed", ["text"]), "/dead": ("added", [])}
        assert rows("SELECT count(*) FROM capture")[0][0] == captures + 2, "no other capture is taken for it"
        assert rows("SELECT counted, type, status FROM address WHERE key = '/dead'") == [(1, "page", 200)]
        lines = [line.text for line in jobs.log_lines(crossing, 0, 200, "")]
        assert any("count as unchanged: 16." in line for line in lines)
        said = sounded.soundings(Side(crossing, "old"))["changing"]["says"]
        assert any("token" in line for line in said) and any("parameter r" in line for line in said)
        asked = 9000
        work("survey", crossing, again=True)
        assert told(crossing, 3) == {}


ONE = "<title>Farm</title><p>Welcome to the farm shop"


def later(cross: Make, work: Run, site: dict[str, Any], then: dict[str, Any], at_once: int = 4) -> tuple[int, Any]:
    """A site surveyed, then surveyed again as another; the crossing and what the second survey comes to."""
    served = dict(site)
    with apps(pages_app(served)) as (port,):
        manners = {"delay": 0, "at_once": at_once}
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "manners": manners})
        work("survey", crossing)
        served.update(then)
        return crossing, work("survey", crossing, again=True)


def shop(count: int) -> dict[str, Any]:
    site: dict[str, Any] = {f"/p{n}": f"<title>Page {n}</title><p>Number {n} of the shop" for n in range(count)}
    return site | {"/": "<title>Shop</title>" + "".join(f"<a href={key}>{key}</a>" for key in site)}


def facts_of(crossing: int) -> list[Any]:
    return rows(
        "SELECT a.key, a.title, a.type, a.status, a.target, a.capture * (a.status = 200), f.facts, (SELECT count(*) FROM reference r WHERE r.source_id = a.id)"
        " FROM address a LEFT JOIN page_facts f ON f.address_id = a.id WHERE a.crossing_id = ? ORDER BY a.key",
        crossing,
    )


@pytest.mark.parametrize("at_once", [1, 4, 16])
@pytest.mark.parametrize(("count", "from_"), [(3, 0), (12, 4), (30, 2), (90, 7), (120, 110)])
def test_one_page_for_all_replaces_nothing_of_an_earlier_survey(
    cross: Make, work: Run, monkeypatch: pytest.MonkeyPatch, count: int, from_: int, at_once: int
) -> None:
    """However small the site is, wherever the wall begins, and though pages come between: what was captured stays whole
    (title, facts, references), nothing is told as changed, and the next run asks again."""
    monkeypatch.setattr("grandferry.net.manners.STEP", 0.001)
    site = shop(count)
    site["/"] += "<a href=/moved1>1</a><a href=/moved2>2</a><a href=/dead1>1</a><a href=/dead2>2</a>"
    wall, walled = False, False

    async def answer(request: web.Request) -> web.Response:
        nonlocal walled
        walled = wall and (walled or request.path == f"/p{from_}")
        if not walled and request.path.startswith("/moved"):
            return web.Response(status=301, headers={"Location": request.path.replace("moved", "p")})
        text = ONE if walled and request.path != "/robots.txt" else site.get(request.path, "")
        return web.Response(text=text, content_type="text/html", status=200 if text else 404)

    app = web.Application()
    app.router.add_route("*", "/{rest:.*}", answer)
    with apps(app) as (port,):
        manners = {"delay": 0, "at_once": at_once}
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "manners": manners})
        work("survey", crossing)
        known = facts_of(crossing)
        wall = True
        result = work("survey", crossing, again=True)
        assert result["left_alone"] and result["not_visited"] >= count - from_ - at_once and result["changes"] == {}
        assert facts_of(crossing) == known
        assert "turned us away" in runs.runs(Side(crossing))[-1].stopped
        wall = False
        result = work("survey", crossing)
    assert (result["run"], result["not_visited"], result["changes"]) == (2, 0, {}) and facts_of(crossing) == known


def test_a_wall_between_good_pages_is_held_back_as_well(cross: Make, work: Run) -> None:
    """Every third page, and the start at last, give the one page; the others have changed."""
    site = shop(36)
    then: dict[str, Any] = {
        f"/p{n}": ONE if n % 3 == 0 else f"<title>New {n}</title><p>Otherwise {n}" for n in range(36)
    }
    crossing, result = later(cross, work, site, then | {"/": ONE})
    assert rows("SELECT count(*) FROM address WHERE title = 'Farm'") == [(0,)]
    changed = rows("SELECT count(*) FROM address WHERE change = 'changed'")[0][0]
    assert changed + result["not_visited"] == 37 and result["not_visited"] >= 13


def test_the_sites_own_one_page_is_a_change(cross: Make, work: Run) -> None:
    """Sixty pages that were taken down for one and the same notice, while the rest is as it was."""
    then: dict[str, Any] = {f"/p{n}": "<title>Ended</title><p>This offer has ended" for n in range(5, 65)}
    crossing, result = later(cross, work, shop(70), then)
    assert result["not_visited"] == 0 and result["changes"] == {"changed": 60}
    assert rows("SELECT count(*) FROM address WHERE title = 'Ended'") == [(60,)]


def test_many_pages_that_are_gone_and_answer_200_are_no_ban(cross: Make, work: Run) -> None:
    """The page that a made-up address gets is the site's own answer, in a row of fifty as well."""
    missing = "<title>Nothing here</title><p>There is no such page in our shop, we are sorry to say"
    pages: dict[str, Any] = shop(80)
    gone: set[str] = set()

    async def answer(request: web.Request) -> web.Response:
        text = missing if request.path in gone else pages.get(request.path, missing)
        return web.Response(text=text, content_type="text/html")

    app = web.Application()
    app.router.add_route("*", "/{rest:.*}", answer)
    pages["/"] += "".join(f"<a href=/never{n}>{n}</a>" for n in range(60))
    with apps(app) as (port,):
        settings = {"delay": 0, "at_once": 4}
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "manners": settings})
        result = work("survey", crossing)
        assert "left_alone" not in result and result["pages"] == 81
        gone |= {f"/p{n}" for n in range(10, 70)}
        result = work("survey", crossing, again=True)
    assert "left_alone" not in result and result["not_visited"] == 0
    assert rows("SELECT count(*) FROM address WHERE title LIKE 'Page %'") == [(80,)]
