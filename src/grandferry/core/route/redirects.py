"""The redirect map: pairs and rules, free of any host, and what is wrong with it."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Collection, Iterable
from dataclasses import dataclass, field
from typing import Any, Literal
from urllib.parse import unquote_to_bytes

from ..address import normal, to_key, under
from ..errors import AddressError
from ..patterns import compile_pattern, set_of

Match = Literal["exact", "prefix", "pattern"]
FEW = 3  # patterns up to which they are tried one after the other
_UNSAFE = re.compile(r"[^A-Za-z0-9\-._~!&'()*+,;=:@/?#%\[\]]|%(?![0-9A-Fa-f]{2})")


@dataclass(frozen=True, slots=True)
class Redirect:
    """One line of the map. ``new`` is a path, or a full address when it leaves the site; "" for 410."""

    old: str
    new: str
    status: int = 301
    match: Match = "exact"


def safe_target(new: str) -> str:
    """A target percent-encoded to ASCII, so that no server needs further quoting for it."""

    def encode(match: re.Match[str]) -> str:
        return "".join(f"%{byte:02X}" for byte in match[0].encode("utf-8", "surrogateescape"))

    return _UNSAFE.sub(encode, new)


def safe_part(sent: str) -> str:
    """The same of a part that was sent. A dollar stays: servers read it as a sign in what is written, not in that."""
    return "$".join(safe_target(part) for part in sent.split("$"))


def neutral(old: str, new: str, status: int, match: Match) -> Redirect:
    """A Redirect from what a person wrote: full old addresses cut to their path, targets encoded.

    Raises AddressError or PatternError with a sentence.
    """
    if match == "pattern":
        groups = compile_pattern(old).groups
        for number in re.findall(r"\{(\d)\}", new):
            if not 1 <= int(number) <= groups:
                raise AddressError(f"“{new}” speaks of {{{number}}}, but the pattern has {groups} groups.")
    return fitted(old, new, status, match)


def fitted(old: str, new: str, status: int, match: Match) -> Redirect:
    """As ``neutral``, whatever parts of a pattern the new address speaks of: what an earlier version took."""
    new = new.strip()
    if match == "pattern":
        compile_pattern(old)
    else:
        old = to_key(old)
    if status == 410:
        if new:
            raise AddressError(f"“{old}” is gone (410), so it cannot have the new address “{new}”.")
        return Redirect(old, "", 410, match)
    if not new:
        raise AddressError(f"“{old}” has no new address.", "Give one, or the status 410.")
    if match == "pattern":
        # braces hold the captured parts, so they are put back after encoding
        return Redirect(old, re.sub(r"%7B(\d)%7D", r"{\1}", safe_target(new)), status, match)
    if new.startswith("/") and not new.startswith("//"):
        return Redirect(old, safe_target(new), status, match)
    if new.startswith("//"):
        raise AddressError("A new address cannot begin with “//”.", "That is another host.")
    address = normal(new) if new.lower().startswith(("http://", "https://")) else None
    if address is None:
        raise AddressError(f"The new address “{new}” is neither a path nor an http address.")
    _, _, fragment = new.partition("#")
    return Redirect(old, safe_target(str(address) + (f"#{fragment}" if fragment else "")), status, match)


_HOST = re.compile(r"https?://([^/?#]*)", re.IGNORECASE)


def host_of(target: str) -> str:
    """The host (with port) that a target names, lower case, "" for a path."""
    found = _HOST.match(target.strip())
    return found[1].rpartition("@")[2].lower() if found else ""


def without_host(new: str, ours: Collection[str]) -> str:
    """A target cut to its path, query and fragment where its host is one of ``ours``; else as it is."""
    host = host_of(new)
    if not host or host not in ours:
        return new
    found = _HOST.match(new.strip())
    rest = new.strip()[found.end() :] if found else new
    return rest if rest.startswith("/") else f"/{rest}"


def check_old(old: str, ours: Collection[str]) -> None:
    """Raises AddressError for an old address that names a host which is none of ``ours``: its path alone would be
    another address."""
    host = host_of(old)
    if host and host not in ours:
        raise AddressError(
            f"“{old}” is an address of {host}, not of the old site.",
            "The map answers for one host; write the path alone when you mean that.",
        )


def leads_elsewhere(redirects: Iterable[Redirect]) -> dict[str, int]:
    """The hosts that lines lead to, with their number: what a map holds of hosts on purpose."""
    return dict(sorted(Counter(host for r in redirects if (host := host_of(r.new))).items()))


@dataclass(slots=True, eq=False, weakref_slot=True)
class RedirectMap:
    """All redirects with look-up tables. Patterns keep their order; prefixes go longest first."""

    redirects: tuple[Redirect, ...]
    exact: dict[str, Redirect] = field(init=False)
    prefixes: list[Redirect] = field(init=False)
    patterns: list[tuple[Any, Redirect]] = field(init=False)
    _by_prefix: dict[str, Redirect] = field(init=False)
    _which: Any = field(init=False, default=None)

    def __post_init__(self) -> None:
        self.exact = {}
        self._by_prefix = {}
        for r in self.redirects:
            if r.match == "exact":
                self.exact.setdefault(r.old, r)
            elif r.match == "prefix":
                self._by_prefix.setdefault(r.old, r)
        self.prefixes = sorted(self._by_prefix.values(), key=lambda r: (-len(r.old), r.old))
        self.patterns = [(compile_pattern(r.old), r) for r in self.redirects if r.match == "pattern"]

    def pattern_for(self, request: str) -> tuple[Any, Redirect] | None:
        """The first pattern rule that fits a request, with what it captured. All are looked for at once (RE2 sets)."""
        if len(self.patterns) > FEW:
            if self._which is None:
                self._which = set_of(r.old for _, r in self.patterns)
            at = self._which(request)
            return (self.patterns[at][0].fullmatch(request), self.patterns[at][1]) if at >= 0 else None
        for pattern, rule in self.patterns:
            if match := pattern.fullmatch(request):
                return match, rule
        return None

    def prefix_for(self, path: str) -> Redirect | None:
        """The longest prefix rule that holds the path by whole parts."""
        if not self._by_prefix:
            return None
        at = len(path)
        while at > 0:
            for candidate in (path[:at], path[:at] + "/" if at == len(path) else path[: at + 1]):
                rule = self._by_prefix.get(candidate)
                if rule is not None and under(path, candidate):
                    return rule
            at = path.rfind("/", 0, at)
        return self._by_prefix.get("/")


def map_of(redirects: Iterable[Redirect]) -> RedirectMap:
    return RedirectMap(tuple(redirects))


def decoded(path: str) -> str:
    """The decoded path with bytes that are no UTF-8 kept as lone surrogates."""
    return unquote_to_bytes(path).decode("utf-8", "surrogateescape")
