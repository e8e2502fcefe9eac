"""Host header and origin: only names of our own, and changes only from our own pages or programs."""

from __future__ import annotations

import ipaddress
import socket

from starlette.types import ASGIApp, Receive, Scope, Send

from .errors import problem

NAMES = ("127.0.0.1", "localhost", "[::1]")


class Guard:
    """Refuses a foreign Host header (DNS rebinding), changes that come from another origin (another port is one, too)
    and questions below ``closed`` that another origin's page asks: to answer them is work. ``shared``: other machines
    ask as well, by this one's name or an address of it."""

    def __init__(self, app: ASGIApp, port: int, closed: str = "", shared: bool = False):
        self._app = app
        self._closed = closed
        self._port = port
        self._shared = shared
        self._hosts = {f"{name}:{port}".encode() for name in NAMES}
        if port == 80:
            self._hosts |= {name.encode() for name in NAMES}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = dict(scope["headers"])
        host = headers.get(b"host", b"")
        if host not in self._hosts and not (self._shared and self._is_own(host)):
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

    def _is_own(self, host: bytes) -> bool:
        name, _, port = host.decode("latin-1").rpartition(":") if b":" in host else (host.decode("latin-1"), "", "80")
        if port != str(self._port):
            return False
        if name.lower() in (socket.gethostname().lower(), socket.getfqdn().lower()):
            return True
        try:
            ipaddress.ip_address(name.removeprefix("[").removesuffix("]"))
        except ValueError:
            return False
        return True


def name_of(host: str) -> str:
    """The name in a Host header, its port aside; of this machine's own ones the first."""
    name = host.rpartition(":")[0] if ":" in host.rpartition("]")[2] else host
    return NAMES[0] if name in NAMES[:2] else name
