"""The fetcher's guards, and the start address asked at once."""

from __future__ import annotations

import asyncio
import hashlib
import ipaddress
import socket
import time
from collections.abc import Callable
from pathlib import Path
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
        ("100.64.3.9", False, False),
        ("100.64.3.9", True, True),
        ("::ffff:127.0.0.1", False, False),
        ("::ffff:10.1.2.3", False, False),
        ("::ffff:169.254.169.254", True, False),
        ("64:ff9b::a00:1", False, False),
        ("64:ff9b::5db8:d70e", False, True),
        ("2002:7f00:1::", False, False),
        ("::7f00:1", False, False),
        ("192.0.2.7", False, False),
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
    check_literal("old.test", False)
    with pytest.raises(Refused):
        check_literal("127.0.0.1", False)
    for name in ("localhost", "app.localhost", "[::ffff:127.0.0.1]"):
        check_literal(name, True)
        with pytest.raises(Refused):
            check_literal(name, False)
    with apps(pages_app({"/": "hello"})) as (port,):
        refused = fetch(f"http://127.0.0.1:{port}/", [])
        assert (refused.kind, refused.status) == ("refused", 0) and "does not name" in refused.error
        assert fetch(f"http://127.0.0.1:{port}/", [f"127.0.0.1:{port}"]).body == b"hello"


def test_names_under_localhost_are_this_machine() -> None:
    found = asyncio.run(Resolver(set()).resolve("old.quillmere.localhost", 80))
    assert [one["host"] for one in found] == ["127.0.0.1"]
    with apps(pages_app({"/": "hello"})) as (port,):
        assert fetch(f"http://any.name.localhost:{port}/", [f"any.name.localhost:{port}"]).status == 200


def test_addresses_go_out_as_they_are() -> None:
    seen: list[str] = []
    with apps(pages_app({}, seen)) as (port,):
        for key in ("/a%2Fb?x=%7E+y", "/%C3%A9", "/a;b=1,2?q=a%20b&&c"):
            fetch(f"http://127.0.0.1:{port}{key}", [f"127.0.0.1:{port}"])
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
    named = f"{name}:{free_port()}"
    assert fetch(f"http://{named}/", [named]).kind == "unreachable", "named, it is asked"


def test_headers_hold_no_line_break() -> None:
    with apps(pages_app({"/": "hello"})) as (port,):

        async def run() -> Fetched:
            async with Fetcher(agent="test", hosts=frozenset([f"127.0.0.1:{port}"])) as fetcher:
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
            async with Fetcher(agent="test", hosts=frozenset([f"127.0.0.1:{port}"]), at_once=3) as fetcher:
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
        got = fetch(f"http://127.0.0.1:{server.port}/", [f"127.0.0.1:{server.port}"], timeout=0.5)
    assert got.kind == "slow" and "within 0.5 seconds" in got.error
    nobody = f"127.0.0.1:{free_port()}"
    assert "No connection" in fetch(f"http://{nobody}/", [nobody]).error
    assert "not known" in fetch("http://no-such-host.invalid/", []).error


def polite(
    pages: dict[str, Any], work: Callable[[Polite, str], Any], spill: Path | None = None, **manners: Any
) -> tuple[Any, list[str]]:
    said: list[str] = []

    async def run() -> Any:
        with apps(pages_app(pages)) as (port,):
            host = f"127.0.0.1:{port}"
            async with Fetcher(agent="x", hosts=frozenset([host]), spill=spill) as fetcher:
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


def test_a_port_is_part_of_what_is_named() -> None:
    with apps(pages_app({"/": "<p>ours"}), pages_app({"/": "<p>somebody else's"})) as (ours, other):
        assert fetch(f"http://127.0.0.1:{ours}/", [f"127.0.0.1:{ours}"]).status == 200
        for url in (f"http://127.0.0.1:{other}/", f"http://x.localhost:{other}/", "http://127.0.0.1/"):
            got = fetch(url, [f"127.0.0.1:{ours}", f"x.localhost:{ours}"])
            assert (got.status, got.kind) == (0, "refused"), url
        pages: dict[str, Any] = {"/": (302, {"Location": f"http://127.0.0.1:{other}/"}, b"")}
        with apps(pages_app(pages)) as (start,), pytest.raises(AddressError, match="private address"):
            asyncio.run(check_start(f"127.0.0.1:{start}", "test"))


@pytest.mark.parametrize("size", [600_000, 1_500_000, 30_000_000])
def test_the_first_part_of_a_large_robots_txt_holds(size: int, tmp_path: Path) -> None:
    text = b"User-agent: *\nDisallow: /x\n" + b"# filler\n" * (size // 9) + b"Disallow: /y\n"
    for headers in ({"Content-Type": "text/plain"}, {}):
        pages = {"/robots.txt": (200, headers, text)}
        for path, allowed in (("/x", False), ("/y", True)):
            assert polite(pages, lambda p, host, path=path: p.may(host, path), spill=tmp_path)[0] is allowed
    assert list(tmp_path.iterdir()) == []


def test_files_can_be_hashed_without_being_held() -> None:
    content = bytes(range(256)) * 20_000
    pages = {"/f": (200, {"Content-Type": "image/png"}, content), "/p": "<p>page"}
    with apps(pages_app(pages)) as (port,):
        named = [f"127.0.0.1:{port}"]
        got = fetch(f"http://{named[0]}/f", named, hold=False)
        assert (got.body, got.size, got.path) == (b"", len(content), None)
        assert got.digest == hashlib.sha256(content).hexdigest() == fetch(f"http://{named[0]}/f", named).digest
        assert fetch(f"http://{named[0]}/p", named, hold=False).body == b"<p>page"


def test_an_address_that_drips_is_given_up_over_all_its_tries(monkeypatch: pytest.MonkeyPatch) -> None:
    async def drip(request: web.Request) -> web.StreamResponse:
        answer = web.StreamResponse(headers={"Content-Type": "text/html"})
        await answer.prepare(request)
        while True:
            await answer.write(b".")
            await asyncio.sleep(0.2)

    monkeypatch.setattr("grandferry.net.manners.LONGEST", 2.0)
    app = web.Application()
    app.router.add_route("*", "/{rest:.*}", drip)

    async def run(port: int) -> Fetched:
        async with Fetcher(agent="x", hosts=frozenset([f"127.0.0.1:{port}"])) as fetcher:
            asked = Polite(fetcher, Manners(delay=0), "http", lambda _: None)
            return await asked.get(f"http://127.0.0.1:{port}/", f"127.0.0.1:{port}")

    with apps(app) as (port,):
        began = time.monotonic()
        got = asyncio.run(run(port))
    assert got.kind == "slow" and time.monotonic() - began < 5


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
