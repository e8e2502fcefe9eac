"""Soundings, the trial, fitness, starting rules, error pages that answer 200, and a pause."""

from __future__ import annotations

import itertools
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from aiohttp import web

from grandferry.core.side import Side
from grandferry.core.survey.systems import guess
from grandferry.demo.material import Writer
from grandferry.store import changes, crossings, jobs
from grandferry.store.db import one, rows
from grandferry.store.survey import sounded
from grandferry.work.jobs.running import run_job
from grandferry.work.jobs.supervisor import Supervisor
from grandferry.work.plan.plans import bring_in
from grandferry.work.survey.fitness import NEVER, fitness
from tests.servers import apps, pages_app

Make = Callable[..., int]
Run = Callable[..., dict[str, Any]]
MARKED = (
    '<html lang=cy><head><title>Home</title><meta name=generator content="RailPages 7 (https://railpages.test)"></head>'
)


def site() -> dict[str, Any]:
    made: dict[str, Any] = {f"/p{n}": f"<title>Page {n}</title><p>words of page {n}</p>" for n in range(8)}
    made["/"] = MARKED + "".join(f"<a href=/p{n}>{n}</a>" for n in range(8)) + "<a href=/user/login>in</a>"
    made["/p1"] = "".join(f"<script src=/s{n}.js></script>" for n in range(6)) + "<div id=app></div>"
    made["/user/login"] = "<title>Log in</title><h1>Log in</h1><form><input type=password></form>"
    made["/robots.txt"] = (200, {"Content-Type": "text/plain"}, b"User-agent: *\nDisallow: /p7\nCrawl-delay: 0.01\n")
    made["/sitemap.xml"] = (
        200,
        {"Content-Type": "application/xml"},
        b"<urlset>" + b"".join(b"<url><loc>/p%d</loc></url>" % n for n in range(40)) + b"</urlset>",
    )
    return made


def test_a_trial_of_four_pages_leaves_the_counts_at_zero(cross: Make, work: Run) -> None:
    seen: list[str] = []
    with apps(pages_app(site(), seen)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}})
        result = work("sound", crossing, pages=4)
        found = sounded.soundings(Side(crossing))
        assert one("SELECT count(*) FROM address") == 0 and one("SELECT count(*) FROM capture") == 0
        assert len([path for path in seen if path.startswith("/p")]) == 3, "the start and three more"
    assert result["trial"] == 4
    assert [page["title"] for page in found["trial"]] == ["Home", "Page 0", "", "Page 2"]
    assert found["trial"][2]["note"] == "content may be built in the browser"
    assert found["start"]["systems"][0]["name"] == "RailPages"
    assert found["start"]["systems"][0]["marks"] == ["generator mark “RailPages 7 (https://railpages.test)”"]
    assert found["start"]["language"] == "cy" and found["start"]["login"] == ""
    assert found["robots"] == {"delay": 0.01, "sitemaps": [], "rules": 1, "start allowed": True}
    assert found["made-up address"]["status"] == 404
    assert found["estimate"]["pages"] == 40 and found["estimate"]["from"] == "sitemaps"


def test_a_survey_notes_what_its_start_says_as_soundings_do(cross: Make, work: Run) -> None:
    with apps(pages_app(site())) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}})
        work("survey", crossing)
        surveyed = sounded.soundings(Side(crossing))["start"]
        work("sound", crossing, pages=0)
        asked = sounded.soundings(Side(crossing))["start"]
    assert surveyed["systems"][0]["name"] == "RailPages" and surveyed["server"].startswith("Python")
    assert {name: surveyed[name] for name in asked} == asked


def test_variants_of_the_host_are_told_apart(cross: Make, work: Run) -> None:
    async def answer(request: web.Request) -> web.Response:
        if request.host.startswith("www."):
            raise web.HTTPMovedPermanently(f"http://{request.host[4:]}{request.path}")
        return web.Response(text="<p>home</p>", content_type="text/html")

    app = web.Application()
    app.router.add_route("*", "/{rest:.*}", answer)
    with apps(app) as (port,):
        crossing = cross({"old": {"start": f"http://old.localhost:{port}/"}})
        work("sound", crossing, pages=0)
    (variant,) = sounded.soundings(Side(crossing))["variants"]
    assert variant["url"] == f"http://www.old.localhost:{port}/" and variant["same"] and variant["status"] == 301


