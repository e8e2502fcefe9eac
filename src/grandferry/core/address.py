"""One address: its normal form, its host-free key, its shape, and whether a scope lets it in.

Parsing and joining follow the WHATWG URL standard (through ada-url); on top of it come the safe
steps of RFC 3986 section 6.2.2: percent-encodings in upper case, unreserved characters decoded.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from functools import lru_cache
from unicodedata import normalize
from urllib.parse import quote

import ada_url

from .errors import AddressError
from .keptout import KeptOut
from .patterns import compile_pattern, escape

SESSION_PARAMETERS = (
    "phpsessid",
    "jsessionid",
    "sid",
    "sessionid",
    "session",
    "aspsessionid",
    "cfid",
    "cftoken",
    "utm_source",
    "utm_medium",
    "utm_campaign",
    "utm_term",
    "utm_content",
    "utm_id",
    "gclid",
    "fbclid",
    "msclkid",
    "mc_cid",
    "mc_eid",
)
_UNRESERVED = frozenset(b"ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-._~")
_PERCENT = re.compile(r"%([0-9A-Fa-f]{2})")
_NOT_FETCHED = re.compile(r"^\s*(?:javascript|mailto|tel|data|blob|about|ftp|file|sms|callto|news|irc)\s*:", re.I)
_SCHEME = re.compile(r"^[A-Za-z][A-Za-z0-9+.-]*:")
_INNER_DIGITS = re.compile(r"\d+")


@dataclass(frozen=True, slots=True)
class Address:
    """An absolute http(s) address in normal form, without its fragment.

    ``host`` holds the port when it is not the scheme's default (``old.example.test:8080``).
    """

    scheme: str
    host: str
    path: str
    query: str  # without "?"; "" when there is none

    def __str__(self) -> str:
        return f"{self.scheme}://{self.host}{self.key}"

    @property
    def key(self) -> str:
        """Path plus ``?query``: what a redirect map speaks of, free of any host."""
        return f"{self.path}?{self.query}" if self.query else self.path


_PLAIN = "!$&()*+,-./:;=@_~?#[]|\\"  # signs that a person types and an address has as they are
_ESCAPED = re.compile(r"""[ "'<>`{}^%]""")  # signs that an address may have in another way
MADE_UP = "/ferry-made-up-0d9f/nothing-here"  # no host has it: what it answers there is its error page


def spellings(text: str) -> list[str]:
    """A text that a person looks for, and the ways in which an address may write it: escaped as UTF-8, composed or not
    (Unicode Standard Annex 15), or as Latin-1, its letters in either case. The text itself comes first; escaped ways
    are in small letters, to be looked for whatever the case."""
    if text.isascii() and not _ESCAPED.search(text):
        return [text]
    found = {text: None, text.replace(" ", "+"): None}
    for form in ("NFC", "NFD"):
        one = normalize(form, text)
        for cased in (one, one.lower(), one.upper()):
            for safe in (_PLAIN, _PLAIN + "%", _PLAIN + "'", _PLAIN + "%'"):
                for encoding in ("utf-8", "latin-1"):
                    try:
                        found[quote(cased, safe, encoding=encoding).lower()] = None
                    except UnicodeEncodeError:  # letters that this encoding has not got, or half of one
                        continue
    return list(found)


def www(host: str) -> str:
    """The other name under which a site is commonly had: with www where it has none, without it where it has."""
    return host.removeprefix("www.") if host.startswith("www.") else f"www.{host}"


def _fold(match: re.Match[str]) -> str:
    byte = int(match[1], 16)
    return chr(byte) if byte in _UNRESERVED else match[0].upper()


def fold_percent(text: str) -> str:
    """Percent-encodings in one spelling: unreserved characters decoded, hex digits in upper case."""
    return _PERCENT.sub(_fold, text) if "%" in text else text


def drop_parameters(query: str, dropped: frozenset[str]) -> str:
    """The query without the named parameters (names compared without case); order is kept."""
    if not query or not dropped:
        return query
    kept = [part for part in query.split("&") if part.split("=", 1)[0].lower() not in dropped]
    return "&".join(kept)


def normal(url: str, base: str = "") -> Address | None:
    """The normal form of ``url`` (joined to ``base`` when given), or None when it is not http(s).

    None also for what can never be fetched: ``javascript:``, ``mailto:``, unreadable text.
    """
    return _joined(url, _needed(url, base) if base else "")


def _needed(url: str, base: str) -> str:
    """What of its base a reference hangs on, so that the same reference on other pages is the same question: nothing,
    the origin, the folder, or all of it."""
    first = url[:1]
    if first == "/":
        return _parts(base)[0]
    if url.startswith(("http://", "https://")):
        return ""
    if first.isalnum() and ":?" not in url and ":#" not in url:
        return _parts(base)[1]
    return base


@lru_cache(maxsize=1024)
def _parts(base: str) -> tuple[str, str]:
    """The origin and the folder of an absolute address in the form the standard serialises it."""
    path = base.partition("#")[0].partition("?")[0]
    scheme, mark, rest = path.partition("://")
    host, slash, _ = rest.partition("/")
    if not mark or not slash:
        return base, base
    return f"{scheme}://{host}/", path[: path.rindex("/") + 1]


