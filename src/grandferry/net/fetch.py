"""One HTTP answer: fetched with caps on time, size, headers and decompression; redirects are not followed."""

from __future__ import annotations

import hashlib
import os
import time
import zlib
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, BinaryIO
from urllib.parse import urlsplit

from pycurl import error as pycurl_error

from grandferry.core.filetypes import PAGE_TYPES

from .resolve import Refused, check_literal, place_of
from .wire import Ended, Wire

IN_MEMORY = 1_000_000
PAGE_CAP, FILE_CAP = 16_000_000, 1_000_000_000  # bytes of a body, unpacked
CHUNK = 64 * 1024
ACCEPT = "text/html,application/xhtml+xml,*/*;q=0.8"


@dataclass(slots=True)
class Fetched:
    """An answer, or the reason why there is none.

    ``error`` is a sentence, ``kind`` its class: unreachable, slow, too large, broken, refused, or "".
    ``body`` holds small bodies; larger ones lie in the temporary file ``path``, and ``hashed`` is their hash.
    """

    url: str
    status: int = 0
    headers: dict[str, str] = field(default_factory=dict)
    body: bytes = b""
    path: Path | None = None
    size: int = 0
    hashed: str = ""
    seconds: float = 0.0
    kind: str = ""
    error: str = ""

    @property
    def digest(self) -> str:
        """The SHA-256 of the body."""
        if not self.hashed:
            self.hashed = hashlib.sha256(self.body).hexdigest()
        return self.hashed

    def header(self, name: str) -> str:
        return self.headers.get(name, "")

    @property
    def mime(self) -> str:
        return self.header("content-type").partition(";")[0].strip().lower()


class _Cap(Exception):
    pass


class _Broken(Exception):
    pass


class _Enough(Exception):
    """As much has come as was asked for."""


class _Answer:
    """Takes an answer in as it comes: its head line by line, its body part by part, within its caps."""

    def __init__(self, result: Fetched, page_cap: int, file_cap: int, spill: Path | None, first: int, hold: bool):
        self.result = result
        self.enough = False
        self._first, self._hold = first, hold
        self.head: list[bytes] = []
        self.problem: Exception | None = None
        self.unpack: Any = None
        self._page_cap, self._file_cap, self._spill = page_cap, file_cap, spill
        self._cap = 0
        self._html = False
        self._raw_deflate = False
        self._chunks: list[bytes] = []
        self._hasher = hashlib.sha256()  # of a body that is too large for memory; others are hashed by who needs it
        self._file: BinaryIO | None = None

    def read_head(self) -> None:
        """Status and headers, of the last head where several came (RFC 9110 section 15.2)."""
        result, lines = self.result, self.head
        begins = max((n for n, line in enumerate(lines) if line.startswith(b"HTTP/")), default=-1)
        if begins < 0:
            return
        parts = lines[begins].split(None, 2)
        result.status = int(parts[1]) if len(parts) > 1 and parts[1].isdigit() else 0
        for line in lines[begins + 1 :]:
            name, colon, value = _text(line).partition(":")
            name = name.strip().lower()
            if colon and name:
                known = result.headers.get(name)
                result.headers[name] = f"{known}, {value.strip()}" if known else value.strip()

    def part(self, raw: bytes) -> int | None:
        """A part of the body; -1 ends the request."""
        try:
            if not self._cap:
                self._begin()
            self._take(raw)
        except _Enough:
            self.enough = True
            return -1
        except (_Cap, _Broken, zlib.error, OSError) as problem:
            self.problem = problem
            return -1
        return None

    def _begin(self) -> None:
        self.read_head()
        result = self.result
        self._html = result.mime in PAGE_TYPES | {""}
        self._cap = self._page_cap if self._html else self._file_cap
        said = result.header("content-length")
        if not self._first and said.isdigit() and int(said) > self._cap:
            raise _Cap(self._too_large())
        coding = result.header("content-encoding").lower().strip()
        if coding not in ("", "identity", "gzip", "x-gzip", "deflate"):
            raise _Broken(f"unasked-for coding {coding}")
        if coding not in ("", "identity"):
            self.unpack = zlib.decompressobj(47)
            self._raw_deflate = coding == "deflate"

    def _too_large(self) -> str:
        return f"Larger than the cap of {self._cap / 1e6:,.0f} MB."

    def _take(self, raw: bytes) -> None:
        if self.unpack is None:
            self._add(raw)
            return
        if self._raw_deflate and raw[:1] != b"\x78":  # raw deflate, as some servers send it
            self.unpack = zlib.decompressobj(-15)
        self._raw_deflate = False
        while raw:
            self._add(self.unpack.decompress(raw, CHUNK * 4))
            raw = self.unpack.unconsumed_tail

    def _add(self, piece: bytes) -> None:
        result = self.result
        if self._first and result.size + len(piece) >= self._first:
            self._chunks.append(piece[: self._first - result.size])
            result.size = self._first
            raise _Enough
        result.size += len(piece)
        if result.size > self._cap:
            raise _Cap(self._too_large())
        if not (self._hold or self._html):
            self._hasher.update(piece)
            return
        if self._file is not None:
            self._hasher.update(piece)
            self._file.write(piece)
            return
        self._chunks.append(piece)
        if result.size > IN_MEMORY and not self._html and self._spill is not None:
            result.path = self._spill / f"{os.getpid()}-{id(result):x}"
            self._file = result.path.open("wb")
            for chunk in self._chunks:
                self._hasher.update(chunk)
                self._file.write(chunk)
            self._chunks.clear()

    def close(self) -> None:
        """The end of the answer: what it adds up to."""
        if not self._cap:
            self.read_head()
        if self._file is not None:
            self._file.close()
            self.result.hashed = self._hasher.hexdigest()
        elif not (self._hold or self._html or self._first):
            self.result.hashed = self._hasher.hexdigest()
        self.result.body = b"".join(self._chunks)


