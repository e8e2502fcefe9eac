"""Getting a captured page back from the store, in a child process that opens bodies read-only by value."""

from __future__ import annotations

import json
from collections.abc import Collection

from grandferry.core.address import Scope
from grandferry.core.encoding import decode
from grandferry.core.page import Page, parse
from grandferry.core.refit.page import masks_on
from grandferry.core.survey.secrets import Masks


def content_type(headers: str) -> str:
    """The content type out of a capture's headers (JSON)."""
    return str(json.loads(headers).get("content-type", ""))


def source_of(body: bytes, type_: str) -> bytes:
    """A captured body as UTF-8."""
    return decode(body, type_).source(body)


def page_of(body: bytes, type_: str) -> Page:
    """A captured body as a page. Raises UnreadablePage."""
    return parse(decode(body, type_).text)


def page_and_masks(body: bytes, type_: str, kept: Collection[str], scope: Scope) -> tuple[Page, Masks]:
    """A captured body as a page, and what is masked in what is carried off it. Raises UnreadablePage."""
    source = decode(body, type_).text
    page = parse(source)
    return page, masks_on(page, source, kept, scope)
