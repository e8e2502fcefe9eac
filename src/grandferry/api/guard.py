"""Host header and origin: only this machine's own names, and changes only from our own pages or programs."""

from __future__ import annotations

from starlette.types import ASGIApp, Receive, Scope, Send

from .errors import problem

NAMES = ("127.0.0.1", "localhost", "[::1]")


class Guard:
    """Refuses a foreign Host header (DNS rebinding) and changes that come from another origin."""

    def __init__(self, app: ASGIApp, port: int):
        self._app = app
        self._hosts = {f"{name}:{port}".encode() for name in NAMES} | {name.encode() for name in NAMES}
        self._origins = {b"http://" + host for host in self._hosts}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = dict(scope["headers"])
        if headers.get(b"host", b"") not in self._hosts:
            await problem(403, "Refused", "This host name is not one the application answers to.")(scope, receive, send)
            return
        if scope["method"] not in ("GET", "HEAD", "OPTIONS"):
            origin, site = headers.get(b"origin"), headers.get(b"sec-fetch-site", b"none")
            if (origin is not None and origin not in self._origins) or site not in (b"none", b"same-origin"):
                await problem(403, "Refused", "A change can only come from the application itself.")(
                    scope, receive, send
                )
                return
        await self._app(scope, receive, send)
