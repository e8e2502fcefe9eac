"""Delivery over JSON:API 1.1 (https://jsonapi.org): client-made ids, so that sending twice never makes two.

No request is ever led elsewhere: a redirect is told, not followed, since what is written has to be written where a
person said. Only what the standard calls success counts as done: 201 with the resource's own id, or 204, for creating;
200 with its id, 200 with meta alone, or 204, for changing.
"""

from __future__ import annotations

import asyncio
import base64
import json
from collections.abc import Collection, Iterable
from datetime import UTC, datetime
from typing import Any

import aiohttp
from aiohttp.abc import AbstractResolver
from yarl import URL

from grandferry.core.land.going import Going
from grandferry.core.mapping import Blocks
from grandferry.core.refit.write import to_html
from grandferry.core.refit.written import Differs
from grandferry.core.retry import retry_after

from .base import Ended, Takes, TargetError

MEDIA = "application/vnd.api+json"
TRIES = 4
LONGEST = 300.0  # seconds that one answer may take in all
MOST = 4_000_000  # bytes of an answer that are read: what is longer says nothing to us


class JsonApi:
    """A JSON:API target under ``base`` (resources at ``base/api/{type}``)."""

    takes = Takes(redirects=frozenset(["exact", "prefix"]))

    def __init__(self, base: str, resolver: AbstractResolver | None = None, timeout: float = 60.0):
        self.base = base.rstrip("/")
        self._resolver = resolver
        self._timeout = timeout
        self._session: aiohttp.ClientSession | None = None

    async def __aenter__(self) -> JsonApi:
        self._session = aiohttp.ClientSession(
            connector=aiohttp.TCPConnector(limit=4, resolver=self._resolver),
            headers={"Accept": MEDIA, "Content-Type": MEDIA},
            timeout=aiohttp.ClientTimeout(total=LONGEST, sock_connect=self._timeout, sock_read=self._timeout),
        )
        return self

    async def __aexit__(self, *_: object) -> None:
        if self._session is not None:
            await self._session.close()

    async def _ask(self, method: str, path: str, document: dict[str, Any] | None = None) -> tuple[int, dict[str, Any]]:
        assert self._session is not None
        url = f"{self.base}/api/{path}"
        reason = ""
        for attempt in range(TRIES):
            pause = 0.3 * 2**attempt
            try:
                async with self._session.request(
                    method, URL(url, encoded=True), json=document, allow_redirects=False
                ) as answer:
                    if 300 <= answer.status < 400:
                        raise TargetError(
                            f"The target leads elsewhere ({answer.status} to "
                            f"{answer.headers.get('Location', 'nowhere')}), and nothing is written through a redirect.",
                            "Name the address it leads to as the target, if that is the right one.",
                        )
                    if answer.status in (429, 500, 502, 503, 504) and attempt + 1 < TRIES:
                        reason = f"answers {answer.status}"
                        pause = retry_after(answer.headers.get("Retry-After", ""), pause, datetime.now(UTC))
                    else:
                        return answer.status, await _document(answer)
            except (aiohttp.ClientError, TimeoutError, OSError) as problem:
                reason = str(problem) or type(problem).__name__
            if attempt + 1 < TRIES:
                await asyncio.sleep(pause)
        raise TargetError(f"The target {self.base} gives no usable answer: {reason}.", "Is it up?")

    async def exists(self) -> None:
        """Raise TargetError when there is no JSON:API under the base."""
        status, body = await self._ask("GET", "")
        if status != 200 or "jsonapi" not in body:
            raise TargetError(f"{self.base}/api/ is no JSON:API (it answers {status}).", "Check the base address.")

    async def model(self) -> dict[str, tuple[str, ...]] | None:
        """The types it names at its root; their fields are not said by the standard."""
        _, body = await self._ask("GET", "")
        data = body.get("data")
        if not isinstance(data, list):
            return None
        return {str(entry.get("id")): () for entry in data if isinstance(entry, dict)}

    def item(self, going: Going) -> dict[str, Any]:
        made: dict[str, Any] = {"title": going.title, "path": going.path, "published": True}
        for name, value in going.fields.items():
            made[name] = {"format": "html", "value": to_html(value.blocks)} if isinstance(value, Blocks) else value
        return made

    def file(self, path: str, name: str, mime: str, alt: str) -> dict[str, Any]:
        return {"path": path, "name": name, "mime": mime, "alt": alt}

    def with_content(self, attributes: dict[str, Any], content: bytes) -> dict[str, Any]:
        return {**attributes, "data": base64.b64encode(content).decode()}

    def redirect(self, old: str, new: str, status: int, match: str) -> dict[str, Any]:
        return {"old": old, "new": new, "status": status, "match": match}

    async def get(self, type_: str, id_: str) -> dict[str, Any] | None:
        status, body = await self._ask("GET", f"{type_}/{id_}")
        if status == 404:
            return None
        data = body.get("data")
        if status != 200 or not isinstance(data, dict):
            raise TargetError(_reason(status, body))
        return data

    async def put(self, type_: str, id_: str, attributes: dict[str, Any], known: bool) -> str:
        """Create or change one resource; gives what was done (``created`` or ``changed``). Raises TargetError."""
        document = {"data": {"type": type_, "id": id_, "attributes": attributes}}
        if not known:
            status, body = await self._ask("POST", type_, document)
            if status == 204 or (status == 201 and _names(body, type_, id_)):
                return "created"
            if status != 409:
                raise TargetError(_reason(status, body))
            if await self.get(type_, id_) is None:  # the conflict is with something that is not ours
                raise TargetError(_reason(status, body))
        status, body = await self._ask("PATCH", f"{type_}/{id_}", document)
        if status == 404 and known:
            return await self.put(type_, id_, attributes, known=False)
        if status == 204 or (status == 200 and (_names(body, type_, id_) or _meta_alone(body))):
            return "changed"
        raise TargetError(_reason(status, body))

    async def remove(self, type_: str, id_: str) -> bool:
        status, body = await self._ask("DELETE", f"{type_}/{id_}")
        if status in (200, 204):
            return True
        if status == 404:
            return False
        raise TargetError(_reason(status, body))

    def differs(self) -> Iterable[tuple[str, Differs]]:
        return ()

    async def finish(self, ids: Collection[str], documents: Iterable[tuple[str, bytes]]) -> Ended:
        return Ended()  # what stays there that is no more of ours is a person's to take away


async def _document(answer: aiohttp.ClientResponse) -> dict[str, Any]:
    """The JSON document of an answer, empty when it holds none, or more than is read."""
    read = bytearray()
    async for part in answer.content.iter_chunked(65_536):
        read += part
        if len(read) > MOST:
            answer.close()
            return {}
    try:
        said = json.loads(read)
    except (ValueError, RecursionError):
        return {}
    return said if isinstance(said, dict) else {}


def _names(body: dict[str, Any], type_: str, id_: str) -> bool:
    """Whether a document is about just this resource."""
    data = body.get("data")
    return isinstance(data, dict) and data.get("id") == id_ and data.get("type") == type_


def _meta_alone(body: dict[str, Any]) -> bool:
    return "data" not in body and "errors" not in body and isinstance(body.get("meta"), dict)


def _reason(status: int, body: dict[str, Any]) -> str:
    if 200 <= status < 300:
        return f"The target answered {status} without saying that it holds what was sent; this does not count as done."
    errors = body.get("errors")
    first = errors[0] if isinstance(errors, list) and errors and isinstance(errors[0], dict) else {}
    said = first.get("detail") or first.get("title") or "no reason given"
    return f"The target refused it ({status}): {' '.join(str(said).split())[:300]}"
