"""Keys and passwords that somebody left in a page's code: found, named, never shown as they are, and carried only where
a person said so of that key."""

from __future__ import annotations

import hashlib
import json
import math
import re
from collections import Counter
from collections.abc import Callable, Collection
from functools import lru_cache
from typing import Any, NamedTuple

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
_ALONE = Marks(MARKS)
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
_FIELD = re.compile(r"<(?:input|meta)\b[^>]{0,600}>", re.I)
_ATTRIBUTE = re.compile(r"\b(name|property|value|content|type)\s*=\s*[\"']([^\"']{0,300})[\"']", re.I)
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
    hold of ``MARKS``, where that is known."""
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
    for element in _FIELD.findall(html):
        attrs = {name.lower(): value for name, value in _ATTRIBUTE.findall(element)}
        name = attrs.get("name") or attrs.get("property", "")
        value = attrs.get("value") or attrs.get("content", "")
        if _SECRET_FIELD.search(name) and not _CHANGING.search(name) and len(value) >= 12 and _random(value):
            found.setdefault(value, name)
    return [(name, value) for value, name in found.items()]


def masked(value: str) -> str:
    """A secret as it may be shown: its first two characters and its length."""
    return f"{value[:2]}… ({len(value)} characters)"


def mark_of(value: str) -> str:
    """The mark by which a key is known without being said: 12 hex digits of its SHA-256."""
    return hashlib.sha256(value.encode()).hexdigest()[:12]


class Noted(NamedTuple):
    """A key as a page's facts note it. ``mark``: "" where an earlier version noted it."""

    name: str
    shown: str
    mark: str


_NOTED = re.compile(r"(.*): (..?… \(\d+ characters\))(?: #([0-9a-f]{12}))?")


def noted(line: str) -> Noted:
    """A line of ``secrets_in`` read back."""
    match = _NOTED.fullmatch(line)
    return Noted(match[1], match[2], match[3] or "") if match else Noted(line, "", "")


def secrets_in(source: bytes, marks: frozenset[str]) -> list[str]:
    """What looks like a key in a page's source (UTF-8): its name, masked value and mark."""
    if marks.isdisjoint(MARKS):
        return []
    html = source.decode("utf-8", "surrogatepass")
    return [f"{name}: {masked(value)} #{mark_of(value)}" for name, value in find_secrets(html, marks)]


def marks_rested_on(lines: str, kept: frozenset[str]) -> list[list[str]]:
    """What a finding rests on besides its page's words when keys are noted of it (``lines``: JSON): which of them go
    over. Nothing where it has none."""
    noted_ = json.loads(lines)
    return [sorted({noted(line).mark for line in noted_} & kept)] if noted_ else []


class Masks:
    """What is masked in all that is carried off a page: the keys in its code, but those that a visitor reads on it and
    those that a person lets over (``kept``, by their marks). ``ours`` tells an address of the old site: such a one is
    looked up by what it is, and gets another where it goes over; ``in_address`` masks what stays. ``met``: the keys
    that stood in what was masked."""

    def __init__(self, html: str, shown: Callable[[], str], kept: Collection[str], ours: Callable[[str], bool]):
        found = [value for _, value in find_secrets(html)]
        text = shown() if found else ""
        self._values = [value for value in found if value not in text and mark_of(value) not in kept]
        self._ours = ours
        self.met: set[str] = set()

    def __bool__(self) -> bool:
        return bool(self._values)

    def text(self, text: str) -> str:
        for value in self._values:
            if value in text:
                text = text.replace(value, masked(value))
                self.met.add(value)
        return text

    def value(self, value: Any) -> Any:
        """A JSON value with every text in it masked, addresses of the old site aside."""
        if not self._values:
            return value
        if isinstance(value, str):
            return value if value.startswith("http") and self._ours(value) else self.text(value)
        if isinstance(value, list):
            return [self.value(one) for one in value]
        if isinstance(value, dict):
            return {name: self.value(one) for name, one in value.items()}
        return value


def in_address(url: str, kept: Collection[str]) -> str:
    """An address with the keys in its query masked."""
    for _, value in find_secrets(f"{url}&") if "=" in url else ():
        if mark_of(value) not in kept:
            url = url.replace(value, masked(value))
    return url