@lru_cache(maxsize=65536)
def _joined(url: str, base: str) -> Address | None:
    if _NOT_FETCHED.match(url):
        return None
    try:
        # href, username, password, protocol, port, hostname, host, hash, pathname, search
        href = ada_url.join_url(base, url) if base else ada_url.normalize_url(url)
    except ValueError:
        return None
    return split_href(href)


def split_href(href: str) -> Address | None:
    """An ``Address`` from a serialised WHATWG URL (already absolute and lower-cased in its host)."""
    scheme, _, rest = href.partition("://")
    if scheme not in ("http", "https"):
        return None
    rest = rest.partition("#")[0]
    rest, _, query = rest.partition("?")
    host, slash, path = rest.partition("/")
    host = host.rpartition("@")[2]  # credentials never belong to an address's identity
    if not host:
        return None
    path = fold_percent(slash + path) or "/"
    return Address(scheme, host, path, fold_percent(query))


def fragment_of(url: str) -> str:
    """What follows ``#`` in a reference, as written ("" when nothing does)."""
    return url.partition("#")[2]


def checked_start(text: str) -> tuple[Address, str]:
    """A start address as a person typed it, and how it was repaired ("" when it was not).

    Raises AddressError with a sentence when it cannot be an http(s) address.
    """
    given = text
    text = text.strip().strip("<>\"'")
    repaired = []
    if text != given:
        repaired.append("stray blanks or quotes removed")
    if not text:
        raise AddressError("No address was given.", "Write one such as https://www.example.test/.")
    if not _SCHEME.match(text) or re.match(r"^[\w.-]+:\d+(/|$)", text):
        text = "http://" + text.lstrip("/")
        repaired.append("http:// added")
    fixed = re.sub(r"^(https?):/*(?=[^/])", r"\1://", text, flags=re.I)
    if fixed != text:
        text = fixed
        repaired.append("slashes mended")
    if not re.match(r"^https?:", text, re.I):
        scheme = text.partition(":")[0]
        raise AddressError(f"“{given.strip()}” begins with “{scheme}:”.", "Only http and https can be surveyed.")
    if re.search(r"\s", text):
        raise AddressError(f"“{given.strip()}” holds a blank inside.", "Write %20 for a blank in a path.")
    address = normal(text)
    if address is None:
        raise AddressError(f"“{given.strip()}” is not an address that can be read.", "Check it for typing errors.")
    return address, ", ".join(repaired)


def to_key(text: str) -> str:
    """The host-free key of an old address written as a path or as a full address.

    ``http://old.test/a?b=1#c`` and ``/a?b=1`` both give ``/a?b=1``. Raises AddressError.
    """
    text = text.strip()
    if text.startswith("/") and not text.startswith("//"):
        address = normal("http://x.invalid" + text)
    else:
        address = normal(text)
    if address is None:
        raise AddressError(f"“{text}” is neither a path nor an http address.", "Begin it with “/” or “http://”.")
    return address.key


def shape(key: str) -> str:
    """The pattern of an address: numbers and the last, readable part taken out.

    ``/news/2019/04/a-day-out.htm`` gives ``/news/#/#/*.htm``; ``/engines.aspx?id=7`` gives
    ``/engines.aspx?id=#``.
    """
    path, _, query = key.partition("?")
    parts = path.split("/")
    if parts[-1] and "." in parts[-1]:
        stem, _, ending = parts[-1].rpartition(".")
        if not query and stem:
            stem = "#" if stem.isdigit() else "*"
        parts[-1] = f"{stem}.{ending}"
    elif parts[-1] and not query:
        parts[-1] = "#" if parts[-1].isdigit() else "*"
    parts[:-1] = [_INNER_DIGITS.sub("#", part) for part in parts[:-1]]
    shaped = "/".join(parts)
    if query:
        shaped += "?" + "&".join(
            name + ("=#" if value.isdigit() else "=*" if value else eq)
            for name, eq, value in (part.partition("=") for part in query.split("&"))
        )
    return shaped


def shape_pattern(shaped: str) -> str:
    """The pattern (RE2) of a shape: its varying parts are captured, in their order."""
    parts = re.split(r"([*#])", shaped)
    return "".join({"#": r"(\d+)", "*": "([^/?&]+)"}.get(part, escape(part)) for part in parts)


