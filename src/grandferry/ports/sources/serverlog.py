"""Access logs in Combined Log Format, read as a stream: which addresses people asked for, and how often.

Format: Apache HTTP Server, mod_log_config, "combined". Lines of robots and of failed or foreign methods
are counted apart.
"""

from __future__ import annotations

import gzip
import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from pathlib import Path

LINE = re.compile(
    rb'^(?P<client>\S+) \S+ .*?\[(?P<time>[^\]]+)\] "(?P<method>[A-Z]+) (?P<target>\S+)(?: [^"]*)?" '
    rb'(?P<status>\d{3}) \S+(?: "(?:[^"\\]|\\.)*" "(?P<agent>(?:[^"\\]|\\.)*)")?'
)
ROBOT = re.compile(rb"bot\b|bot/|crawl|spider|slurp|monitor|uptime|curl/|wget/|python-|feedfetch|preview", re.I)
LINE_CAP = 64 * 1024


@dataclass(slots=True)
class LogCount:
    """Visits by request target (as written in the log), and the lines that were no visits."""

    visits: dict[str, int] = field(default_factory=dict)
    lines: int = 0
    robots: int = 0
    other_methods: int = 0
    unreadable: int = 0


def log_lines(path: Path) -> Iterator[bytes]:
    """The lines of a log, also of a gzipped one; over-long lines are cut."""
    with path.open("rb") as probe:
        packed = probe.read(2) == b"\x1f\x8b"
    opener = gzip.open if packed else open
    with opener(path, "rb") as handle:
        while line := handle.readline(LINE_CAP):
            yield line


def count_visits(lines: Iterable[bytes]) -> LogCount:
    """Count what people asked for: GET, whatever the answer was; robots are left out."""
    count = LogCount()
    for line in lines:
        if not line.strip():
            continue
        count.lines += 1
        match = LINE.match(line)
        if not match:
            count.unreadable += 1
            continue
        if match["method"] != b"GET":
            count.other_methods += 1
            continue
        if match["agent"] and ROBOT.search(match["agent"]):
            count.robots += 1
            continue
        target = match["target"].decode("utf-8", "replace")
        count.visits[target] = count.visits.get(target, 0) + 1
    return count
