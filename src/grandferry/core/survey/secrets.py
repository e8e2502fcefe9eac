"""Keys and passwords that somebody left in a page's code: found, named, and never shown or carried as they are."""

from __future__ import annotations

import math
import re
from collections import Counter
from functools import lru_cache

from ..patterns import compile_pattern
from .marks import Marks

_WORDS = "api app access private auth".split()
MARKS = [f"{word}{gap}key" for word in _WORDS for gap in ("", "-", "_")] + [
    "secret",
    "token",
    "passw",
    "credential",
    "bearer",
    "key=",
]
_ALONE = Marks([*MARKS, "<input"])
# on RE2, since a hostile page chooses the text
_NAMES = (
    r"[\w-]*(?:api[_-]?key|access[_-]?key|app[_-]?key|secret|token|passw(?:or)?d|private[_-]?key|credential|auth[_-]?key)"
    r"[\w.-]*"
)
LONGEST = 1000  # signs of a key: what is longer is content
_VALUE = r"[A-Za-z0-9_+/=.~-]{12,}"
# in code, comments and attributes that are named so (2), and in the query of an address, whatever it is of (3)
_NAMED = compile_pattern(
    rf"(?i)({_NAMES})(?:[\"']?\s*(?:=>|[:=])\s*[\"']({_VALUE})[\"']|=({_VALUE})[\s>&#\"'<])",
)
# in the query of an address under the plainest of names (1), and in a head that a script sends (2; RFC 6750)
_OTHERS = compile_pattern(rf"(?i)(?:[?&;](key)=|\b(bearer)\s+)({_VALUE})")
_FIELD = re.compile(r"<input\b[^>]{0,400}>", re.I)
_ATTRIBUTE = re.compile(r"\b(name|value|type)\s*=\s*[\"']([^\"']{0,300})[\"']", re.I)
_SECRET_FIELD = re.compile(
    r"(?:api|access|auth|bearer)[_-]?(?:key|token)|secret|access[_-]?key|private[_-]?key|passw(?:or)?d", re.I
)
_CHANGING = re.compile(r"csrf|xsrf|nonce|verification|authenticity|viewstate", re.I)  # made anew for every visit


# what an answer's head may hand a visitor that opens something for whoever has it
_SECRET_HEADER = re.compile(
    r"cookie|authori[sz]ation|authentication-info|token|secret|session|passw|csrf|xsrf|jwt|api-?key|"
    r"(?:access|private|auth)-?key|x-auth\b",
    re.I,
)


@lru_cache(1000)  # the same few stand in every answer of a site
def is_secret_header(name: str) -> bool:
    """Whether a header by its name carries a key to somebody's session or data."""
    return bool(_SECRET_HEADER.search(name))


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
    matches = [(m[1], m[2] or m[3]) for m in _NAMED.finditer(html)]
    if not marks.isdisjoint(("bearer", "key=")):
        matches += [(m[1] or m[2], m[3]) for m in _OTHERS.finditer(html)]
    for name, value in matches:
        if len(value) <= LONGEST and not _CHANGING.search(name) and _random(value):
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
