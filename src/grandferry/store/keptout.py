"""What a survey met and kept out: by host and reason, one by one, and who links to it."""

from __future__ import annotations

import json
from typing import Any

from .db import Part, named, one, rows

ROW = ("id", "url", "host", "reason", "wants_file", "pages", "source", "source_key", "how")


def groups(crossing: int) -> list[dict[str, Any]]:
    """host, reason, number of addresses kept out, and how many of them are files."""
    return named(
        ("host", "reason", "count", "files"),
        "SELECT host, reason, count(*), sum(wants_file) FROM shut_out WHERE crossing_id = ? GROUP BY 1, 2 ORDER BY 3 DESC, 1, 2",
        crossing,
    )


def window(
    crossing: int, host: str, reason: str, search: str, offset: int, limit: int
) -> tuple[int, list[dict[str, Any]]]:
    """(total, rows) of what is kept out for a reason ("" any) on a host ("" any): the number of pages that link to
    each, and the first of them (0 and "" when it was met elsewhere)."""
    part = Part("shut_out s WHERE s.crossing_id = ?", crossing).like(search, "s.url")
    part = part.any_of("s.host", [host] if host else []).any_of("s.reason", [reason] if reason else [])
    total = one(f"SELECT count(*) FROM {part.sql}", *part.values)
    # what was let in and then kept out (by robots.txt, or as an endless space) is an address, and linked to as one
    into = (
        "SELECT o.id AS n, o.source_id, o.how FROM out_reference o WHERE o.target_id = s.id UNION ALL SELECT r.id, r.source_id, "
        "r.how FROM reference r JOIN address k ON k.id = r.target_id WHERE k.crossing_id = s.crossing_id AND k.side = 'old' "
        "AND k.url = s.url"
    )
    found = rows(
        "SELECT t.id, t.url, t.host, t.reason, t.wants_file, t.pages, t.source, a.key, t.how FROM ("
        f"SELECT s.*, (SELECT count(DISTINCT source_id) FROM ({into})) AS pages, "
        f"(SELECT source_id FROM ({into}) ORDER BY n LIMIT 1) AS source, "
        f"coalesce((SELECT how FROM ({into}) ORDER BY n LIMIT 1), '') AS how "
        f"FROM {part.sql} ORDER BY s.url LIMIT ? OFFSET ?) t LEFT JOIN address a ON a.id = t.source ORDER BY t.url",
        *part.values,
        limit,
        offset,
    )
    made = [
        dict(zip(ROW, (id_, url, at, why, bool(file), pages, source or 0, key or "", how), strict=True))
        for id_, url, at, why, file, pages, source, key, how in found
    ]
    return total, made


def urls(crossing: int, host: str, reason: str, ids: list[int]) -> list[str]:
    """The addresses kept out for a reason on a host, or of them only those with these ids."""
    part = Part("SELECT url FROM shut_out WHERE crossing_id = ? AND host = ? AND reason = ?", crossing, host, reason)
    if ids:
        part = part.and_("id IN (SELECT value FROM json_each(?))", json.dumps(ids))
    return [row[0] for row in rows(part.sql + " ORDER BY url", *part.values)]


def all_of(crossing: int) -> list[tuple[str, str, bool, int]]:
    """(url, reason, wants_file, depth) of everything kept out."""
    return [
        (url, reason, bool(file), depth)
        for url, reason, file, depth in rows(
            "SELECT url, reason, wants_file, depth FROM shut_out WHERE crossing_id = ?", crossing
        )
    ]


def asked(crossing: int) -> list[tuple[str, bool, int, str]]:
    """(url, wants_file, depth, state) of every old address that is not kept out."""
    return [
        (url, bool(file), depth, state)
        for url, file, depth, state in rows(
            "SELECT url, wants_file, depth, state FROM address WHERE crossing_id = ? AND side = 'old' AND state != 'shut out'",
            crossing,
        )
    ]
