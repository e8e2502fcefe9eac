"""Bounds: what is kept out is counted and can be let in; the cap is kept; spaces without end are recognised."""

from __future__ import annotations

import random
from collections.abc import Callable
from typing import Any

import pytest

from grandferry.core.address import loose_shape, repeats
from grandferry.core.errors import FerryError
from grandferry.core.keptout import KeptOut, LetIn
from grandferry.core.side import Side
from grandferry.store import crossings
from grandferry.store.db import one, rows
from grandferry.store.survey import keptout
from grandferry.work.survey.bounds import effect, let_in, letting_in
from tests.servers import apps, pages_app

Make = Callable[..., int]
Run = Callable[..., dict[str, Any]]
LONG = (
    "The line climbs from the quay past the goods shed and the old water tower to the junction, and there it waits. "
    * 3
)


def change(crossing: int, **survey: Any) -> None:
    plan = crossings.load_plan(crossing)
    data = plan.model_dump(mode="json")
    data["survey"].update(survey)
    crossings.save_plan(crossing, type(plan).model_validate(data), [])


def test_the_cap_is_kept_exactly_and_files_of_captured_pages_still_come(cross: Make, work: Run) -> None:
    site: dict[str, Any] = {f"/p{n}": f"<p>page {n}</p><img src=/i{n}.png>" for n in range(30)}
    site |= {f"/i{n}.png": (200, {"Content-Type": "image/png"}, b"\x89PNG") for n in range(30)}
    site["/"] = "".join(f"<a href=/p{n}>{n}</a>" for n in range(30))
    with apps(pages_app(site)) as (port,):
        crossing = cross(
            {"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"max_pages": 10, "sitemaps": False}}
        )
        result = work("survey", crossing)
    assert result["pages"] == 10 and result["files"] == 9
    assert result["stopped_at_cap"] == 10 and result["not_visited"] == 21


def calendar(seen: list[str] | None = None) -> dict[str, Any]:
    def month(n: int) -> str:
        return f"{2020 + n // 12}-{n % 12 + 1:02}"

    site: dict[str, Any] = {
        f"/calendar?m={month(n)}": f"<title>{month(n)}</title><h1>{month(n)}</h1><p>{LONG}</p><a href=/calendar?m={month(n + 1)}>next</a>"
        + (f"<a href=/event{n}>e</a>" if n in (2, 5) else "")
        for n in range(400)
    }
    site |= {f"/event{n}": f"<p>event {n}</p>" for n in (2, 5)}
    site["/"] = "<a href=/calendar?m=2020-01>calendar</a><a href=/story/1.htm>stories</a>"
    words = LONG.split()
    for n in range(1, 61):  # a chain of real stories, each linked only from the one before
        text = " ".join(random.Random(n).sample(words, len(words)))
        site[f"/story/{n}.htm"] = f"<p>{text}</p><a href=/story/{n + 1}.htm>next</a>"
    site["/story/61.htm"] = "<p>the end</p>"
    return site


def test_a_calendar_without_end_is_capped_and_a_chain_of_stories_is_not(cross: Make, work: Run) -> None:
    seen: list[str] = []
    with apps(pages_app(calendar(), seen)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        result = work("survey", crossing)
        months = [path for path in seen if path.startswith("/calendar")]
        assert 30 <= len(months) <= 60, "capped long before its end"
        assert one("SELECT count(*) FROM address WHERE key LIKE '/story/%' AND state = 'done'") == 61
        assert one("SELECT count(*) FROM address WHERE key LIKE '/event%' AND state = 'done'") == 2
        assert result["shut_out"] == {"endless space": 1}
        said = rows("SELECT text FROM event WHERE kind = 'warning'")
        assert "/calendar?m=#" in said[0][0]

        seen.clear()
        work("survey", crossing)
        assert not [path for path in seen if path.startswith("/calendar")], "still left out in the next run"

        change(crossing, endless=[{"shape": "/calendar?m=#", "take": True}])
        work("survey", crossing)
    assert one("SELECT count(*) FROM address WHERE key LIKE '/calendar%' AND state = 'done'") == 401
    assert one("SELECT count(*) FROM shut_out") == 0


def test_pages_of_their_own_text_are_no_endless_space_however_alike(cross: Make, work: Run) -> None:
    """A long template with a paragraph of its own on each page, linked one to the next: nothing of it may be left out."""
    words = LONG.split()
    site: dict[str, Any] = {"/": "<a href=/entry?id=1>entries</a>"}
    for n in range(1, 91):
        own = " ".join(random.Random(n).sample(words, 12))
        site[f"/entry?id={n}"] = f"<p>{LONG}</p><p>{own}</p><p>{LONG}</p>" + (
            f"<a href=/entry?id={n + 1}>next</a>" if n < 90 else ""
        )
    with apps(pages_app(site)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        result = work("survey", crossing)
    assert result["pages"] == 91 and result["shut_out"] == {}


def test_shapes_that_scripts_make() -> None:
    assert loose_shape("/s/8f3ac1d2e/list.htm?b=1&a=x") == "/s/*/list.htm?a=*&b=#"
    assert loose_shape("/calendar?m=2031-04") == loose_shape("/calendar?m=2020-11")
    assert loose_shape("/engines/list.htm") != loose_shape("/shop/list.htm")
    assert repeats("/a/a/a/a/x.htm") and repeats("/x/a/b/a/b/a/b/a/b/") and not repeats("/a/b/a/c/a/b/")


def test_a_path_that_goes_in_a_circle_is_kept_out(cross: Make, work: Run) -> None:
    class Circle(dict[str, Any]):
        def get(self, path: str, default: Any = None) -> Any:
            return f"<p>{path}</p><a href=deeper/>more</a>" if path.endswith("/") else default

    with apps(pages_app(Circle())) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        result = work("survey", crossing)
    assert result["pages"] == 4 and result["shut_out"] == {"repeats itself": 1}


def test_let_in_from_what_is_kept_out_keeps_who_links_to_it(cross: Make, work: Run) -> None:
    other = pages_app({f"/{n}.png": (200, {"Content-Type": "image/png"}, b"\x89PNG") for n in range(21)})
    site: dict[str, Any] = {}
    with apps(other, pages_app(site)) as (files, port):
        sister = f"127.0.0.1:{files}"
        site["/"] = (
            "".join(f'<img src="http://{sister}/{n}.png" alt="Plate {n}">' for n in range(21))
            + f"<a href=http://{sister}/>x</a>"
        )
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        assert work("survey", crossing)["shut_out"] == {"other host": 22}
        assert one("SELECT count(*) FROM out_reference") == 22
        plan = crossings.load_plan(crossing)
        data = plan.model_dump(mode="json")
        data["old"]["file_hosts"] = [sister]
        crossings.save_plan(crossing, type(plan).model_validate(data), [])
        result = work("survey", crossing)
    assert result["files"] == 21 and result["shut_out"] == {"other host": 1}
    assert rows("SELECT r.words FROM reference r JOIN address a ON a.id = r.target_id WHERE a.key = '/4.png'") == [
        ("Plate 4",)
    ]
    assert (
        one("SELECT in_links FROM address WHERE key = '/4.png'") == 1 and one("SELECT count(*) FROM out_reference") == 1
    )


def test_narrower_bounds_keep_out_what_waits(cross: Make, work: Run) -> None:
    site: dict[str, Any] = {f"/{tree}/p{n}": f"<p>{tree} {n}</p>" for tree in ("en", "fr") for n in range(10)}
    site["/"] = "".join(f"<a href={path}>x</a>" for path in site)
    with apps(pages_app(site)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"max_pages": 1, "sitemaps": False}})
        assert work("survey", crossing)["not_visited"] == 20
        change(crossing, max_pages=1000, exclude=["^/fr/"])
        result = work("survey", crossing)
    assert result["pages"] == 11 and result["shut_out"] == {"excluded by pattern": 10}
    assert one("SELECT count(*) FROM address WHERE state = 'shut out'") == 10


def test_a_sub_domain_gives_pages_when_asked_for(cross: Make, work: Run) -> None:
    site: dict[str, Any] = {"/only": "<p>below</p>"}
    with apps(pages_app(site)) as (port,):
        site["/"] = f"<p>home</p><a href=http://shop.old.localhost:{port}/only>s</a>"
        plan = {"old": {"start": f"http://old.localhost:{port}/"}, "survey": {"sitemaps": False}}
        crossing = cross(plan)
        assert work("survey", crossing)["shut_out"] == {"other host": 1}
        change(crossing, subdomains=True)
        result = work("survey", crossing)
    assert result["pages"] == 2 and result["shut_out"] == {}


def test_who_links_to_what_is_kept_out(cross: Make, work: Run) -> None:
    site: dict[str, Any] = {
        "/": "<p>home</p><a href=/private/x>p</a><a href=http://else.test/y>e</a><a href=/b>b</a>",
        "/b": "<p>b</p><a href=/private/x>p</a><script src=http://else.test/s.js></script>",
        "/robots.txt": (200, {"Content-Type": "text/plain"}, b"User-agent: *\nDisallow: /private/"),
    }
    with apps(pages_app(site)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        work("survey", crossing)
    total, found = keptout.window(Side(crossing), "", "", "", 0, 10)
    assert total == 3
    by_end = {row.url.rsplit("/", 1)[1]: row for row in found}
    assert (by_end["x"].reason, by_end["x"].pages, by_end["x"].source_key) == ("robots.txt", 2, "/")
    assert (by_end["y"].pages, by_end["y"].how) == (1, "a")
    assert (by_end["s.js"].source_key, by_end["s.js"].wants_file) == ("/b", True)
    assert [row.url for row in keptout.window(Side(crossing), "else.test", "other host", "s.js", 0, 10)[1]] == [
        "http://else.test/s.js"
    ]
    with pytest.raises(FerryError, match="act for the owner"):
        let_in(Side(crossing), f"127.0.0.1:{port}", KeptOut.ROBOTS, LetIn.THESE, [], "Ann")
    assert (
        let_in(Side(crossing), "else.test", KeptOut.OTHER_HOST, LetIn.FILES, [], "Ann") == "files of else.test let in"
    )
    plan = crossings.load_plan(crossing)
    assert plan.old.file_hosts == ["else.test"]
    assert dict(effect(Side(crossing), plan).let_in) == {"other host": 1}
    assert letting_in(Side(crossing), plan).let_in == effect(Side(crossing), plan).let_in, (
        "also when nothing else is weighed"
    )
    plan.survey.exclude = ["^/b$"]
    weighed = effect(Side(crossing), plan)
    assert dict(weighed.shut_out) == {"excluded by pattern": 1} and weighed.captured == 1
