"""An archive in the place of the site: the survey asks it as it would ask a server, so the source may be switched
off."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path
from typing import BinaryIO

from grandferry.core.address import Scope
from grandferry.core.errors import FerryError
from grandferry.core.filetypes import PAGE_TYPES
from grandferry.core.survey.robots import Robots
from grandferry.net.fetch import FILE_CAP, IN_MEMORY, PAGE_CAP, Fetched
from grandferry.ports.sources.archive import Held, read_answer, read_index

ABSENT = "not in the archive"


class TooLarge(Exception):
    """A body goes beyond what is taken in of one answer."""


class Archive:
    """Answers out of a WARC file; of several for one address the last good one. Use as a context."""

    def __init__(self, path: Path, scope: Scope, spill: Path):
        self._path = path
        self._spill = spill
        self._held: dict[str, Held] = {}
        for held in read_index(path):
            address = scope.normal(held.url)
            if address is not None:
                self._held[str(address)] = held
        if not self._held:
            raise FerryError("The archive holds no answer of any address.", "Is it of this site?")

    def __enter__(self) -> Archive:
        self._handle: BinaryIO = self._path.open("rb")
        return self

    def __exit__(self, *_: object) -> None:
        self._handle.close()

    @property
    def urls(self) -> list[str]:
        """All addresses the archive answers, in normal form."""
        return list(self._held)

    async def get(
        self, url: str, *, headers: dict[str, str] | None = None, method: str = "GET", whole: float = 600.0
    ) -> Fetched:
        """The answer to an address, as a fetch would give it."""
        result = Fetched(url)
        held = self._held.get(url)
        if held is None:
            result.kind, result.error = "absent", f"{ABSENT}."
            return result
        try:
            answer = read_answer(self._handle, held)
            result.status, result.headers = answer.status, answer.headers
            hasher = hashlib.sha256()
            chunks: list[bytes] = []
            spilled: BinaryIO | None = None
            html = result.mime in PAGE_TYPES | {""}
            cap = PAGE_CAP if html else FILE_CAP
            try:
                for chunk in answer.chunks:
                    result.size += len(chunk)
                    if result.size > cap:
                        raise TooLarge(f"Larger than the cap of {cap / 1e6:,.0f} MB.")
                    hasher.update(chunk)
                    if spilled is not None:
                        spilled.write(chunk)
                        continue
                    chunks.append(chunk)
                    if result.size > IN_MEMORY and not html:
                        result.path = self._spill / f"{os.getpid()}-{id(result):x}"
                        spilled = result.path.open("wb")
                        spilled.write(b"".join(chunks))
                        chunks.clear()
            finally:
                if spilled is not None:
                    spilled.close()
            result.body, result.hashed = b"".join(chunks), hasher.hexdigest()
        except TooLarge as problem:
            result.kind, result.error = "too large", str(problem)
            if result.path is not None:
                result.path.unlink(missing_ok=True)
                result.path = None
        except (FerryError, OSError, ValueError) as problem:
            result.kind, result.error = "broken", str(problem)
        return result


class ArchivePolite:
    """The manners towards an archive: it may be asked for everything, at once."""

    def __init__(self, archive: Archive):
        self._archive = archive

    async def robots(self, host: str) -> Robots:
        return Robots()

    async def may(self, host: str, key: str) -> bool:
        return True

    async def wait(self, host: str) -> None:
        return None

    def left_alone(self, host: str) -> bool:
        return False

    def walls(self) -> dict[str, str]:
        return {}

    def unchanged(self, host: str) -> None:
        return None

    def showed(self, host: str, refusal: str, digest: str) -> None:
        return None

    def pause_of(self, host: str) -> float:
        return 0.0

    async def get(self, url: str, host: str, headers: dict[str, str] | None = None) -> Fetched:
        return await self._archive.get(url)
