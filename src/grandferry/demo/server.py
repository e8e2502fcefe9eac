"""Serves the demo: the old site's two hosts on one port, the new system on another; loopback only."""

from __future__ import annotations

import asyncio
import base64
import contextlib
import signal
from collections.abc import Callable
from pathlib import Path

from aiohttp import web

from .newsystem import NewSystem
from .site import Site


def old_app(site: Site, seen: Callable[[str, str], None] | None = None) -> web.Application:
    """The old hosts; ``seen(host, key)`` is called for every request (tests count them)."""

    async def answer(request: web.Request) -> web.Response:
        key = request.raw_path
        if seen is not None:
            seen(request.host, key)
        folder = next((f for f in site.locked if key.startswith(f)), "")
        if folder:
            pass_word = base64.b64encode(":".join(site.locked[folder]).encode()).decode()
            if request.headers.get("Authorization") != f"Basic {pass_word}":
                return web.Response(status=401, headers={"WWW-Authenticate": 'Basic realm="Committee"'})
        found = site.answer(request.host, key)
        if found is None:
            return web.Response(
                status=404, text="<h1>Not found</h1><p>No such page on this railway.</p>", content_type="text/html"
            )
        headers = {"Content-Type": found.type} | ({"Location": found.location} if found.location else {})
        return web.Response(status=found.status, body=found.body, headers=headers)

    app = web.Application()
    app.router.add_route("*", "/{rest:.*}", answer)
    return app


async def serve(
    site: Site, database: Path, old_port: int, new_port: int, ready: Callable[[], None] | None = None
) -> None:
    """Serve until told to end (SIGTERM or Ctrl+C). Raises OSError when a port is taken."""
    runners = []
    for app, port in ((old_app(site), old_port), (NewSystem(database).app(), new_port)):
        runner = web.AppRunner(app, access_log=None)
        await runner.setup()
        await web.TCPSite(runner, "127.0.0.1", port).start()
        runners.append(runner)
    ended = asyncio.Event()
    loop = asyncio.get_running_loop()
    for number in (signal.SIGTERM, signal.SIGINT):
        with contextlib.suppress(NotImplementedError, RuntimeError):
            loop.add_signal_handler(number, ended.set)
    if ready is not None:
        ready()
    await ended.wait()
    for runner in runners:
        await runner.cleanup()
