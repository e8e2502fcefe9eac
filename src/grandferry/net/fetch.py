"""One HTTP answer: fetched with caps on time, size, headers and decompression; redirects are not followed."""

from __future__ import annotations

import asyncio
import hashlib
import os
import ssl
import time
import zlib
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from urllib.parse import urlsplit

import aiohttp
from yarl import URL

from .resolve import Refused, Resolver, check_literal

IN_MEMORY = 1_000_000
CHUNK = 64 * 1024
ACCEPT = "text/html,application/xhtml+xml,*/*;q=0.8"


@dataclass(slots=True)
class Fetched:
    """An answer, or the reason why there is none.

    ``error`` is a sentence, ``kind`` its class: unreachable, slow, too large, broken, refused, or "".
    ``body`` holds small bodies; larger ones lie in the temporary file ``path``.
    """

    url: str
    status: int = 0
    headers: dict[str, str] = field(default_factory=dict)
    body: bytes = b""
    path: Path | None = None
    size: int = 0
    digest: str = ""
    seconds: float = 0.0
    kind: str = ""
    error: str = ""

    def header(self, name: str) -> str:
        return self.headers.get(name, "")

    @property
    def mime(self) -> str:
        return self.header("content-type").partition(";")[0].strip().lower()


class _Cap(Exception):
    pass


class _Broken(Exception):
    pass


class Fetcher:
    """Fetches single addresses. ``named``: hosts (with port) of the crossing; ``spill``: folder for large bodies;
    ``secrets``: the headers that give access to a host (with port), sent to that host alone."""

    def __init__(
        self,
        *,
        agent: str,
        named: frozenset[str] = frozenset(),
        at_once: int = 4,
        timeout: float = 30.0,
        page_cap: int = 16_000_000,
        file_cap: int = 1_000_000_000,
        spill: Path | None = None,
        secrets: Callable[[str], dict[str, str]] | None = None,
    ):
        self._agent = agent
        self._named = {urlsplit("//" + host).hostname or host for host in named}
        self._at_once = at_once
        self._timeout = timeout
        self._page_cap = page_cap
        self._file_cap = file_cap
        self._spill = spill
        self._secrets = secrets
        self._session: aiohttp.ClientSession | None = None

    async def __aenter__(self) -> Fetcher:
        self._session = aiohttp.ClientSession(
            connector=aiohttp.TCPConnector(limit=self._at_once, resolver=Resolver(self._named), ttl_dns_cache=300),
            headers={"User-Agent": self._agent, "Accept": ACCEPT, "Accept-Encoding": "gzip, deflate"},
            auto_decompress=False,
            timeout=aiohttp.ClientTimeout(total=None, connect=self._timeout, sock_read=self._timeout),
            cookie_jar=aiohttp.DummyCookieJar(),
            max_line_size=16_384,
            max_field_size=65_536,
        )
        return self

    async def __aexit__(self, *_: object) -> None:
        if self._session is not None:
            await self._session.close()

    async def get(
        self, url: str, *, headers: dict[str, str] | None = None, method: str = "GET", whole: float = 600.0
    ) -> Fetched:
        """Fetch one address. Never raises for what the other side does; ``whole`` caps the seconds in all."""
        assert self._session is not None
        result = Fetched(url)
        started = time.monotonic()
        try:
            check_literal(urlsplit(url).hostname or "", self._named)
            if self._secrets is not None:
                headers = {**self._secrets(urlsplit(url).netloc.rpartition("@")[2]), **(headers or {})}
            async with asyncio.timeout(whole):
                # encoded=True: the address goes out exactly as it is, not as yarl would tidy it
                async with self._session.request(
                    method, URL(url, encoded=True), headers=headers, allow_redirects=False
                ) as answer:
                    result.status = answer.status
                    for name, value in answer.headers.items():
                        known = result.headers.get(name.lower())
                        result.headers[name.lower()] = f"{known}, {value}" if known else value
                    if method != "HEAD":
                        await self._read(answer, result)
        except _Cap as problem:
            result.kind, result.error = "too large", str(problem)
        except (_Broken, zlib.error) as problem:
            result.kind, result.error = "broken", f"The answer's compression is broken ({problem})."
        except (TimeoutError, aiohttp.ServerTimeoutError):
            result.kind, result.error = "slow", f"No complete answer within {min(self._timeout, whole):g} seconds."
        except ssl.SSLError as problem:
            result.kind, result.error = "unreachable", f"The secure connection failed: {problem.reason or problem}."
        except aiohttp.ClientConnectorDNSError:
            result.kind, result.error = "unreachable", f"The host {urlsplit(url).hostname} is not known."
        except aiohttp.ClientConnectorError as problem:
            if isinstance(problem.os_error, Refused):
                result.kind, result.error = "refused", f"Not asked: {problem.os_error}."
            else:
                reason = problem.os_error.strerror if problem.os_error else ""
                result.kind = "unreachable"
                result.error = f"No connection to {urlsplit(url).netloc}: {_plain(reason) or 'refused'}."
        except Refused as problem:
            result.kind, result.error = "refused", f"Not asked: {problem}."
        except aiohttp.ClientPayloadError:
            result.kind, result.error = "broken", "The answer ended before it was complete."
        except (aiohttp.ClientError, ValueError, OSError) as problem:
            result.kind, result.error = (
                "broken",
                f"The answer cannot be read: {_plain(str(problem)) or type(problem).__name__}.",
            )
        result.seconds = time.monotonic() - started
        if result.error and result.path is not None:
            result.path.unlink(missing_ok=True)
            result.path = None
        return result

    async def _read(self, answer: aiohttp.ClientResponse, result: Fetched) -> None:
        html = result.mime in ("", "text/html", "application/xhtml+xml")
        cap = self._page_cap if html else self._file_cap
        said = result.header("content-length")
        too_large = f"Larger than the cap of {cap / 1e6:,.0f} MB."
        if said.isdigit() and int(said) > cap:
            raise _Cap(too_large)
        coding = result.header("content-encoding").lower().strip()
        if coding not in ("", "identity", "gzip", "x-gzip", "deflate"):
            raise _Broken(f"unasked-for coding {coding}")
        unpack = zlib.decompressobj(47) if coding in ("gzip", "x-gzip", "deflate") else None
        chunks: list[bytes] = []
        hasher = hashlib.sha256()
        handle = None
        first = True
        try:
            async for raw in answer.content.iter_chunked(CHUNK):
                pending = raw
                while pending:
                    if unpack is None:
                        piece, pending = pending, b""
                    else:
                        if first and coding == "deflate" and pending[:1] != b"\x78":
                            unpack = zlib.decompressobj(-15)  # raw deflate, as some servers send it
                        piece = unpack.decompress(pending, CHUNK * 4)
                        pending = unpack.unconsumed_tail
                    first = False
                    result.size += len(piece)
                    if result.size > cap:
                        raise _Cap(too_large)
                    hasher.update(piece)
                    if handle is not None:
                        handle.write(piece)
                    else:
                        chunks.append(piece)
                        if result.size > IN_MEMORY and not html and self._spill is not None:
                            result.path = self._spill / f"{os.getpid()}-{id(result):x}"
                            handle = result.path.open("wb")
                            handle.write(b"".join(chunks))
                            chunks.clear()
            if unpack is not None and not unpack.eof and not (first and not result.size):
                raise _Broken("it ends too early")
        finally:
            if handle is not None:
                handle.close()
        result.body = b"".join(chunks)
        result.digest = hasher.hexdigest()


def _plain(text: str) -> str:
    return " ".join(text.replace("\n", " ").split())[:160].rstrip(".")