class Fetcher:
    """Fetches single addresses. ``hosts``: those of the crossing (with port), which may lie at private addresses, as
    may all below the host ``below``; ``spill``: folder for large bodies; ``hold``: keep what files hold, or of each its
    hash alone; ``secrets``: the headers that give access to a host (with port), sent to that host alone."""

    def __init__(
        self,
        *,
        agent: str,
        hosts: frozenset[str] = frozenset(),
        below: str = "",
        at_once: int = 4,
        timeout: float = 30.0,
        page_cap: int = PAGE_CAP,
        file_cap: int = FILE_CAP,
        spill: Path | None = None,
        hold: bool = True,
        secrets: Callable[[str], dict[str, str]] | None = None,
    ):
        self._named = frozenset(host.lower() for host in hosts)
        self._below = f".{below.lower()}" if below else ""
        self._headers = {"User-Agent": agent, "Accept": ACCEPT, "Accept-Encoding": "gzip, deflate"}
        self._wire = Wire(at_once=at_once, timeout=timeout)
        self._timeout = timeout
        self._page_cap = page_cap
        self._file_cap = file_cap
        self._spill = spill
        self._hold = hold
        self._secrets = secrets
        self._origins: dict[str, tuple[str, bool, list[str]]] = {}

    async def __aenter__(self) -> Fetcher:
        await self._wire.__aenter__()
        return self

    async def __aexit__(self, *error: object) -> None:
        await self._wire.__aexit__(*error)

    async def get(
        self,
        url: str,
        *,
        headers: dict[str, str] | None = None,
        method: str = "GET",
        whole: float = 600.0,
        first: int = 0,
    ) -> Fetched:
        """Fetch one address. Never raises for what the other side does; ``whole`` caps the seconds in all; ``first``:
        no more than so many bytes of its body are wanted, and held in memory."""
        result = Fetched(url)
        started = time.monotonic()
        try:
            host, ours, lines = self._to(url)
            if headers:
                lines = _lines(dict(line.split(": ", 1) for line in lines) | headers)
            answer = _Answer(result, self._page_cap, self._file_cap, self._spill, first, self._hold)
            await self._ask(answer, url, host, ours, method, lines, whole)
        except Refused as problem:
            result.kind, result.error = "refused", f"Not asked: {problem}."
        except (ValueError, pycurl_error) as problem:
            result.kind, result.error = "broken", f"The address cannot be asked: {_plain(str(problem))}."
        result.seconds = time.monotonic() - started
        if result.error and result.path is not None:
            result.path.unlink(missing_ok=True)
            result.path = None
        return result

    def _to(self, url: str) -> tuple[str, bool, list[str]]:
        """The host of an address, whether the crossing names it with this port, and the request headers sent there.
        Raises Refused for one that is never asked."""
        origin = url[: url.find("/", 8)] if "/" in url[8:] else url  # what follows "https://" up to its path
        known = self._origins.get(origin)
        if known is None:
            parts = urlsplit(origin)
            host = parts.hostname or ""
            place = place_of(parts.netloc, parts.scheme)
            ours = place in self._named or bool(self._below and place.endswith(self._below))
            check_literal(host, ours)
            sent = dict(self._headers)
            if self._secrets is not None:
                sent |= self._secrets(parts.netloc.rpartition("@")[2])
            known = self._origins[origin] = (host, ours, _lines(sent))
        return known

    async def _ask(
        self, answer: _Answer, url: str, host: str, ours: bool, method: str, lines: list[str], whole: float
    ) -> None:
        result = answer.result
        try:
            ended = await self._wire.ask(url, host, ours, method, lines, answer.head.append, answer.part, whole)
        finally:
            answer.close()
        problem = answer.problem
        if answer.enough:
            return
        if isinstance(problem, _Cap):
            result.kind, result.error = "too large", str(problem)
        elif problem is not None and not isinstance(problem, OSError):
            result.kind, result.error = "broken", f"The answer's compression is broken ({problem})."
        elif problem is not None:
            result.kind, result.error = "broken", f"The answer cannot be kept: {problem}."
        elif ended.kind:
            result.kind, result.error = self._said(ended, url, host, bool(result.status), whole)
        elif answer.unpack is not None and not answer.unpack.eof:
            result.kind, result.error = "broken", "The answer's compression is broken (it ends too early)."

    def _said(self, ended: Ended, url: str, host: str, answered: bool, whole: float) -> tuple[str, str]:
        """The class of a failure, and its sentence."""
        if ended.kind == "slow":
            return "slow", f"No complete answer within {min(self._timeout, whole):g} seconds."
        if ended.kind == "not secure":
            return "unreachable", f"The secure connection failed: {_plain(ended.reason)}."
        if ended.kind == "unknown host":
            return "unreachable", f"The host {host} is not known."
        if ended.kind == "refused":
            return "refused", f"Not asked: {ended.reason}."
        if ended.kind == "no connection":
            return "unreachable", f"No connection to {urlsplit(url).netloc}: {_plain(ended.reason)}."
        if ended.kind == "cut" and answered:
            return "broken", "The answer ended before it was complete."
        return "broken", f"The answer cannot be read: {_plain(ended.reason) or 'nothing came'}."


def _lines(headers: dict[str, str]) -> list[str]:
    lines = [f"{name}: {value}" for name, value in headers.items()]
    if any("\r" in line or "\n" in line for line in lines):
        raise ValueError("a header holds a line break")
    return lines


def _text(line: bytes) -> str:
    try:
        return line.decode("utf-8")
    except UnicodeDecodeError:
        return line.decode("latin-1")


def _plain(text: str) -> str:
    return " ".join(text.replace("\n", " ").split())[:160].rstrip(".")
