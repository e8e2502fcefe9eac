"""Pages as a browser builds them: those that the plan names, and where it asks for that those that need it."""

from __future__ import annotations

import asyncio
import codecs
from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

from grandferry.core.address import Scope, normal
from grandferry.core.patterns import compile_pattern
from grandferry.core.plan import SurveySettings
from grandferry.net.fetch import Fetched
from grandferry.net.manners import Polite
from grandferry.store import bodies
from grandferry.work.survey.archive import ArchivePolite
from grandferry.work.survey.reader import AnswerReader
from grandferry.work.survey.reading import Reading

if TYPE_CHECKING:  # a browser, its proxy and their keys are wanted by few surveys
    from grandferry.net.browser import Renderer

SHARED_BYTES, SHARED_ONE = 64_000_000, 2_000_000  # of files that the browser and the walk have from each other
UNASKED = "/favicon.ico"  # every browser asks for it, though no page names it; it shows in none


class Building:
    """A browser beside the walk, with the same bounds and manners; files that either has asked for are not asked
    again."""

    def __init__(
        self,
        settings: SurveySettings,
        scope: Scope,
        polite: Polite | ArchivePolite,
        reader: AnswerReader,
        say: Callable[..., None],
    ):
        self._settings = settings
        self._scope = scope
        self._polite = polite
        self._reader = reader
        self._say = say
        self._renderer: Renderer | None = None
        self._opening = asyncio.Lock()
        self._shared: dict[str, Fetched] = {}
        self._bytes = 0

    async def close(self) -> None:
        if self._renderer is not None:
            await self._renderer.close()

    def had(self, url: str) -> Fetched | None:
        """A file that the browser, or the walk, has asked for already."""
        known = self._shared.get(url)
        return replace(known) if known is not None else None

    def share(self, got: Fetched) -> None:
        """Keep a file for the browser, or what the browser had for the walk."""
        if got.status == 200 and got.mime != "text/html" and 0 < len(got.body) <= SHARED_ONE:
            self._bytes += len(got.body)
            if self._bytes <= SHARED_BYTES:
                self._shared[got.url] = replace(got)

    def wants(self, key: str) -> bool:
        """Whether the plan names a page, by its path and query, as one to capture through a browser."""
        return any(compile_pattern(p).search(key) for p in self._settings.browser)

    async def as_built(self, key: str, got: Fetched, reading: Reading) -> Reading:
        """The reading of a page as a browser builds it, where the plan asks for that; else as it is. What the raw
        answer leads to is kept as well."""
        settings = self._settings
        needed = settings.browser_where_needed and reading.facts is not None and reading.facts.built_by_scripts
        if not (needed or self.wants(key)):
            return reading
        renderer = await self._opened()
        dom, problem = await renderer.render(got)
        if dom is None:
            reading.fault = reading.fault or f"Not captured through a browser: {problem}"
            return reading
        body = codecs.BOM_UTF8 + dom
        again = Fetched(
            got.url, got.status, {"content-type": "text/html; charset=utf-8"}, body, hashed=bodies.digest(body)
        )
        built = await self._reader.read(again)
        if built.fault or built.refusal:
            return reading
        reading.rendered = (built.digest, len(body), built.packed, built.data)
        reading.facts, reading.said, reading.refusal = built.facts, built.said, ""
        reading.refs = list(dict.fromkeys([*built.refs, *reading.refs]))
        return reading

    async def _opened(self) -> Renderer:
        """The renderer, opened by the first page that needs it; the others wait for that."""
        async with self._opening:
            if self._renderer is None:
                from grandferry.net.browser import Renderer

                renderer = Renderer(self._for_browser)
                await renderer.open()
                if renderer.note:
                    self._say(renderer.note, "warning")
                self._renderer = renderer
        return self._renderer

    async def _for_browser(self, url: str) -> Fetched:
        """What a page asks for while a browser builds it: within the bounds, with our manners and our access."""
        address = normal(url)
        scoped = self._scope.normal(url)
        if address is None or scoped is None or self._scope.shut_out(scoped, is_file=True):
            return Fetched(url, status=403)
        if address.path == UNASKED:
            return Fetched(url, status=404)
        if not await self._polite.may(scoped.host, scoped.key):
            return Fetched(url, status=403)
        known = self._shared.get(str(scoped))
        if known is not None:
            return known
        got = await self._polite.get(str(scoped), scoped.host)
        if got.path is not None:
            got.body = got.path.read_bytes()
            got.path.unlink(missing_ok=True)
            got.path = None
        self.share(got)
        return got
