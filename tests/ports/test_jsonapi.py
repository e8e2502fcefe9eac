"""Delivery to targets that answer oddly: nothing is written elsewhere, and only the standard's answers count as done."""

from __future__ import annotations

import asyncio
import contextlib
import json
import time
from typing import Any

import pytest
from aiohttp import web

from grandferry.ports.targets.base import TargetError
from grandferry.ports.targets.jsonapi import MEDIA, JsonApi
from tests.servers import apps

ID = "6b1f8a52-0000-5000-8000-000000000001"


def target(answers: dict[str, tuple[int, dict[str, str], Any]], seen: list[str]) -> web.Application:
    """A target that answers each method in its own way."""

    async def answer(request: web.Request) -> web.Response:
        seen.append(f"{request.method} {request.path}")
        status, headers, body = answers.get(request.method, (200, {}, {"jsonapi": {}}))
        text = body if isinstance(body, str) else json.dumps(body)
        return web.Response(status=status, headers=headers, text=text, content_type=MEDIA)

    app = web.Application()
    app.router.add_route("*", "/{rest:.*}", answer)
    return app


def put(answers: dict[str, tuple[int, dict[str, str], Any]], known: bool = False) -> tuple[str, list[str]]:
    """What ``put`` says was done (or why it was refused), and what any host was asked for."""
    seen: list[str] = []

    async def send(port: int) -> str:
        async with JsonApi(f"http://127.0.0.1:{port}") as open_target:
            try:
                return await open_target.put("posts", ID, {"title": "Goods shed"}, known)
            except TargetError as problem:
                return f"refused: {problem}"

    with apps(lambda: target({}, seen)) as (elsewhere,):
        led = {
            method: (
                status,
                {k: v.replace("ELSEWHERE", f"http://127.0.0.1:{elsewhere}") for k, v in headers.items()},
                b,
            )
            for method, (status, headers, b) in answers.items()
        }
        with apps(lambda: target(led, seen)) as (port,):
            return asyncio.run(send(port)), seen


@pytest.mark.parametrize("status", [301, 302, 303, 307, 308])
@pytest.mark.parametrize(("method", "known"), [("POST", False), ("PATCH", True)])
def test_nothing_is_written_through_a_redirect(status: int, method: str, known: bool) -> None:
    done, seen = put({method: (status, {"Location": "ELSEWHERE/api/posts"}, "")}, known)
    assert done.startswith("refused") and "leads elsewhere" in done
    assert len(seen) == 1, "the place it leads to is not asked"


OURS = {"data": {"type": "posts", "id": ID, "attributes": {}}}


@pytest.mark.parametrize(
    ("method", "status", "body", "good"),
    [
        ("POST", 201, OURS, True),
        ("POST", 204, "", True),
        ("POST", 200, OURS, False),
        ("POST", 202, "", False),
        ("POST", 201, {"data": {"type": "posts", "id": "17"}}, False),
        ("POST", 201, "<h1>Welcome</h1>", False),
        ("POST", 201, [1, 2], False),
        ("POST", 403, {"errors": ["no"]}, False),
        ("PATCH", 200, OURS, True),
        ("PATCH", 200, {"meta": {"revision": 3}}, True),
        ("PATCH", 204, "", True),
        ("PATCH", 200, {"data": {"type": "posts", "id": "18"}}, False),
        ("PATCH", 200, {"errors": [{"detail": "full"}], "meta": {}}, False),
        ("PATCH", 200, "", False),
        ("PATCH", 201, OURS, False),
    ],
)
def test_only_the_answers_of_the_standard_count_as_done(method: str, status: int, body: Any, good: bool) -> None:
    done, _ = put({method: (status, {}, body)}, known=method == "PATCH")
    assert done == ({"POST": "created", "PATCH": "changed"}[method]) if good else done.startswith("refused")


@pytest.mark.parametrize(
    "body",
    [
        b"[" * 100_000,
        b"\xff\xfe\x00",
        b'{"errors": [{"detail": "' + b"x" * 5_000_000 + b'"}]}',
        b'{"errors": [{"detail": {"a": ["b"]}}]}',
        b'{"errors": {"0": "odd"}}',
        b"null",
        b"",
    ],
)
def test_an_odd_error_body_ends_one_item_with_a_sentence(body: bytes) -> None:
    async def odd(request: web.Request) -> web.Response:
        return web.Response(status=422, body=body, content_type="application/json")

    async def endless(request: web.Request) -> web.StreamResponse:
        answer = web.StreamResponse(status=422)
        await answer.prepare(request)
        with contextlib.suppress(ConnectionError):
            while True:
                await answer.write(b"x" * 100_000)
        return answer

    for handler in (odd, endless) if not body else (odd,):
        app = web.Application()
        app.router.add_route("*", "/{rest:.*}", handler)

        async def run(port: int) -> None:
            async with JsonApi(f"http://127.0.0.1:{port}") as target:
                await target.put("posts", "00000000-0000-4000-8000-000000000001", {"title": "T"}, known=False)

        with apps(app) as (port,), pytest.raises(TargetError, match=r"refused it \(422\)") as told:
            asyncio.run(run(port))
        assert len(str(told.value)) < 400


def test_a_busy_target_is_waited_for_as_it_asks() -> None:
    asked: list[float] = []

    async def busy(request: web.Request) -> web.Response:
        asked.append(time.monotonic())
        if len(asked) < 3:
            return web.Response(status=503, headers={"Retry-After": "1"})
        return web.Response(status=204)

    app = web.Application()
    app.router.add_route("*", "/{rest:.*}", busy)

    async def run(port: int) -> str:
        async with JsonApi(f"http://127.0.0.1:{port}") as target:
            return await target.put("posts", "00000000-0000-4000-8000-000000000001", {"title": "T"}, known=False)

    with apps(app) as (port,):
        assert asyncio.run(run(port)) == "created"
    assert len(asked) == 3 and asked[1] - asked[0] >= 1
