"""The gate before an application that other machines reach: a page of its own asks for the password, a cookie lets its
bearer in, and only so many wrong tries are looked at in a while."""

from __future__ import annotations

import asyncio
import hashlib
import html
import secrets
import sys
import time
from collections import deque
from collections.abc import Callable
from http.cookies import CookieError, SimpleCookie
from urllib.parse import parse_qs

from starlette.requests import Request
from starlette.responses import HTMLResponse, RedirectResponse, Response
from starlette.types import ASGIApp, Receive, Scope, Send

from .errors import problem

COOKIE = "grandferry"
PLACE = "/sign-in"
LASTS = 12 * 3600.0  # seconds that a cookie is good for
WHILE = 300.0  # seconds in which tries are counted
FROM_ONE, FROM_ALL = 5, 50  # wrong tries in that time, of one machine and of all
LONGEST = 4096  # bytes of what is sent
STYLE = (
    "body{margin:0;min-height:100vh;display:grid;place-items:center;background:#f7f8f6;color:#18262e;font:15px/1.5 "
    "'Liberation Sans',Arial,sans-serif}form{width:320px;padding:28px;background:#fff;border:1px solid #d5dcdd;"
    "border-radius:8px}h1{margin:0 0 4px;font-size:20px}p{margin:0 0 16px;color:#4c5d66}p.no{color:#a3320b}label{"
    "display:block;font-weight:600}input{box-sizing:border-box;width:100%;margin:4px 0 16px;padding:9px;font:inherit;"
    "border:1px solid #7d8d94;border-radius:5px}button{padding:9px 18px;font:inherit;font-weight:600;color:#fff;"
    "background:#0f5b6e;border:0;border-radius:5px}:focus-visible{outline:3px solid #e0a030;outline-offset:2px}"
)


class Gate:
    """Lets in requests whose cookie it gave out itself. ``fits`` tells the password, and may take its time; who is
    without is led to the page that asks for it, a program is told so."""

    def __init__(self, app: ASGIApp, fits: Callable[[str], bool], now: Callable[[], float] = time.monotonic):
        self._app = app
        self._fits = fits
        self._now = now
        self._let_in: dict[bytes, float] = {}  # hash of a cookie -> until when
        self._tries: deque[tuple[float, str]] = deque()  # wrong ones, and those that are being looked at
        self._one = asyncio.Lock()  # what telling a password takes is not taken many times over

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        request = Request(scope, receive)
        if request.url.path == PLACE:
            answer = await self._sign_in(request)
        elif self._known(request):
            await self._app(scope, receive, send)
            return
        elif request.url.path.startswith("/api/"):
            answer = problem(401, "Sign in", "Sign in first: the application asks for its password.")
        else:
            answer = RedirectResponse(PLACE, 303)
        await answer(scope, receive, send)

    def _known(self, request: Request) -> bool:
        try:
            cookie = SimpleCookie(request.headers.get("cookie", "")).get(COOKIE)
        except CookieError:
            return False
        return cookie is not None and self._let_in.get(_hash(cookie.value), 0.0) > self._now()

    async def _sign_in(self, request: Request) -> Response:
        if request.method in ("GET", "HEAD"):
            return _page("")
        if request.method != "POST":
            return problem(405, "Not so", "This address answers GET and POST only.")
        sender = request.client.host if request.client else ""
        given = b""
        async for part in request.stream():
            given += part
            if len(given) > LONGEST:
                return _page("That is too long for a password.", 413)
        word = parse_qs(given.decode("utf-8", "replace"), keep_blank_values=True).get("password", [""])[0]
        # counted before it is looked at, and nothing is waited for between asking and counting: many at once are not
        # more than one after the other
        left = self._locked(sender)
        if left:
            said = f"Too many wrong tries. The next one is looked at in {left // 60 + 1} minutes."
            return _page(said, 429, {"Retry-After": str(left)})
        mine = (self._now(), sender)
        self._tries.append(mine)
        async with self._one:
            good = await asyncio.to_thread(self._fits, word)
        if not good:
            print(f"A wrong password was given from {sender}.", file=sys.stderr)
            return _page("That is not the password.", 403)
        self._tries.remove(mine)
        self._let_in = {known: until for known, until in self._let_in.items() if until > self._now()}
        token = secrets.token_urlsafe(32)
        self._let_in[_hash(token)] = self._now() + LASTS
        answer = RedirectResponse("/", 303)
        answer.set_cookie(COOKIE, token, httponly=True, samesite="strict", path="/")
        return answer

    def _locked(self, sender: str) -> int:
        """The seconds until another try of a machine is looked at, 0 when it may try."""
        while self._tries and self._tries[0][0] <= self._now() - WHILE:
            self._tries.popleft()
        mine = [at for at, by in self._tries if by == sender]
        bound = mine[-FROM_ONE] if len(mine) >= FROM_ONE else None
        if bound is None and len(self._tries) >= FROM_ALL:
            bound = self._tries[-FROM_ALL][0]
        return 0 if bound is None else max(1, round(bound + WHILE - self._now()))


def _hash(token: str) -> bytes:
    return hashlib.sha256(token.encode("utf-8", "replace")).digest()


def _page(said: str, status: int = 200, headers: dict[str, str] | None = None) -> Response:
    nonce = secrets.token_urlsafe(16)
    told = f'<p class="no" role="alert">{html.escape(said)}</p>' if said else "<p>The password of this workspace</p>"
    page = (
        '<!DOCTYPE html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width">'
        f'<title>Sign in – Grand Ferry</title><style nonce="{nonce}">{STYLE}</style></head><body><main><form '
        f'method="post" action="{PLACE}"><h1>Grand Ferry</h1>{told}<label for="password">Password</label>'
        '<input id="password" name="password" type="password" autocomplete="current-password" required autofocus>'
        "<button>Sign in</button></form></main></body></html>"
    )
    policy = (
        f"default-src 'none'; style-src 'nonce-{nonce}'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
    )
    sent = {"Content-Security-Policy": policy, "Cache-Control": "no-store", "X-Content-Type-Options": "nosniff"}
    return HTMLResponse(page, status, {**sent, **(headers or {})})
