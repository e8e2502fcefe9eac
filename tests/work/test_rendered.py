"""Pages built by their scripts: captured through the real browser, behind our own proxy."""

from __future__ import annotations

import asyncio
import ssl
from collections.abc import Callable
from typing import Any
from urllib.parse import urljoin

import pytest
from aiohttp import web

from grandferry.core.side import Side
from grandferry.net.browser import find_browser
from grandferry.net.fetch import Fetched
from grandferry.net.proxy import Proxy
from grandferry.store import bodies, crossings, secrets
from grandferry.store.db import one, rows
from grandferry.store.lists import waits
from grandferry.store.survey import runs
from tests.servers import apps, pages_app

Make = Callable[..., int]
Run = Callable[..., dict[str, Any]]
SCRIPT = """fetch('/data.json').then(r => r.json()).then(d => {
  document.getElementById('app').innerHTML = '<h1>' + d.title + '</h1><p>' + d.text + '</p><a href="/later.htm">Later</a>';
  fetch('http://elsewhere.localhost:%d/spy').catch(() => 0);
});"""


def site(seen: list[tuple[str, str]], port: int = 0) -> web.Application:
    async def answer(request: web.Request) -> web.Response:
        seen.append((request.host + request.path, request.headers.get("User-Agent", "")))
        if request.headers.get("X-Key") != "made-up-key-77":
            return web.Response(status=403)
        if request.path == "/":
            return web.Response(text="<p>home</p><a href=/app.htm>a</a>", content_type="text/html")
        if request.path == "/app.htm":
            return web.Response(
                text="<title>App</title><div id=app></div><script src=/app.js></script>", content_type="text/html"
            )
        if request.path == "/app.js":
            return web.Response(text=SCRIPT % int(request.host.split(":")[1]), content_type="application/javascript")
        if request.path == "/data.json":
            return web.json_response(
                {"title": "Built here", "text": "These words stand in no answer of the server. " * 9}
            )
        if request.path == "/later.htm":
            return web.Response(text="<p>only the built page leads here</p>", content_type="text/html")
        return web.Response(status=404)

    app = web.Application()
    app.router.add_route("*", "/{rest:.*}", answer)
    return app


@pytest.mark.skipif(not find_browser(), reason="no Chromium on this machine")
def test_a_page_built_by_scripts_is_captured_as_a_visitor_sees_it(cross: Make, work: Run) -> None:
    seen: list[tuple[str, str]] = []
    with apps(site(seen)) as (port,):
        host = f"127.0.0.1:{port}"
        crossing = cross(
            {
                "old": {"start": f"http://{host}/"},
                "survey": {"sitemaps": False, "browser_where_needed": True},
                "manners": {"delay": 0, "at_once": 4, "agent": "FerryTest/1 (made up)"},
            }
        )
        secrets.give(crossing, secrets.Secret(host, "header", "X-Key", "made-up-key-77"))
        work("survey", crossing)
    assert one("SELECT state FROM address WHERE key = '/later.htm'") == "done"
    words, title = rows("SELECT words, title FROM address WHERE key = '/app.htm'")[0]
    assert words > 60 and title == "App"
    assert (
        one(
            "SELECT json_extract(facts, '$.words') FROM page_facts f JOIN address a ON a.id = f.address_id WHERE a.key = '/app.htm'"
        )
        == words
    )
    raw, rendered, content = rows(
        "SELECT c.body, c.rendered, c.content FROM capture c JOIN address a ON a.capture = c.id WHERE a.key = '/app.htm'"
    )[0]
    assert b"Built here" not in bodies.get(raw) and b"<h1>Built here</h1>" in bodies.get(rendered)
    assert content == rendered != raw
    assert {agent for _, agent in seen} == {"FerryTest/1 (made up)"}, "the browser asked nothing by itself"
    assert not [path for path, _ in seen if path.startswith("elsewhere")], "and nothing outside the bounds"
    paths = [path for path, _ in seen]
    assert paths.count(f"{host}/app.htm") == 1, "the document is not fetched again"


