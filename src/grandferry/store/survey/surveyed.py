"""What a survey has found, as a whole: its figures, its addresses and captures in order, the base of the account."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, NamedTuple

from grandferry.core.side import Side

from ..db import one, rows
from ..records import IS_PUBLIC
from ..schema import Address
from ..sort import PageToSort


def count_shut_out(side: Side) -> None:
    """Count the pages that name each address kept out, and note where it stands. What was let in and then kept out
    after all (by robots.txt, as an endless space) is linked to as an address."""
    rows("UPDATE shut_out SET pages = 0 WHERE crossing_id = ? AND side = ? AND pages > 0", *side)
    rows(
        "UPDATE shut_out SET pages = t.pages, how = t.how FROM (SELECT target_id, count(DISTINCT source_id) AS pages, "
        "min(how) AS how FROM out_reference WHERE crossing_id = ? GROUP BY target_id) t WHERE shut_out.id = "
        "t.target_id AND shut_out.side = ?",
        *side,
    )
    rows(
        "UPDATE shut_out SET pages = t.pages, how = t.how FROM (SELECT a.url, count(DISTINCT r.source_id) AS pages, "
        "min(r.how) AS how FROM address a JOIN reference r ON r.target_id = a.id WHERE a.crossing_id = ? AND "
        "a.side = ? AND a.state = 'shut out' GROUP BY a.id) t WHERE shut_out.crossing_id = ? AND shut_out.side = ? AND "
        "shut_out.url = t.url",
        *side,
        *side,
    )


# visitors asked for it, somebody named it in a list, or a record says that it was public
_ASKED_FOR = (
    "(visits > 0 OR EXISTS (SELECT 1 FROM found f WHERE f.address_id = address.id AND f.how = 'list') OR EXISTS "
    f"(SELECT 1 FROM record r WHERE r.crossing_id = address.crossing_id AND r.key = address.key AND {IS_PUBLIC}))"
)


def count_accounts(crossing: int, host: str) -> None:
    """Mark the addresses that belong to the account: on the old ``host`` itself, and answered, redirected, failed, or
    asked for by visitors. A dead link nobody visits is a finding, not an address."""
    rows(
        "UPDATE address SET counted = 1 WHERE crossing_id = ? AND side = 'old' AND host = ? AND counted = 0 AND ("
        f"{_ASKED_FOR} OR (state = 'done' AND status NOT IN (404, 410)) OR state = 'failed')",
        crossing,
        host,
    )
    rows(
        f"UPDATE address SET counted = 0 WHERE crossing_id = ? AND side = 'old' AND counted = 1 AND NOT {_ASKED_FOR} "
        "AND state = 'done' AND status IN (404, 410) AND NOT EXISTS (SELECT 1 FROM capture c WHERE c.id = "
        "address.capture AND c.status < 400)",
        crossing,
    )


def address_by_url(side: Side, url: str) -> Address | None:
    return Address.get_or_none((Address.crossing == side.crossing) & (Address.side == side.name) & (Address.url == url))


def summary(side: Side) -> dict[str, Any]:
    """The figures of a survey, as ``survey --json`` prints them."""
    by = dict(
        rows(
            "SELECT CASE WHEN state = 'failed' THEN 'failed' WHEN state = 'done' AND status >= 400 THEN 'error' ELSE "
            "type END, count(*) FROM address WHERE crossing_id = ? AND side = ? GROUP BY 1",
            *side,
        )
    )
    total = one("SELECT count(*) FROM address WHERE crossing_id = ? AND side = ?", *side)
    shut: dict[str, int] = {}
    for reason, count in rows(
        "SELECT reason, count(*) FROM shut_out WHERE crossing_id = ? AND side = ? GROUP BY reason", *side
    ):
        shut[reason] = count
    return {
        "addresses": total,
        "pages": by.get("page", 0),
        "files": by.get("file", 0),
        "redirects": by.get("redirect", 0),
        "failed": by.get("failed", 0) + by.get("error", 0) + by.get("refused", 0),
        "shut_out": shut,
    }


def address_rows(side: Side) -> list[dict[str, Any]]:
    """One row an address, as ``survey --out`` writes them."""
    found: dict[int, list[str]] = {}
    for address, how in rows("SELECT address_id, how FROM found WHERE crossing_id = ? ORDER BY how", side.crossing):
        found.setdefault(address, []).append(how)
    first = dict(
        rows(
            "SELECT r.target_id, a.url FROM reference r JOIN address a ON a.id = r.source_id WHERE r.crossing_id = ? "
            "AND a.side = ? GROUP BY r.target_id HAVING min(r.id)",
            *side,
        )
    )
    return [
        {
            "address": url,
            "status": status or "",
            "type": type_ or state,
            "target": target,
            "title": title,
            "depth": depth,
            "found_by": " ".join(found.get(id_, [])),
            "linked_from": first.get(id_, ""),
            "words": words,
            "bytes": size,
            "mime": mime,
            "visits": visits,
            "in_links": in_links,
            "note": reason,
        }
        for id_, url, status, type_, state, target, title, depth, words, size, mime, visits, in_links, reason in rows(
            "SELECT id, url, status, type, state, target, title, depth, words, bytes, mime, visits, in_links, reason "
            "FROM address WHERE crossing_id = ? AND side = ? ORDER BY id",
            *side,
        )
    ]


class Kept(NamedTuple):
    """A capture: ``headers`` JSON, ``body`` a hash or ""."""

    url: str
    at: str
    status: int
    headers: str
    body: str


def captures(side: Side) -> Iterator[Kept]:
    """All captures with a body and all redirects, read a thousand at a time."""
    last = 0
    while True:
        batch = rows(
            "SELECT c.id, a.url, c.at, c.status, c.headers, c.body FROM capture c JOIN address a ON a.id = "
            "c.address_id WHERE c.crossing_id = ? AND a.side = ? AND c.id > ? AND (c.body != '' OR c.status "
            "BETWEEN 300 AND 399) ORDER BY c.id LIMIT 1000",
            *side,
            last,
        )
        if not batch:
            return
        last = batch[-1][0]
        yield from (Kept(*row[1:]) for row in batch)


_PAGE = (
    "SELECT a.id, a.url, a.key, c.content, c.headers, s.made_from, coalesce((SELECT json_extract(f.facts, "
    "'$.language') FROM page_facts f WHERE f.address_id = a.id), ''), (SELECT json_group_array(DISTINCT r.kind || '/' "
    "|| r.state) FROM record r WHERE r.crossing_id = a.crossing_id AND (r.key = a.key OR r.page = a.key)) FROM address "
    "a JOIN capture c ON c.id = a.capture LEFT JOIN sorted s ON s.address_id = a.id WHERE a.crossing_id = ? AND a.side "
    "IN ('old', 'record') AND a.type = 'page' AND a.status = 200 AND c.content != ''"
)


def pages(crossing: int) -> list[PageToSort]:
    """Every captured page that answered 200 on the old host, and the pages of records, in order of their keys."""
    return [PageToSort(*row) for row in rows(f"{_PAGE} ORDER BY a.key", crossing)]


def page(crossing: int, address: int) -> PageToSort | None:
    """One such page, None when the address is none."""
    found = rows(f"{_PAGE} AND a.id = ?", crossing, address)
    return PageToSort(*found[0]) if found else None


def makes(crossing: int, address: int | None = None) -> dict[int, bytes]:
    """The makes of the old site's pages by address (traits as 32-bit numbers, lowest byte first), or of one of them."""
    of = "" if address is None else " AND a.id = ?"
    given = () if address is None else (address,)
    return dict(
        rows(
            "SELECT a.id, f.make FROM page_facts f JOIN address a ON a.id = f.address_id WHERE a.crossing_id = ? AND "
            f"a.side = 'old' AND f.make != x''{of}",
            crossing,
            *given,
        )
    )
