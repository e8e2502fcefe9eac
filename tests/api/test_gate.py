"""Served to other machines: a password, kept as a hash, asked for on a page of its own, and only so often."""

from __future__ import annotations

import asyncio
import re
import socket
import stat
import threading
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path

import httpx
import pytest
import uvicorn
from starlette.responses import PlainTextResponse
from starlette.types import ASGIApp

from grandferry.api.app import make_app
from grandferry.api.gate import FROM_ALL, FROM_ONE, LASTS, WHILE, Gate
from grandferry.core.errors import FerryError
from grandferry.store import password
from tests.servers import free_port, wait_for

WORD = "seven boats in a row"


@contextmanager
def served(app: ASGIApp, port: int) -> Iterator[None]:
    server = uvicorn.Server(uvicorn.Config(app, host="0.0.0.0", port=port, log_level="warning"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    wait_for(port)
    try:
        yield
    finally:
        server.should_exit = True
        thread.join(10)


@pytest.fixture
def shared(workspace: Path) -> Iterator[str]:
    """The application as it is served to others, with a password; its address."""
    password.keep(WORD)
    port = free_port()
    with served(make_app(port, shared=True), port):
        yield f"http://127.0.0.1:{port}"


def test_the_password_is_kept_as_a_hash_for_its_owner_alone(workspace: Path) -> None:
    assert not password.is_kept()
    for word in ("short", "x" * 501, ""):
        with pytest.raises(FerryError, match="12 to 500"):
            password.keep(word)
    password.keep(WORD)
    kept = (workspace / password.FILE).read_text()
    assert "boats" not in kept and stat.S_IMODE((workspace / password.FILE).stat().st_mode) == 0o600
    assert password.fits(WORD) and not password.fits(WORD + " ") and not password.fits("")
    password.keep("quite another one")
    assert not password.fits(WORD)
    (workspace / password.FILE).write_text("nonsense")
    with pytest.raises(FerryError, match="Set it anew"):
        password.fits(WORD)


def test_nothing_is_given_to_who_has_not_signed_in(shared: str) -> None:
    with httpx.Client(base_url=shared) as one:
        assert one.get("/").headers["location"] == one.get("/c/1/survey").headers["location"] == "/sign-in"
        for path in ("/api/crossings", "/api/openapi.json", "/api/nothing"):
            asked = one.get(path)
            assert asked.status_code == 401 and "Sign in first" in asked.json()["detail"]
        assert one.post("/api/crossings", json={}).status_code == 401
        assert one.get("/assets/x.js").status_code == 303
        assert one.get("/", headers={"Cookie": "grandferry=made-up"}).status_code == 303
        page = one.get("/sign-in")
        assert 'type="password"' in page.text and "frame-ancestors 'none'" in page.headers["content-security-policy"]
        wrong = one.post("/sign-in", data={"password": WORD[:-1]})
        assert wrong.status_code == 403 and "not the password" in wrong.text and "set-cookie" not in wrong.headers
        good = one.post("/sign-in", data={"password": WORD})
        assert (good.status_code, good.headers["location"]) == (303, "/")
        cookie = good.headers["set-cookie"].lower()
        assert "httponly" in cookie and "samesite=strict" in cookie and "max-age" not in cookie
        assert one.get("/api/crossings").json() == [] and one.get("/").status_code == 200


def test_the_host_is_this_machine_by_name_or_address_and_a_change_comes_from_its_own_page(shared: str) -> None:
    port = int(shared.rpartition(":")[2])
    with httpx.Client(base_url=shared) as one:
        for host, good in (
            (f"127.0.0.1:{port}", True),
            (f"192.0.2.7:{port}", True),
            (f"[2001:db8::7]:{port}", True),
            (f"{socket.gethostname()}:{port}", True),
            (f"evil.test:{port}", False),
            ("192.0.2.7:1", False),
            ("192.0.2.7", False),
        ):
            asked = one.get("/sign-in", headers={"Host": host})
            assert (asked.status_code == 200) == good, host
        foreign = one.post("/sign-in", data={"password": WORD}, headers={"Origin": "http://evil.test"})
        assert foreign.status_code == 403 and "set-cookie" not in foreign.headers
        one.post("/sign-in", data={"password": WORD})
        page = one.get("/", headers={"Host": f"192.0.2.7:{port}"}).headers.get("content-security-policy", "")
        assert not page or f"frame-src http://192.0.2.7:{port + 1}/" in page


class Clock:
    now = 1000.0

    def __call__(self) -> float:
        return self.now


def test_only_so_many_wrong_tries_are_looked_at(workspace: Path) -> None:
    looked: list[str] = []

    def fits(word: str) -> bool:
        looked.append(word)
        return word == WORD

    clock, port = Clock(), free_port()
    with (
        served(Gate(PlainTextResponse("in"), fits, clock), port),
        httpx.Client(base_url=f"http://127.0.0.1:{port}") as one,
    ):

        def try_(word: str) -> int:
            return one.post("/sign-in", data={"password": word}).status_code

        with ThreadPoolExecutor(10) as many:  # many at once are not more than one after the other
            answers = sorted(many.map(try_, ["wrong"] * 12))
        assert answers == [403] * FROM_ONE + [429] * (12 - FROM_ONE) and len(looked) == FROM_ONE
        locked = one.post("/sign-in", data={"password": WORD})
        assert locked.status_code == 429 and int(locked.headers["retry-after"]) == WHILE
        assert re.search(r"looked at in \d minutes", locked.text), "not even the right one"
        clock.now += WHILE + 1
        for _ in range(3 * FROM_ONE):
            assert try_(WORD) == 303, "a right one is no try"
        assert one.get("/").text == "in"
        clock.now += LASTS + 1
        assert one.get("/").status_code == 303, "a cookie is not good for ever"
        assert one.post("/sign-in", content=b"password=" + b"x" * 10_000).status_code == 413
        assert one.request("DELETE", "/sign-in").status_code == 405
    assert FROM_ALL > FROM_ONE


async def _try(gate: Gate, machine: str, late: asyncio.Event | None = None) -> int:
    """The answer to a wrong try of a machine, whose word comes once ``late`` is set."""
    sent: list[int] = []

    async def receive() -> dict[str, object]:
        if late:
            await late.wait()
        return {"type": "http.request", "body": b"password=wrong", "more_body": False}

    async def send(message: dict[str, object]) -> None:
        if message["type"] == "http.response.start":
            sent.append(int(str(message["status"])))

    scope = {"type": "http", "method": "POST", "path": "/sign-in", "headers": [], "client": (machine, 1)}
    await gate(scope | {"query_string": b""}, receive, send)  # type: ignore[arg-type]
    return sent[0]


def test_tries_of_many_machines_are_counted_together() -> None:
    async def tries() -> list[int]:
        return [await _try(gate, f"10.0.0.{at}") for at in range(FROM_ALL + 5)]

    gate = Gate(PlainTextResponse("in"), lambda word: False, Clock())
    assert asyncio.run(tries()) == [403] * FROM_ALL + [429] * 5


def test_tries_begun_before_any_was_counted_are_no_more_than_others() -> None:
    async def tries() -> list[int]:
        late = asyncio.Event()
        begun = [asyncio.create_task(_try(gate, "10.0.0.1", late)) for _ in range(12)]
        await asyncio.sleep(0)  # each has been asked who it is, none has said its word
        late.set()
        return sorted(await asyncio.gather(*begun))

    gate = Gate(PlainTextResponse("in"), lambda word: False, Clock())
    assert asyncio.run(tries()) == [403] * FROM_ONE + [429] * (12 - FROM_ONE)