def test_without_asking_for_it_such_a_page_is_only_noticed(cross: Make, work: Run) -> None:
    seen: list[tuple[str, str]] = []
    with apps(site(seen)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        secrets.give(crossing, secrets.Secret(f"127.0.0.1:{port}", "header", "X-Key", "made-up-key-77"))
        work("survey", crossing)
    assert crossings.load_plan(crossing).survey.browser_where_needed is False
    assert "built in the browser" in one(
        "SELECT findings FROM page_facts f JOIN address a ON a.id = f.address_id WHERE a.key = '/app.htm'"
    )
    assert one("SELECT count(*) FROM capture WHERE rendered != ''") == 0


def test_the_proxy_speaks_tls_and_answers_nothing_but_reading() -> None:
    asked: list[str] = []

    async def ask(url: str) -> Fetched:
        asked.append(url)
        return Fetched(url, 200, {"content-type": "text/plain", "set-cookie": "a=b"}, b"hello")

    async def talk(port: int, secure: bool, line: str) -> bytes:
        reader, writer = await asyncio.open_connection("127.0.0.1", port)
        if secure:
            writer.write(b"CONNECT old.test:443 HTTP/1.1\r\nHost: old.test\r\n\r\n")
            assert b"200" in await reader.readuntil(b"\r\n\r\n")
            context = ssl.create_default_context()
            context.check_hostname, context.verify_mode = False, ssl.CERT_NONE
            await writer.start_tls(context, server_hostname="old.test")
        writer.write(f"{line} HTTP/1.1\r\nHost: old.test\r\n\r\n".encode())
        answer = await reader.read()
        writer.close()
        return answer

    async def all_of_it() -> list[bytes]:
        async with Proxy(ask) as proxy:
            return [
                await talk(proxy.port, False, "GET http://old.test/a?b=1"),
                await talk(proxy.port, True, "GET /secure"),
                await talk(proxy.port, False, "POST http://old.test/form"),
                await talk(proxy.port, False, "nonsense"),
            ]

    plain, secure, posted, bad = asyncio.run(all_of_it())
    assert plain.endswith(b"\r\n\r\nhello") and b"set-cookie" not in plain.lower() and secure.endswith(b"hello")
    assert asked == ["http://old.test/a?b=1", "https://old.test/secure"]
    assert posted.startswith(b"HTTP/1.1 403") and bad == b""


class SlowToOpen:
    """In the place of the browser: it takes its time to open, and of one page it cannot be started."""

    note = ""
    opened = 0

    def __init__(self, ask: Any) -> None:
        self.ready = False
        self.ask = ask

    async def open(self) -> None:
        type(self).opened += 1
        await asyncio.sleep(0.1)
        self.ready = True

    async def close(self) -> None:
        pass

    async def render(self, got: Fetched) -> tuple[bytes | None, str]:
        assert self.ready, "nobody uses it before it is open"
        icon = await self.ask(urljoin(got.url, "/favicon.ico"))  # as every browser does, sooner or later
        assert icon.status == 404
        if got.url.endswith("/p3"):
            return None, "the browser cannot be started (no memory)."
        return got.body.replace(b"empty", b"built by the browser"), ""


def test_many_pages_at_once_wait_for_the_browser(cross: Make, work: Run, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("grandferry.net.browser.Renderer", SlowToOpen)
    links = "".join(f"<a href=/p{n}>p{n}</a>" for n in range(6))
    pages = {"/": links, **{f"/p{n}": f"<title>Page {n}</title><p>empty" for n in range(6)}}
    with apps(pages_app(pages)) as (port,):  # type: ignore[arg-type]
        settings = {"browser": ["^/p"], "sitemaps": False}
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": settings})
        work("survey", crossing)
    assert SlowToOpen.opened == 1
    found = rows(
        "SELECT a.key, a.reason, c.rendered FROM address a JOIN capture c ON c.id = a.capture WHERE a.key LIKE '/p%'"
    )
    built = {key for key, _, rendered in found if rendered and b"built by the browser" in bodies.get(rendered)}
    assert built == {f"/p{n}" for n in (0, 1, 2, 4, 5)}
    assert [reason for key, reason, _ in found if key == "/p3"] == [
        "Not captured through a browser: the browser cannot be started (no memory)."
    ]


def test_a_page_named_later_is_captured_through_the_browser(
    cross: Make, work: Run, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Alone where it is asked for alone, with a second survey else; though nothing changed on the site itself."""
    monkeypatch.setattr("grandferry.net.browser.Renderer", SlowToOpen)
    seen: list[str] = []
    pages = {"/": "<a href=/p1>1</a><a href=/p2>2</a>", "/p1": "<title>One</title><p>empty<a href=/p3>3</a>"}
    pages |= {"/p2": "<title>Two</title><p>empty", "/p3": "<title>Three</title><p>text"}
    with apps(pages_app(pages, seen)) as (port,):  # type: ignore[arg-type]
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False, "max_pages": 3}})
        work("survey", crossing)
        assert waits.waiting(Side(crossing)) == 1
        before = rows("SELECT * FROM survey_run")
        plan = crossings.load_plan(crossing)
        plan.survey.browser = ["^/p1$"]
        crossings.save_plan(crossing, plan, [])
        seen.clear()
        work("survey", crossing, only=one("SELECT id FROM address WHERE key = '/p1'"))
        assert [path for path in seen if path != "/robots.txt"] == ["/p1"]
        rendered = dict(rows("SELECT a.key, c.rendered FROM address a JOIN capture c ON c.id = a.capture"))
        assert b"built by the browser" in bodies.get(rendered.pop("/p1")) and not any(rendered.values())
        assert rows("SELECT * FROM survey_run") == before and waits.waiting(Side(crossing)) == 1
        plan.survey.browser, plan.survey.max_pages = ["^/p[12]$"], 100
        crossings.save_plan(crossing, plan, [])
        work("survey", crossing)
        work("survey", crossing, again=True)
    rendered = dict(rows("SELECT a.key, c.rendered FROM address a JOIN capture c ON c.id = a.capture"))
    assert {key for key, built in rendered.items() if built} == {"/p1", "/p2"}
    assert {row.key: row.change for row in runs.changed(Side(crossing), 2, 0, 10)[1]} == {"/p2": "changed"}
    failed = work("survey", crossing, only=99_999, fails=True)
    assert "no address 99999 of the old site" in failed["error"]


@pytest.mark.skipif(not find_browser(), reason="no Chromium on this machine")
def test_a_page_whose_script_leaves_it_keeps_its_own_answer_and_says_so(cross: Make, work: Run) -> None:
    words = "<p>Words of the answer itself, which stay what they are.</p>"
    away = "<script>location.href = '{}'</script>"
    mode = "<script>document.body.append('mode ' + document.compatMode)</script>"
    pages: dict[str, Any] = {
        "/": "".join(f"<a href=/{name}>{name}</a>" for name in ("far", "near", "shut", "stays", "old", "wide")),
        "/far": f"<!doctype html><title>Far</title>{words}{away.format('http://elsewhere.localhost:9/')}",
        "/near": f"<!doctype html><title>Near</title>{words}{away.format('/stays')}",
        "/shut": f"<title>Shut</title>{words}{away.format('/gone.pdf')}",
        "/stays": f"<!-- made by hand --><!DOCTYPE html><html lang=en><title>Stays</title>{words}{mode}",
        "/old": f"<title>Old</title>{words}{mode}",
        "/wide": (
            200,
            {"Content-Type": "text/html"},
            f"\ufeff<!doctype html><title>W</title>{words}{mode}".encode("utf-16-le"),
        ),
    }
    with apps(pages_app(pages)) as (port,):
        settings = {"browser": ["^/."], "sitemaps": False}
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": settings})
        work("survey", crossing)
    found = {
        key: (title, reason, bodies.get(rendered).decode() if rendered else "")
        for key, title, reason, rendered in rows(
            "SELECT a.key, a.title, a.reason, c.rendered FROM address a JOIN capture c ON c.id = a.capture WHERE "
            "a.type = 'page' AND a.key != '/'"
        )
    }
    left = "Not captured through a browser: its script leads away from it, or writes it anew, so the answer of the server is kept."
    for key, title in (("/far", "Far"), ("/near", "Near"), ("/shut", "Shut")):
        assert found[key] == (title, left, ""), "neither another page nor the browser's own words"
    for key, mode_ in (("/stays", "CSS1Compat"), ("/old", "BackCompat"), ("/wide", "CSS1Compat")):
        assert f"mode {mode_}" in found[key][2] and "Words of the answer" in found[key][2], key
        assert "<meta name=" not in found[key][2], "nothing of ours is left in it"
    assert '<html lang="en">' in found["/stays"][2]
