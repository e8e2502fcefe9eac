"""nginx: how it looks lines up (``keys``), the files written for it (``text``), what it answers (``answers``)."""

from __future__ import annotations

from grandferry.core.route.evaluate import Answer
from grandferry.core.route.redirects import RedirectMap

from ..bounds import Bound
from ..kept import held
from ..lines import NO_HEAD, Beyond, Head
from ..reading import bad_escape, climbs, ill_escaped, with_nul
from .answers import answer
from .text import BOUNDS, read, write


def _cannot(redirects: RedirectMap) -> list[Beyond]:
    above = (r for r in redirects.exact.values() if climbs(r.old.partition("?")[0]))
    return [*with_nul(redirects), *ill_escaped(redirects), *(Beyond(line, Bound.ABOVE) for line in above)]


_held = held(_cannot)


class Nginx:
    """nginx, as ``ports.servers.Server``."""

    name = "nginx"

    def write(self, redirects: RedirectMap, head: Head = NO_HEAD) -> dict[str, bytes]:
        return write(_held(redirects), head)

    def read(self, files: dict[str, bytes]) -> RedirectMap:
        return read(files)

    def answer(self, redirects: RedirectMap, request: str) -> Answer | None:
        path = request.partition("?")[0]
        if bad_escape(path) or climbs(path) or "%00" in path:
            return None
        return answer(_held(redirects), request)

    def cannot(self, redirects: RedirectMap) -> list[Beyond]:
        return _cannot(redirects)

    def bounds(self, redirects: RedirectMap) -> list[Bound]:
        return list(BOUNDS)
