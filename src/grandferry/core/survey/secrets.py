"""Keys and passwords that somebody left in a page's code: found, named, and never shown or carried as they are."""

from __future__ import annotations

import math
import re
from collections import Counter

from ..patterns import compile_pattern
from .marks import Marks

_WORDS = "api app access private auth".split()
MARKS = [f"{word}{gap}key" for word in _WORDS for gap in ("", "-", "_")] + ["secret", "token", "passw", "credential"]
_ALONE = Marks([*MARKS, "<input"])
# on RE2, since a hostile page chooses the text
_NAMED = compile_pattern(
    r"(?i)((?:api[_-]?key|access[_-]?key|app[_-]?key|secret|token|passw(?:or)?d|private[_-]?key|credential|auth[_-]?key)"
    r"[\w.-]{0,40})[\"']?\s*(?:=>|[:=])\s*[\"']([A-Za-z0-9_+/=.-]{12,200})[\"']"
)
_FIELD = re.compile(r"<input\b[^>]{0,400}>", re.I)
_ATTRIBUTE = re.compile(r"\b(name|value|type)\s*=\s*[\"']([^\"']{0,300})[\"']", re.I)
_SECRET_FIELD = re.compile(r"api[_-]?key|secret|access[_-]?key|private[_-]?key|passw(?:or)?d", re.I)
_CHANGING = re.compile(r"csrf|xsrf|nonce|verification|authenticity|viewstate", re.I)  # made anew for every visit


def _random(text: str) -> bool:
    """Whether a text looks drawn by lot: bits a character (Shannon) and a mix of letters and digits."""
    counts = Counter(text)
    bits = -sum(n / len(text) * math.log2(n / len(text)) for n in counts.values())
    return bits > 3.0 and any(c.isdigit() for c in text) and any(c.isalpha() for c in text)


def find_secrets(html: str, marks: frozenset[str] | None = None) -> list[tuple[str, str]]:
    """(name, value) of what looks like a key in a page's source, each value once. ``marks``: those that it is known to
    hold of ``MARKS`` and ``<input``, where that is known."""
    marks = _ALONE.within(html.encode("utf-8", "surrogatepass")) if marks is None else marks
    if marks.isdisjoint(MARKS):
        return []
    found: dict[str, str] = {}
    for match in _NAMED.finditer(html):
        name, value = match[1], match[2]
        if not _CHANGING.search(name) and _random(value):
            found.setdefault(value, name)
    if "<input" in marks:
        for element in _FIELD.findall(html):
            attrs = {name.lower(): value for name, value in _ATTRIBUTE.findall(element)}
            name, value = attrs.get("name", ""), attrs.get("value", "")
            if _SECRET_FIELD.search(name) and not _CHANGING.search(name) and len(value) >= 12 and _random(value):
                found.setdefault(value, name)
    return [(name, value) for value, name in found.items()]


def masked(value: str) -> str:
    """A secret as it may be shown: its first two characters and its length."""
    return f"{value[:2]}… ({len(value)} characters)"


def secrets_in(source: bytes, marks: frozenset[str]) -> list[str]:
    """What looks like a key in a page's source (UTF-8), as ``name: masked value``."""
    if marks.isdisjoint(MARKS):
        return []
    html = source.decode("utf-8", "surrogatepass")
    return [f"{name}: {masked(value)}" for name, value in find_secrets(html, marks)]
