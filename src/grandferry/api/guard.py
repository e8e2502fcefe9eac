"""Host header and origin: only this machine's own names, and changes only from our own pages or programs."""

from __future__ import annotations

from starlette.types import ASGIApp, Receive, Scope, Send

from .errors import problem

NAMES = ("127.0.0.1", "localhost", "[::1]")


class Guard:
    """Refuses a foreign Host header (DNS rebinding), changes that come from another origin (another port is one, too)
    and questions below ``closed`` that another origin's page asks: to answer them is work."""

    def __init__(self, app: ASGIApp, port: int, closed: str = ""):
        self._app = app
        self._closed = closed
        self._hosts = {f"{name}:{port}".encode() for name in NAMES}
        if port == 80:
            self._hosts |= {name.encode() for name in NAMES}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = dict(scope["headers"])
        host = headers.get(b"host", b"")
        if host not in self._hosts:
            await problem(403, "Refused", "This host name is not one the application answers to.")(scope, receive, send)
            return
        change = scope["method"] not in ("GET", "HEAD", "OPTIONS")
        if change or (self._closed and scope["path"].startswith(self._closed)):
            origin, site = headers.get(b"origin"), headers.get(b"sec-fetch-site", b"none")
            if origin not in (None, b"http://" + host) or site not in (b"none", b"same-origin"):
                said = "A change can only come" if change else "This can only be asked"
                await problem(403, "Refused", f"{said} from the application itself.")(scope, receive, send)
                return
        await self._app(scope, receive, send)