@dataclass(frozen=True, slots=True)
class Scope:
    """Where a survey may go. ``hosts`` give pages and files, ``file_hosts`` files alone; ``admitted`` addresses are let
    in whatever the other bounds say.

    ``aliases`` maps other names of the same site to the host they stand for; ``below`` are path
    prefixes (whole parts) of which one must hold; ``include`` / ``exclude`` are RE2 patterns searched
    in the address's key.
    """

    hosts: frozenset[str]
    file_hosts: frozenset[str] = frozenset()
    below_host: str = ""  # when given, every host below this one gives pages and files too
    aliases: dict[str, tuple[str, str]] = field(default_factory=dict)  # host -> (scheme, host)
    below: tuple[str, ...] = ()
    include: tuple[str, ...] = ()
    exclude: tuple[str, ...] = ()
    admitted: frozenset[str] = frozenset()
    depth: int | None = None
    scheme: str = ""  # when given, addresses of ``hosts`` are folded to this scheme
    dropped: frozenset[str] = frozenset(SESSION_PARAMETERS)

    def normal(self, url: str, base: str = "") -> Address | None:
        """Normal form under this scope: parameters dropped, aliases and the other scheme folded into one host."""
        written = normal(url, base)
        return None if written is None else self._fold(written)

    def _fold(self, written: Address) -> Address:
        scheme, host, query = written.scheme, written.host, drop_parameters(written.query, self.dropped)
        if host in self.aliases:
            scheme, host = self.aliases[host]
        elif self.scheme and scheme != self.scheme and self.gives_pages(host):
            scheme = self.scheme
        if (scheme, host, query) == (written.scheme, written.host, written.query):
            return written
        return Address(scheme, host, written.path, query)

    def reference(self, url: str, base: str) -> tuple[Address, str] | None:
        """The normal form of a reference under this scope, and how it was written before this scope folded it ("" when
        it was written as it is)."""
        written = normal(url, base)
        if written is None:
            return None
        address = self._fold(written)
        return address, "" if address is written else str(written)

    def gives_pages(self, host: str) -> bool:
        """Whether pages of a host (with its port) belong to the site."""
        return host in self.hosts or bool(self.below_host and host.endswith("." + self.below_host))

    def is_ours(self, host: str) -> bool:
        """Whether a host (with its port) gives pages or files of the site."""
        return self.gives_pages(host) or host in self.file_hosts

    def shut_out(self, address: Address, *, is_file: bool, depth: int = 0) -> KeptOut:
        """The reason why an address is not fetched, ``LET_IN`` when it may be.

        ``is_file``: the link that leads there asks for a file (a picture, style, script, sound),
        or its path ends like one.
        """
        if self.admitted and str(address) in self.admitted:
            return KeptOut.LET_IN
        if not self.gives_pages(address.host):
            if address.host in self.file_hosts:
                return KeptOut.LET_IN if is_file else KeptOut.FILES_ONLY
            return KeptOut.OTHER_HOST
        key = address.key
        if repeats(address.path):
            return KeptOut.REPEATS
        if self.below and not is_file and not any(under(address.path, prefix) for prefix in self.below):
            return KeptOut.OUTSIDE
        if any(compile_pattern(p).search(key) for p in self.exclude):
            return KeptOut.EXCLUDED
        if self.include and not is_file and not any(compile_pattern(p).search(key) for p in self.include):
            return KeptOut.NOT_INCLUDED
        if self.depth is not None and depth > self.depth:
            return KeptOut.TOO_DEEP
        return KeptOut.LET_IN


_RANDOM = re.compile(r"^(?=.*\d)(?=.*[A-Za-z])[\w()~-]{8,}$")
_DATE_LIKE = re.compile(r"[12]\d{3}[-_.]?[01]?\d(?:[-_.]?[0-3]?\d)?")


@lru_cache(maxsize=16384)  # asked of a page when it is met, and again when it is there
def loose_shape(key: str) -> str:
    """The shape of an address with its random-looking folders taken out as well, and its parameters in order of their
    names: ``/s/8f3ac1d2/list.htm?b=1&a=x`` gives ``/s/*/list.htm?a=*&b=#``. Addresses that a script makes without end
    share it.
    """
    path, _, query = key.partition("?")
    parts = path.split("/")
    parts[:-1] = ["*" if _RANDOM.match(part) else part for part in parts[:-1]]
    shaped = shape("/".join(parts) + ("?q" if query else "")).partition("?")[0]
    if query:
        values = []
        for part in query.split("&"):
            name, eq, value = part.partition("=")
            varies = "#" if value.isdigit() or _DATE_LIKE.fullmatch(value) else "*"
            values.append(name + (f"={varies}" if eq else ""))
        shaped += "?" + "&".join(sorted(values))
    return shaped


REPEATED = 4


def repeats(path: str) -> bool:
    """Whether a path goes in a circle: a folder, or a pair of folders, stands in it REPEATED times in a row."""
    parts = path.split("/")[1:-1]
    if len(parts) < REPEATED:
        return False
    for size in (1, 2, 3):
        for at in range(len(parts) - size * REPEATED + 1):
            first = parts[at : at + size]
            if all(parts[at + n * size : at + (n + 1) * size] == first for n in range(1, REPEATED)):
                return True
    return False


def under(path: str, prefix: str) -> bool:
    """Whether ``path`` is ``prefix`` or lies below it, by whole parts (``/en`` holds ``/en/a``, not ``/engine``)."""
    if prefix.endswith("/"):
        return path.startswith(prefix) or path == prefix[:-1]
    return path == prefix or path.startswith(prefix + "/")
