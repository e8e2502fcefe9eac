"""The fetcher's guards, and the start address asked at once."""

from __future__ import annotations

import asyncio
import ipaddress
import socket
from collections.abc import Callable
from typing import Any

import pytest
from aiohttp import web

from grandferry.core.errors import AddressError
from grandferry.core.plan import Manners
from grandferry.net.fetch import Fetched, Fetcher
from grandferry.net.manners import Polite
from grandferry.net.resolve import Refused, check_ip, check_literal
from grandferry.net.resolver import Resolver
from grandferry.net.start import check_start
from tests.servers import apps, free_port, pages_app


@pytest.mark.parametrize(
    ("ip", "named", "allowed"),
    [
        ("169.254.169.254", True, False),
        ("fe80::1", True, False),
        ("0.0.0.0", True, False),
        ("224.0.0.1", True, False),
        ("127.0.0.1", False, False),
        ("10.0.0.1", False, False),
        ("192.168.1.1", False, False),
        ("::1", False, False),
        ("127.0.0.1", True, True),
        ("10.0.0.1", True, True),
        ("93.184.215.14", False, True),
        ("2606:2800:21f::1", False, True),
    ],
)
def test_where_the_fetcher_never_goes(ip: str, named: bool, allowed: bool) -> None:
    if allowed:
        check_ip(ip, named)
    else:
        with pytest.raises(Refused):
            check_ip(ip, named)


def fetch(url: str, named: list[str], **settings: Any) -> Fetched:
    async def run() -> Fetched:
        async with Fetcher(agent="test", hosts=frozenset(named), **settings) as fetcher:
            return await fetcher.get(url)

    return asyncio.run(run())


def test_literal_addresses_are_guarded_too() -> None:
    check_literal("old.test", set())
    with pytest.raises(Refused):
        check_literal("127.0.0.1", set())
    with apps(pages_app({"/": "hello"})) as (port,):
        refused = fetch(f"http://127.0.0.1:{port}/", [])
        assert (refused.kind, refused.status) == ("refused", 0) and "does not name" in refused.error
        assert fetch(f"http://127.0.0.1:{port}/", [f"127.0.0.1:{port}"]).body == b"hello"


def test_names_under_localhost_are_this_machine() -> None:
    found = asyncio.run(Resolver(set()).resolve("old.quillmere.localhost", 80))
    assert [one["host"] for one in found] == ["127.0.0.1"]
    with apps(pages_app({"/": "hello"})) as (port,):
        assert fetch(f"http://any.name.localhost:{port}/", []).status == 200


def test_addresses_go_out_as_they_are() -> None:
    seen: list[str] = []
    with apps(pages_app({}, seen)) as (port,):
        for key in ("/a%2Fb?x=%7E+y", "/%C3%A9", "/a;b=1,2?q=a%20b&&c"):
            fetch(f"http://127.0.0.1:{port}{key}", ["127.0.0.1"])
            assert seen[-1] == key


def test_a_name_that_leads_to_a_private_address_is_not_asked_unless_named() -> None:
    name = socket.gethostname()
    try:
        private = ipaddress.ip_address(socket.gethostbyname(name)).is_private
    except OSError:
        private = False
    if not private:
        pytest.skip("this machine's own name leads to no private address")
    refused = fetch(f"http://{name}:{free_port()}/", [])
    assert refused.kind == "refused" and "private address" in refused.error
    assert fetch(f"http://{name}:{free_port()}/", [name]).kind == "unreachable", "named, it is asked"


def test_headers_hold_no_line_break() -> None:
    with apps(pages_app({"/": "hello"})) as (port,):

        async def run() -> Fetched:
            async with Fetcher(agent="test", hosts=frozenset(["127.0.0.1"])) as fetcher:
                return await fetcher.get(f"http://127.0.0.1:{port}/", headers={"X-A": "b\r\nX-C: d"})

        got = asyncio.run(run())
    assert got.status == 0 and "line break" in got.error


