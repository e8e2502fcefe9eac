"""nginx: how it looks lines up (``keys``), the files written for it (``text``), what it answers (``answers``)."""

from __future__ import annotations

from grandferry.core.route.evaluate import Answer
from grandferry.core.route.redirects import RedirectMap

from .answers import answer
from .text import read, write


class Nginx:
    """nginx, as ``ports.servers.Server``."""

    name = "nginx"

    def write(self, redirects: RedirectMap) -> dict[str, bytes]:
        return write(redirects)

    def read(self, files: dict[str, bytes]) -> RedirectMap:
        return read(files)

    def answer(self, redirects: RedirectMap, request: str) -> Answer | None:
        return answer(redirects, request)

    def cannot(self, redirects: RedirectMap) -> list[str]:
        return []
