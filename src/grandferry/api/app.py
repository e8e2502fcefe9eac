"""The application: routers under /api, the front end, problem details, security headers."""

from __future__ import annotations

import asyncio
import os
import signal
from collections.abc import Awaitable, Callable

import uvicorn
from fastapi import FastAPI, Request, Response
from starlette.routing import Route

from grandferry import __version__
from grandferry.store import password

from . import (
    access,
    addresses,
    behind,
    blocks,
    bounds,
    bulk,
    crossings,
    edits,
    errors,
    forms,
    jobs,
    keys,
    land,
    lift,
    lists,
    manifest,
    maps,
    media,
    plan,
    questions,
    records,
    refit,
    rounds,
    route,
    shore,
    sisters,
    sort,
    steps,
    suggested,
    survey,
    web,
)
from .gate import Gate
from .guard import Guard
from .preview import make_preview

HEADERS = {
    "Content-Security-Policy": "default-src 'none'; frame-ancestors 'none'; base-uri 'none'; form-action 'none'",
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Resource-Policy": "same-origin",
}


def make_app(port: int = 0, preview_port: int = 0, shared: bool = False) -> FastAPI:
    """The application over the workspace this process has open; ``port`` is the one it will listen on (else
    ``$GRANDFERRY_PORT``, else 8700), ``preview_port`` that of the preview (else the next one); ``shared``: other
    machines reach it, and have to give the password."""
    port = port or int(os.environ.get("GRANDFERRY_PORT", "8700"))
    app = FastAPI(
        title="Grand Ferry",
        version=__version__,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        description="Carries a web site from an old content system to a new one, and accounts for everything.",
        responses=errors.RESPONSES,  # type: ignore[arg-type]
    )
    errors.install(app)
    modules = (
        crossings,
        plan,
        access,
        bounds,
        lists,
        addresses,
        survey,
        keys,
        sort,
        steps,
        bulk,
        lift,
        edits,
        forms,
        records,
        refit,
        blocks,
        route,
        shore,
        questions,
        suggested,
        maps,
        rounds,
        sisters,
        land,
        manifest,
        media,
        behind,
        jobs,
    )
    for module in modules:
        app.include_router(module.router, prefix="/api")
    routes = [route for module in modules for route in module.router.routes if isinstance(route, Route)]
    web.install(app, routes, preview_port or port + 1)

    @app.middleware("http")
    async def headers(request: Request, go_on: Callable[[Request], Awaitable[Response]]) -> Response:
        response = await go_on(request)
        for name, value in HEADERS.items():
            response.headers.setdefault(name, value)
        if request.url.path.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response

    if shared:
        app.add_middleware(Gate, fits=password.fits)
    app.add_middleware(Guard, port=port, closed="/api/", shared=shared)
    return app


class _Server(uvicorn.Server):
    """A server that leaves signals to whoever runs several of them."""

    def capture_signals(self):  # type: ignore[no-untyped-def]
        from contextlib import nullcontext

        return nullcontext()


def serve(host: str, port: int, preview_port: int, shared: bool = False) -> None:
    """Serve the application and its preview until SIGINT or SIGTERM; ``shared``: also to other machines. Streams that
    are open get a second to end."""
    config = {"host": host, "log_level": "warning", "access_log": False, "timeout_graceful_shutdown": 1}
    servers = [
        _Server(uvicorn.Config(make_app(port, preview_port, shared), port=port, **config)),  # type: ignore[arg-type]
        _Server(uvicorn.Config(make_preview(preview_port, port, shared), port=preview_port, **config)),  # type: ignore[arg-type]
    ]

    def end(*_: object) -> None:
        for server in servers:
            server.should_exit = True

    async def both() -> None:
        for name in (signal.SIGINT, signal.SIGTERM):
            asyncio.get_running_loop().add_signal_handler(name, end)
        await asyncio.gather(*(server.serve() for server in servers))

    asyncio.run(both())