def test_other_names_of_a_host_are_one_server_whose_pages_tell_the_time(cross: Make, work: Run) -> None:
    """It is asked no sooner than its own name would be; a page that counts its visitors is one page, another text under
    the same title is not."""
    asked: list[float] = []

    async def answer(request: web.Request) -> web.Response:
        asked.append(time.monotonic())
        if request.path != "/":
            return web.Response(status=404)
        writer = Writer(4 if request.host.startswith("www.") and len(asked) > 6 else 3)
        words = " ".join(writer.paragraph() for _ in range(4))
        text = f"<title>Home</title><h1>Home</h1><p>{words}</p><p>Visitor {len(asked)} since {time.time():.3f}</p>"
        return web.Response(text=text, content_type="text/html")

    app = web.Application()
    app.router.add_route("*", "/{rest:.*}", answer)
    told = []
    with apps(app) as (port,):
        crossing = cross({"old": {"start": f"http://old.localhost:{port}/"}, "manners": {"delay": 0.2, "at_once": 1}})
        for _ in range(2):
            work("sound", crossing, pages=0)
            told.append(sounded.soundings(Side(crossing))["variants"][0]["says"])
            time.sleep(0.2)
    assert told == ["the same page", "another page"]
    assert min(b - a for a, b in itertools.pairwise(asked)) > 0.1, "it was 0.01 where another name was another server"


def test_starting_rules_hold_until_another_system_is_chosen(cross: Make, work: Run) -> None:
    with apps(pages_app(site())) as (port,):
        base = {"old": {"start": f"http://127.0.0.1:{port}/"}}
        crossing = cross({**base, "survey": {"preset": "pages with doors for editors"}})
        assert work("survey", crossing)["shut_out"] == {"excluded by pattern": 1, "robots.txt": 1}
        plan = crossings.load_plan(crossing)
        plan.survey.preset = ""
        crossings.save_plan(crossing, plan, [])
        assert work("survey", crossing)["shut_out"] == {"robots.txt": 1}
    assert rows("SELECT type, reason FROM address WHERE key = '/user/login'") == [("refused", "sign-in needed")]


