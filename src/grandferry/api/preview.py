"""The preview's own application, on a port of its own: captured pages as another origin, in a sandbox.

It has no cookie, no API and no script but our bridge. Every address carries its signature; nothing else is answered.
"""

from __future__ import annotations

import secrets
from collections.abc import Awaitable, Callable
from functools import cache
from pathlib import Path

from fastapi import Depends, FastAPI, Request
from fastapi.responses import HTMLResponse, Response
from starlette.exceptions import HTTPException

from grandferry.work.refit import preview

from . import errors
from .common import opened
from .guard import Guard, name_of
from .signing import sign, signed

HERE = Path(__file__).parent
PAPER = (
    "body{margin:20px 26px;font:15px/1.5 'Liberation "
    "Sans',Arial,sans-serif;color:#18262e;background:#fff;max-width:44em}h1{font-size:24px;margin:0 0 "
    "12px}img{max-width:100%;height:auto}table{border-collapse:collapse}td,th{border:1px solid #b9c6ca;padding:3px "
    "8px;text-align:left;vertical-align:top}pre{background:#f7f8f6;padding:8px;overflow:auto}"
    "blockquote{border-left:3px solid #5fa0ae;margin-left:0;padding-left:12px}"
)


@cache
def _part(name: str) -> str:
    return (HERE / name).read_text("utf-8")


def policy(nonce: str, origin: str, app_origins: str) -> str:
    """The policy of a previewed page: our bridge by nonce; pictures, styles and fonts from the store alone."""
    return (
        f"sandbox allow-scripts; default-src 'none'; script-src 'nonce-{nonce}'; script-src-attr 'none'; "
        f"style-src 'unsafe-inline' {origin}/file/; img-src {origin}/file/ data:; font-src {origin}/file/; "
        "connect-src 'none'; media-src 'none'; frame-src 'none'; child-src 'none'; object-src 'none'; worker-src "
        f"'none'; manifest-src 'none'; form-action 'none'; base-uri 'none'; frame-ancestors {app_origins}"
    )


def make_preview(port: int, app_port: int, shared: bool = False) -> FastAPI:
    """The preview application: it listens on ``port`` and may be framed by the application on ``app_port`` alone."""
    app = FastAPI(title="Grand Ferry preview", docs_url=None, redoc_url=None, openapi_url=None)
    errors.install(app)

    def address_of(request: Request, crossing: int) -> Callable[[int], str]:
        origin = f"http://{request.headers['host']}"
        return lambda address: f"{origin}/file/{crossing}/{address}/{sign('file', crossing, address)}"

    def shown(request: Request, make: Callable[[str], str]) -> Response:
        nonce = secrets.token_urlsafe(16)
        head = f'<script nonce="{nonce}">{_part("bridge.js")}</script><style>{_part("bridge.css")}</style>'
        names = dict.fromkeys(["127.0.0.1", "localhost", name_of(request.headers["host"])])
        framed = " ".join(f"http://{name}:{app_port}" for name in names)
        return HTMLResponse(
            make(head),
            headers={"Content-Security-Policy": policy(nonce, f"http://{request.headers['host']}", framed)},
        )

    def allowed(given: str, *parts: object) -> None:
        if not signed(given, *parts):
            raise HTTPException(403, "This address carries no leave of the application; open the page there again.")

    @app.get("/page/{crossing}/{address}/{leave}", dependencies=[Depends(opened)])
    def page(
        request: Request, crossing: int, address: int, leave: str, losses: bool = False, raw: bool = False
    ) -> Response:
        allowed(leave, "page", crossing, address)
        find = address_of(request, crossing)
        return shown(request, lambda head: preview.page_preview(crossing, address, head, find, losses, raw))

    @app.get("/body/{crossing}/{item}/{field}/{leave}", dependencies=[Depends(opened)])
    def body(request: Request, crossing: int, item: int, field: str, leave: str) -> Response:
        allowed(leave, "body", crossing, item, field)
        find = address_of(request, crossing)
        return shown(
            request,
            lambda head: preview.body_preview(crossing, item, field, f"{head}<style>{PAPER}</style>", find),
        )

    @app.get("/file/{crossing}/{address}/{leave}", dependencies=[Depends(opened)])
    def file(request: Request, crossing: int, address: int, leave: str) -> Response:
        allowed(leave, "file", crossing, address)
        type_, data = preview.file_preview(crossing, address, address_of(request, crossing))
        return Response(
            data,
            media_type=type_,
            headers={
                "Content-Security-Policy": "default-src 'none'; sandbox",
                "Cross-Origin-Resource-Policy": "cross-origin",
                "Access-Control-Allow-Origin": "*",
            },
        )

    @app.middleware("http")
    async def headers(request: Request, go_on: Callable[[Request], Awaitable[Response]]) -> Response:
        response = await go_on(request)
        for name, value in (
            ("Content-Security-Policy", "default-src 'none'; sandbox"),
            ("X-Content-Type-Options", "nosniff"),
            ("Referrer-Policy", "no-referrer"),
            ("X-DNS-Prefetch-Control", "off"),
            ("Cache-Control", "no-store"),
        ):
            response.headers.setdefault(name, value)
        return response

    app.add_middleware(Guard, port=port, shared=shared)
    return app
