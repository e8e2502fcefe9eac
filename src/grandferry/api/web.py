"""The front end: one page with a fresh nonce per answer, and its built files, which never change under their names."""

from __future__ import annotations

import mimetypes
import secrets
from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.responses import HTMLResponse, PlainTextResponse, Response
from starlette.exceptions import HTTPException
from starlette.responses import FileResponse
from starlette.routing import Route

from .guard import name_of

BUILT = Path(__file__).parent.parent / "web"
NONCE = "__CSP_NONCE__"
for ending, type_ in ((".woff2", "font/woff2"), (".js", "text/javascript"), (".svg", "image/svg+xml")):
    mimetypes.add_type(type_, ending)

MISSING = (
    "Grand Ferry. The API is under /api; its description is /api/openapi.json. "
    "The interface is not built here: ./ferry builds it.\n"
)
METHODS = ["GET", "HEAD", "POST", "PUT", "PATCH", "DELETE", "OPTIONS"]


def policy(nonce: str, preview: str) -> str:
    """The page's Content-Security-Policy; ``preview`` is the one origin that may be framed."""
    return (
        f"default-src 'none'; script-src 'self' 'nonce-{nonce}'; style-src 'self' 'nonce-{nonce}'; img-src 'self' "
        f"data:; font-src 'self'; connect-src 'self'; frame-src {preview}/; base-uri 'none'; form-action 'none'; "
        "frame-ancestors 'none'; object-src 'none'; require-trusted-types-for 'script'; trusted-types 'none'"
    )


def install(app: FastAPI, api: list[Route], preview_port: int, built: Path = BUILT) -> None:
    """Serve the built front end from ``built``; every address that is no file and not under /api is the page itself.
    ``api``: the routes under /api; captured pages
    are shown at ``preview_port`` of the same host."""

    @app.get("/assets/{name:path}", include_in_schema=False)
    def asset(name: str, request: Request) -> Response:
        home = (built / "assets").resolve()
        path = (home / name).resolve()
        if not path.is_relative_to(home) or not path.is_file():
            raise HTTPException(404, "There is no such file.")
        headers = {"Cache-Control": "public, max-age=31536000, immutable", "Vary": "Accept-Encoding"}
        type_ = mimetypes.guess_type(path.name)[0] or "application/octet-stream"
        packed = path.with_name(path.name + ".gz")
        if packed.is_file() and "gzip" in request.headers.get("accept-encoding", ""):
            return FileResponse(packed, media_type=type_, headers={**headers, "Content-Encoding": "gzip"})
        return FileResponse(path, media_type=type_, headers=headers)

    @app.api_route("/api/{rest:path}", methods=METHODS, include_in_schema=False)
    def nothing(request: Request) -> Response:
        """What no route has taken: an address that there is none of, or one that is asked in another way."""
        path = request.url.path.removeprefix("/api")
        ways = sorted({way for route in api if route.path_regex.match(path) for way in route.methods or ()})
        if not ways:
            raise HTTPException(404, "There is no such address in the API.")
        told = f"This address answers {' and '.join(ways)} only, not {request.method}."
        raise HTTPException(405, told, {"Allow": ", ".join(ways)})

    @app.get("/{rest:path}", include_in_schema=False)
    def page(rest: str, request: Request) -> Response:
        index = built / "index.html"
        if not index.is_file():
            return PlainTextResponse(MISSING)
        nonce = secrets.token_urlsafe(16)
        preview = f"http://{name_of(request.headers['host'])}:{preview_port}"
        html = index.read_text("utf-8").replace(NONCE, nonce).replace("__PREVIEW__", preview)
        return HTMLResponse(
            html,
            headers={
                "Content-Security-Policy": policy(nonce, preview),
                "Cache-Control": "no-store",
                "Cross-Origin-Opener-Policy": "same-origin",
            },
        )
