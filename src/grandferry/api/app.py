"""The application: routers under /api, problem details, security headers."""

from __future__ import annotations

import os
from collections.abc import Awaitable, Callable

from fastapi import FastAPI, Request, Response
from fastapi.responses import PlainTextResponse

from grandferry import __version__

from . import crossings, errors, jobs, stages, survey
from .guard import Guard

HEADERS = {
    "Content-Security-Policy": "default-src 'none'; frame-ancestors 'none'; base-uri 'none'; form-action 'none'",
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Resource-Policy": "same-origin",
}


def make_app(port: int = 0) -> FastAPI:
    """The application over the workspace this process has open; ``port`` is the one it will listen on (else
    ``$GRANDFERRY_PORT``, else 8700)."""
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
    for module in (crossings, survey, stages, jobs):
        app.include_router(module.router, prefix="/api")

    @app.get("/", include_in_schema=False, response_class=PlainTextResponse)
    def root() -> str:
        return "Grand Ferry. The API is under /api; its description is /api/openapi.json.\n"

    @app.middleware("http")
    async def headers(request: Request, go_on: Callable[[Request], Awaitable[Response]]) -> Response:
        response = await go_on(request)
        for name, value in HEADERS.items():
            response.headers.setdefault(name, value)
        return response

    app.add_middleware(Guard, port=port)
    return app
