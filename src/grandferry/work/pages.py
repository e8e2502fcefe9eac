"""Getting a captured page back from the store, in a child process that opens bodies read-only by value."""

from __future__ import annotations

import json

from grandferry.core.encoding import decode
from grandferry.core.page import Page, parse


def content_type(headers: str) -> str:
    """The content type out of a capture's headers (JSON)."""
    return str(json.loads(headers).get("content-type", ""))


def page_of(body: bytes, type_: str) -> Page:
    """A captured body as a page. Raises UnreadablePage."""
    return parse(decode(body, type_).text)
