"""The account of files that lie on other hosts of the old site."""

from __future__ import annotations

from typing import NamedTuple

from grandferry.core.route.sisters import SisterFate

from .db import Part, one, rows


class SisterFile(NamedTuple):
    """A file of another host; ``aside``: why it is set aside (as ``core.because`` keeps it); ``problem``: why it could
    not be had."""

    address: int
    host: str
    key: str
    url: str
    mime: str
    bytes: int
    status: int
    in_links: int
    visits: int
    new_path: str
    fate: SisterFate
    aside: str
    problem: str


# the one place that decides it
_HAD = "(a.state = 'done' AND a.status = 200)"
_FATE = (
    f"CASE WHEN f.fate = 'set aside' THEN '{SisterFate.ASIDE}' WHEN NOT {_HAD} THEN '{SisterFate.NOT_HAD}' WHEN "
    f"coalesce(f.new_path, '') = '' THEN '{SisterFate.BREAKS}' WHEN f.fate = 'carried' THEN '{SisterFate.CARRIED}' "
    f"ELSE '{SisterFate.PLANNED}' END"
)
_OF = (
    "address a LEFT JOIN file_source s ON s.address_id = a.id LEFT JOIN file f ON f.id = s.file_id WHERE "
    "a.crossing_id = ? AND a.side = 'old' AND a.counted = 0 AND a.type != 'page' AND a.state IN ('done', 'failed') AND "
    "a.host != ?"
)


def _those(crossing: int, home: str, host: str, fate: str, search: str) -> Part:
    part = Part(_OF, crossing, home).like(search, "a.url")
    return part.any_of("a.host", [host] if host else []).any_of(_FATE, [fate] if fate else [])


class SisterHost(NamedTuple):
    """Another host's files with one fate: how many, and their visits."""

    host: str
    fate: SisterFate
    count: int
    visits: int


def hosts(crossing: int, home: str) -> list[SisterHost]:
    """The account: files of hosts other than ``home``, by host and fate."""
    part = _those(crossing, home, "", "", "")
    return [
        SisterHost(host, SisterFate(fate), count, visits)
        for host, fate, count, visits in rows(
            f"SELECT a.host, {_FATE}, count(*), sum(a.visits) FROM {part.sql} GROUP BY 1, 2 ORDER BY 1, 2", *part.values
        )
    ]


def window(
    crossing: int, home: str, host: str, fate: str, search: str, offset: int, limit: int
) -> tuple[int, list[SisterFile]]:
    """(total, rows) of the account, those of a host ("" any) with a fate ("" any), by their addresses."""
    part = _those(crossing, home, host, fate, search)
    total = int(one(f"SELECT count(*) FROM {part.sql}", *part.values))
    found = [
        SisterFile(*row, SisterFate(fate), aside, problem or _answers(row[6]))
        for *row, fate, aside, problem in rows(
            "SELECT a.id, a.host, a.key, a.url, a.mime, a.bytes, a.status, a.in_links, a.visits, coalesce(f.new_path, "
            f"''), {_FATE}, coalesce(f.reason, ''), a.reason FROM {part.sql} ORDER BY a.url LIMIT ? OFFSET ?",
            *part.values,
            limit,
            offset,
        )
    ]
    return total, found


def _answers(status: int) -> str:
    return f"answers {status}" if status >= 300 else ""
