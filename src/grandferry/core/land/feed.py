"""Items as a feed: RSS 2.0 with the common modules for whole texts (``content``) and names (``dc``), a file a kind.

What RSS has an element for stands in that; every other field follows under its name in a namespace of our own, a text
as it is, anything else as JSON, blocks as HTML.
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from datetime import UTC, datetime
from email.utils import format_datetime
from typing import Any
from xml.sax.saxutils import escape, quoteattr

from ..mapping import Blocks
from ..refit.write import to_html
from .going import NOTHING, Going
from .profile import ABOUT, AUTHORS, TAGS

FIELDS = "urn:grandferry:fields"
_SPACES = {
    "content": "http://purl.org/rss/1.0/modules/content/",
    "dc": "http://purl.org/dc/elements/1.1/",
    "f": FIELDS,
}
_NOT_XML = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff\ud800-\udfff]")  # XML 1.0, 2.2
FOOT = "</channel>\n</rss>\n"


def feed_head(kind: str) -> str:
    """What stands before the items of a kind."""
    spaces = "".join(f" xmlns:{name}={quoteattr(uri)}" for name, uri in _SPACES.items())
    told = _element("title", kind), _element("link", "/"), _element("description", f"Items of the kind {kind}")
    return f'<?xml version="1.0" encoding="UTF-8"?>\n<rss version="2.0"{spaces}>\n<channel>\n' + "\n".join(told) + "\n"


def feed_item(going: Going) -> str:
    """An item in one element. Its ``guid`` is its old key, its ``link`` its new path."""
    parts = [_element("title", going.title)]
    if going.path:
        parts.append(_element("link", going.path))
    parts.append(_element("guid", going.key, isPermaLink="false"))
    for name, value in going.fields.items():
        if name not in (going.body, "title") and value not in NOTHING:
            parts += _field(name, value)
    if going.blocks:
        parts.append(_element("content:encoded", to_html(going.blocks).strip()))
    return "<item>" + "".join(parts) + "</item>"


def _field(name: str, value: Any) -> Iterator[str]:
    if isinstance(value, str):
        if name == "published" and (date := _date(value)):
            yield _element("pubDate", date)
        elif name in AUTHORS:
            yield _element("dc:creator", value)
        elif name in ABOUT:
            yield _element("description", value)
        elif name == "language":
            yield _element("dc:language", value)
        elif name in TAGS:
            yield _element("category", value)
        else:
            yield _element("f:field", value, name=name)
    elif isinstance(value, Blocks):
        yield _element("f:field", to_html(value.blocks).strip(), name=name, type="html")
    elif name in (*TAGS, *AUTHORS) and isinstance(value, list) and all(isinstance(one, str) for one in value):
        yield from (_element("category" if name in TAGS else "dc:creator", one) for one in value)
    else:
        yield _element("f:field", json.dumps(value, ensure_ascii=False), name=name, type="json")


def _date(value: str) -> str:
    """A date (ISO 8601) as RFC 822 has it; of a day alone its beginning; "" for what is none. Without a zone it is
    said in UTC."""
    try:
        at = datetime.fromisoformat(value)
    except ValueError:
        return ""
    return format_datetime(at if at.tzinfo else at.replace(tzinfo=UTC))


def _element(name: str, text: str, /, **attributes: str) -> str:
    said = "".join(f" {key}={quoteattr(_plain(value))}" for key, value in attributes.items())
    return f"<{name}{said}>{escape(_plain(text), {chr(13): '&#13;'})}</{name}>"


def _plain(text: str) -> str:
    """A text without what XML cannot hold."""
    return _NOT_XML.sub("\ufffd", text)
