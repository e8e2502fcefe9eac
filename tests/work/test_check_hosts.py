"""Hosts that cannot be checked against: down, gone in the middle, behind a password, answering 200 to everything."""

from __future__ import annotations

from collections.abc import Awaitable, Callable
from typing import Any

import pytest
from aiohttp import web

from grandferry.store.db import one
from tests.servers import apps, free_port, pages_app

PAGES = tuple(f"/p{n}.htm" for n in range(70))
SITE: dict[str, Any] = {"/": "".join(f"<a href={key}>{key}</a>" for key in PAGES)} | {
    key: f"<title>{key}</title><p>what {key} says, in words of its own" for key in PAGES
}


@pytest.fixture
def crossing(cross: Callable[..., int], work: Callable[..., Any]) -> int:
    with apps(pages_app(SITE)) as (port,):
        made = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        work("survey", made)
    work("route", made)
    return made


def judged(crossing: int) -> int:
    return int(one("SELECT count(*) FROM address WHERE crossing_id = ? AND verdict != ''", crossing))


def test_a_host_that_is_down_or_wants_a_password_is_said(crossing: int, work: Callable[..., Any]) -> None:
    told = work("check", crossing, fails=True, against=f"http://127.0.0.1:{free_port()}")
    assert "gives no answer" in str(told)
    with apps(pages_app({"/": (401, {"WWW-Authenticate": 'Basic realm="in the making"'}, b"")})) as (port,):
        told = work("check", crossing, fails=True, against=f"http://127.0.0.1:{port}")
    assert "wants a name and a password" in str(told)
    assert judged(crossing) == 0, "nothing is taken to be missing"


def test_a_host_that_goes_in_the_middle_costs_nothing_that_was_found(crossing: int, work: Callable[..., Any]) -> None:
    asked = 0

    async def falling(request: web.Request) -> web.Response:
        nonlocal asked
        asked += request.path in PAGES
        if asked > 55 and request.transport is not None:
            request.transport.close()
        content = SITE.get(request.path)
        return web.Response(text=content or "", status=200 if content else 404, content_type="text/html")

    with apps(lambda: answering(falling)) as (port,):
        base = f"http://127.0.0.1:{port}"
        told = work("check", crossing, fails=True, against=base)
        had = judged(crossing)
        asked = -1000  # it is up again
        done = work("check", crossing, against=base)
    assert "gives no answer any more" in told["error"]
    assert 50 <= had <= 56 and done["asked"] == 71 - had, "the round goes on where it was"
    assert done["counts"] == {"same": 71}


def test_a_host_that_answers_everything_with_200_proves_nothing(crossing: int, work: Callable[..., Any]) -> None:
    async def anything(_: web.Request) -> web.Response:
        return web.Response(
            text="<title>Welcome</title><h1>Welcome</h1><p>We build something new for you here.",
            content_type="text/html",
        )

    with apps(lambda: answering(anything)) as (port,):
        told = work("check", crossing, against=f"http://127.0.0.1:{port}")
    assert told["counts"] == {"soft error": 71}


def answering(handler: Callable[[web.Request], Awaitable[web.Response]]) -> web.Application:
    made = web.Application()
    made.router.add_route("*", "/{path:.*}", handler)
    return made
