"""Access logs in Combined Log Format, read as a stream: which addresses people asked for, and how often.

Format: Apache HTTP Server, mod_log_config, "combined". Lines of robots and of failed or foreign methods
are counted apart.
"""

from __future__ import annotations

import gzip
import re
import zlib
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from ipaddress import IPv4Network, IPv6Network, ip_address, ip_network
from pathlib import Path

import re2

from grandferry.core.errors import FerryError

# RE2 goes over a line once, whatever it holds; a log is bytes of no known encoding
_BYTES = re2.Options()
_BYTES.encoding = re2.Options.Encoding.LATIN1
_BYTES.log_errors = False
LINE = re2.compile(
    rb'^(\S+) \S+ .*?\[([^\]]+)\] "([A-Z]+) (\S+)(?: [^"]*)?" '
    rb'(\d{3}) \S+(?: "(?:[^"\\]|\\.)*" "((?:[^"\\]|\\.)*)")?',
    options=_BYTES,
)
# every browser that people use begins its name with one of these; a robot that does so too gives an address to write
# to, or says in a word what it is
BROWSER = re.compile(rb"(?:Mozilla|Opera)/\d")
ROBOT = re.compile(rb"https?://|www\.|@|bot\b|bot/|crawl|spider|monitor|uptime|check|fetch|preview|scan|headless", re.I)
NOBODY = frozenset([None, b"", b"-"])  # a log that does not say who asked
CLIENT, TIME, METHOD, TARGET, STATUS, AGENT = range(1, 7)  # what its groups are
LINE_CAP = 64 * 1024
MOST = 100_000  # distinct targets held in memory


@dataclass(slots=True)
class LogCount:
    """Visits by request target (as written in the log), and the lines that were no visits. ``flush``, when given, takes
    the visits counted so far each time there are MOST targets, so that a log of any size fits in memory."""

    visits: dict[str, int] = field(default_factory=dict)
    lines: int = 0
    robots: int = 0
    other_methods: int = 0
    unreadable: int = 0
    own: int = 0
    counted: int = 0
    flush: Callable[[dict[str, int]], None] | None = None

    def report(self) -> dict[str, int]:
        """The lines by what they were."""
        return {
            "lines": self.lines,
            "visits": self.counted,
            "robots": self.robots,
            "own machines": self.own,
            "no page asked for": self.other_methods,
            "unreadable": self.unreadable,
        }


def _is_robot(agent: bytes | None) -> bool:
    """Whether a program and no person asked, by general marks (RFC 9110 section 10.1.5)."""
    return agent not in NOBODY and (not BROWSER.match(agent or b"") or ROBOT.search(agent or b"") is not None)


def log_lines(path: Path) -> Iterator[bytes]:
    """The lines of a log, also of a gzipped one; over-long lines are cut."""
    with path.open("rb") as probe:
        packed = probe.read(2) == b"\x1f\x8b"
    opener = gzip.open if packed else open
    with opener(path, "rb") as handle:
        try:
            while line := handle.readline(LINE_CAP):
                yield line
        except (EOFError, OSError, zlib.error) as problem:
            raise FerryError(f"“{path.name}” cannot be read to its end ({problem}).", "Is the file whole?") from None


def own_machines(texts: list[str]) -> list[IPv4Network | IPv6Network]:
    """Networks out of what a person wrote (addresses or ranges such as 192.0.2.0/24). Raises FerryError."""
    try:
        return [ip_network(text.strip(), strict=False) for text in texts if text.strip()]
    except ValueError as problem:
        raise FerryError(
            f"{problem}.", "Write an address such as 192.0.2.7, or a range such as 192.0.2.0/24."
        ) from None


def count_visits(
    lines: Iterable[bytes],
    own: list[IPv4Network | IPv6Network] | None = None,
    flush: Callable[[dict[str, int]], None] | None = None,
) -> LogCount:
    """Count what people asked for: GET, whatever the answer was. Robots and the owner's ``own`` machines are counted
    apart."""
    count = LogCount(flush=flush)
    ours: dict[bytes, bool] = {}
    for line in lines:
        if not line.strip():
            continue
        count.lines += 1
        match = LINE.match(line)
        if not match:
            count.unreadable += 1
            continue
        if match[METHOD] != b"GET":
            count.other_methods += 1
            continue
        if _is_robot(match[AGENT]):
            count.robots += 1
            continue
        if own and _is_own(match[CLIENT], own, ours):
            count.own += 1
            continue
        count.counted += 1
        target = match[TARGET].decode("utf-8", "replace")
        count.visits[target] = count.visits.get(target, 0) + 1
        if flush is not None and len(count.visits) >= MOST:
            flush(count.visits)
            count.visits.clear()
    if flush is not None:
        flush(count.visits)
        count.visits.clear()
    return count


def _is_own(client: bytes, own: list[IPv4Network | IPv6Network], known: dict[bytes, bool]) -> bool:
    found = known.get(client)
    if found is None:
        try:
            address = ip_address(client.decode("ascii", "replace"))
            found = any(address in network for network in own)
        except ValueError:
            found = False
        if len(known) < MOST:
            known[client] = found
    return found