def test_a_recognised_system_sets_its_starting_rules(cross: Make, work: Run, tmp_path: Path) -> None:
    """In the first survey, while nobody has chosen any; a person's word that there be none holds."""
    links = "<a href='/wiki.cgi?do=edit&page=home'>edit</a><a href=/page?rev=7>before</a><a href=/page>page</a>"
    wiki: dict[str, Any] = {"/": f"<title>Home</title>{links}", "/page": "<p>words", "/page?rev=7": "<p>older words"}
    wiki |= {"/wiki.cgi?do=edit&page=home": "<form><textarea>"}
    seen: list[str] = []
    with apps(pages_app(wiki, seen)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        result = work("survey", crossing)
        assert seen.count("/") == 1, "what recognised it is its capture"
        assert result["pages"] == 2 and result["shut_out"] == {"excluded by pattern": 1}
        plan = crossings.load_plan(crossing)
        assert plan.survey.preset == "wiki"
        assert "starting rules for wiki, recognised by" in changes.changes(crossing)[0].text
        assert any("Another system can be chosen" in line.text for line in jobs.log_lines(crossing, 0, 50, ""))
        plan.survey.preset = "other"
        changes.change_plan(crossing, plan, changes.revision(crossing), "Ada", "no starting rules")
        result = work("survey", crossing, again=True)
        assert result["shut_out"] == {} and crossings.load_plan(crossing).survey.preset == "other"
        none = cross({"name": "N", "old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"preset": "other"}})
        assert work("survey", none)["pages"] == 4
        start = f"{{start: 'http://127.0.0.1:{port}/', permission: {{by: Ada, date: today}}}}"
        (tmp_path / "plan.yaml").write_text(f"format: 1\nname: N2\nold: {start}\nmanners: {{delay: 0}}\n")
        first, _ = bring_in(tmp_path)
        work("survey", first.id)
        assert crossings.load_plan(first.id).survey.preset == "wiki"
        changed = changes.revision(first.id)
        bring_in(tmp_path)
        assert changes.revision(first.id) == changed, "the same plan again changes nothing"


def test_systems_are_named_with_their_marks() -> None:
    page = '<a href="/wiki.cgi?do=edit">change</a> <a href="/wiki.cgi?rev=17">before</a>'
    (found,) = guess("", page, {})
    assert found.name == "wiki" and found.known and len(found.marks) == 2
    (unknown,) = guess("Signalbox Site Builder 2.1", "", {})
    assert (unknown.name, unknown.known) == ("Signalbox Site Builder", False)
    assert guess("", "<p>nothing</p>", {"server": "nginx"}) == []


@pytest.mark.parametrize(
    ("mark", "name"),
    [
        ("Signalbox Site Builder 2.1", "Signalbox Site Builder"),
        ("Signalbox v3.0-beta2", "Signalbox"),
        ("Signalbox/4.7.1 (Unix)", "Signalbox"),
        ("Signalbox, version=3", "Signalbox"),
        ("Signalbox Version 12 build 7", "Signalbox"),
        ("Signalbox - Release 9", "Signalbox"),
        ("Signalbox CMS (2019)", "Signalbox CMS"),
        ("Web2Site 5", "Web2Site"),
        ("3D Pages 2.0", "3D Pages"),
        ("Signalbox! - pages for everybody", "Signalbox! - pages for everybody"),
        ("http://signalbox.test/?v=5.2", "http://signalbox.test"),
        ("7", "7"),
    ],
)
def test_a_system_is_named_however_its_version_is_written(mark: str, name: str) -> None:
    (found,) = guess(mark, "", {})
    assert found.name == name and mark in found.marks[0]
    (powered,) = guess("", "", {"x-powered-by": mark})
    assert powered.name == name


def test_a_mark_is_shown_whole() -> None:
    (found,) = guess("", "<p>see <a href='/old/viewtopic.php?t=17&amp;p=3#x'>this</a>", {})
    assert found.marks == ("“/old/viewtopic.php?t=17&amp;p=3#x” in the page",)


def test_fitness_names_the_pages_and_what_happens_to_each(cross: Make, work: Run) -> None:
    made: dict[str, Any] = {
        f"/form{n}": f"<p>write to us {n}</p><form action=/send><input name=a></form>" for n in range(3)
    }
    made["/map"] = "<p>where we are</p><iframe src=http://maps.test/x></iframe>"
    made["/"] = "<p>home</p>" + "".join(f"<a href={key}>x</a>" for key in made)
    with apps(pages_app(made)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}})
        work("survey", crossing)
    found = {finding.name: finding for finding in fitness(Side(crossing))}
    assert [key for _, key in found["forms"].examples] == ["/form0", "/form1", "/form2"]
    assert found["forms"].verdict == "by hand" and "wired up" in found["forms"].says
    embeds = found["embeds (maps, films, frames)"]
    assert [key for _, key in embeds.examples] == ["/map"] and embeds.verdict == "in part"
    assert any("colours" in line for line in NEVER) and not any("colour" in name for name in found)


def test_an_error_page_that_answers_200_is_no_content(cross: Make, work: Run) -> None:
    missing = (
        "<title>Oh dear</title><h1>Oh dear</h1><p>" + "This page has left the station without you, we are sorry. " * 6
    )

    class Soft(dict[str, Any]):
        def get(self, path: str, default: Any = None) -> Any:
            return super().get(path, missing + f"<p>{path}</p>" if not path.endswith(("robots.txt", ".xml")) else None)

    with apps(
        pages_app(Soft({"/": "<p>home</p><a href=/gone.htm>g</a><a href=/a.htm>a</a>", "/a.htm": "<p>a</p>"}))
    ) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}})
        result = work("survey", crossing)
    assert result["pages"] == 2
    assert rows("SELECT type, reason, title FROM address WHERE key = '/gone.htm'") == [
        ("refused", "error page that answers 200", "")
    ]
    assert one("SELECT body FROM capture c JOIN address a ON a.id = c.address_id WHERE key = '/gone.htm'") == ""


def test_a_pause_holds_and_the_survey_goes_on(cross: Make, workspace: Path) -> None:
    seen: list[str] = []

    async def answer(request: web.Request) -> web.Response:
        seen.append(request.path)
        links = "".join(f"<a href=/p{n}>x</a>" for n in range(400)) if request.path == "/" else ""
        return web.Response(text=f"<p>{request.path}</p>{links}", content_type="text/html")

    app = web.Application()
    app.router.add_route("*", "/{rest:.*}", answer)
    with apps(app) as (port,):
        crossing = cross(
            {
                "old": {"start": f"http://127.0.0.1:{port}/"},
                "manners": {"delay": 0.02, "at_once": 1},
                "survey": {"sitemaps": False},
            }
        )
        with Supervisor(workspace):
            done: list[dict[str, Any]] = []
            runner = threading.Thread(target=lambda: done.append(run_job("survey", crossing, {})))
            runner.start()
            while len(seen) < 20:
                time.sleep(0.01)
            jobs.wish(1, "pause")
            time.sleep(3)  # a worker hears of a wish with its heartbeat, every two seconds
            held = len(seen)
            time.sleep(1)
            assert len(seen) == held < 390, "nothing is asked during the pause"
            assert jobs.job(1).state == "running"
            jobs.wish(1, "")
            runner.join(60)
    assert done[0]["pages"] == 401 and len(seen) == len(set(seen))