def test_no_more_at_once_than_said_and_giving_up_harms_no_other() -> None:
    under_way, most = 0, 0

    async def slow(request: web.Request) -> web.Response:
        nonlocal under_way, most
        under_way += 1
        most = max(most, under_way)
        await asyncio.sleep(0.05)
        under_way -= 1
        return web.Response(text=request.path)

    app = web.Application()
    app.router.add_get("/{rest:.*}", slow)
    with apps(app) as (port,):

        async def run() -> list[bytes]:
            async with Fetcher(agent="test", hosts=frozenset(["127.0.0.1"]), at_once=3) as fetcher:
                given_up = asyncio.create_task(fetcher.get(f"http://127.0.0.1:{port}/given-up"))
                await asyncio.sleep(0.02)
                given_up.cancel()
                got = await asyncio.gather(*(fetcher.get(f"http://127.0.0.1:{port}/{n}") for n in range(12)))
                return [one.body for one in got]

        bodies = asyncio.run(run())
    assert bodies == [f"/{n}".encode() for n in range(12)]
    assert most <= 4, "three, and for a moment the one given up"


def test_silence_and_slowness_have_their_sentences() -> None:
    from tests.servers import RawServer

    def slow(path: str, connection: Any) -> None:
        import time

        connection.sendall(b"HTTP/1.1 200 OK\r\nContent-Length: 100\r\n\r\nx")
        time.sleep(3)

    with RawServer(slow) as server:
        got = fetch(f"http://127.0.0.1:{server.port}/", ["127.0.0.1"], timeout=0.5)
    assert got.kind == "slow" and "within 0.5 seconds" in got.error
    assert "No connection" in fetch(f"http://127.0.0.1:{free_port()}/", ["127.0.0.1"]).error
    assert "not known" in fetch("http://no-such-host.invalid/", []).error


def polite(pages: dict[str, Any], work: Callable[[Polite, str], Any], **manners: Any) -> tuple[Any, list[str]]:
    said: list[str] = []

    async def run() -> Any:
        with apps(pages_app(pages)) as (port,):
            host = f"127.0.0.1:{port}"
            async with Fetcher(agent="x", hosts=frozenset([host])) as fetcher:
                return await work(Polite(fetcher, Manners(delay=0, **manners), "http", said.append), host)

    return asyncio.run(run()), said


@pytest.mark.parametrize(
    ("answer", "allowed"),
    [
        ((200, {}, b"User-agent: *\nDisallow: /x"), False),
        ((404, {}, b""), True),
        ((403, {}, b""), True),
        ((503, {}, b""), False),
        ((301, {"Location": "/other.txt"}, b""), False),
        ((301, {"Location": "http://else.test/robots.txt"}, b""), True),
    ],
)
def test_answers_to_robots_txt(answer: Any, allowed: bool) -> None:
    pages = {"/robots.txt": answer, "/other.txt": (200, {}, b"User-agent: *\nDisallow: /x")}
    found, _ = polite(pages, lambda p, host: p.may(host, "/x"))
    assert found is allowed
    assert polite(pages, lambda p, host: p.may(host, "/x"), robots="owner confirmed")[0] is True


def test_the_start_is_asked_at_once() -> None:
    pages: dict[str, Any] = {
        "/": (302, {"Location": "/home"}, b""),
        "/home": "<title>T</title><meta name=generator content=G>",
        "/dead": (404, {}, b""),
        "/secret": (401, {}, b""),
        "/loop": (302, {"Location": "/loop"}, b""),
        "/odd": (302, {"Location": "ftp://x/"}, b""),
        "/inside": (302, {"Location": "http://10.0.0.1/"}, b""),
    }
    with apps(pages_app(pages)) as (port,):
        base = f"http://127.0.0.1:{port}"
        start = asyncio.run(check_start(f"127.0.0.1:{port}", "test"))
        assert (str(start.address), start.title, start.generator, start.hops) == (
            f"{base}/home",
            "T",
            "G",
            (f"{base}/home",),
        )
        for path, sentence in {
            "/dead": "answers 404",
            "/secret": "password",
            "/loop": "in a circle",
            "/odd": "cannot be fetched",
            "/inside": "private address",
        }.items():
            with pytest.raises(AddressError, match=sentence):
                asyncio.run(check_start(base + path, "test"))
