"""Records of the survey: addresses, how they were found, captures, references, and the account's base."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from grandferry.core.side import Side

from .db import many, one, rows
from .schema import Address, Sounding
from .sort import PageToSort


@dataclass(slots=True)
class Answer:
    """A capture to be stored."""

    at: str
    status: int
    headers: str
    body: str
    bytes: int
    seconds: float
    encoding: str
    doubtful: str
    rendered: str = ""


@dataclass(slots=True)
class Outcome:
    """What became of one fetch."""

    address: int
    state: str = "done"
    reason: str = ""
    status: int = 0
    sort: str = ""
    mime: str = ""
    target: str = ""
    title: str = ""
    words: int = 0
    bytes: int = 0
    capture: Answer | None = None
    facts: tuple[str, str] | None = None
    keep: bool = False  # the capture of an earlier survey stays the latest (no answer this time, or it is gone)


def known(side: Side, run: int) -> tuple[dict[str, int], list[tuple[Any, ...]], int]:
    """url -> id of all addresses of a side; (id, url, wants_file, depth, whether it was asked in an earlier survey) of
    those this survey has still to ask; and the number of pages it has fetched."""
    ids = dict(rows("SELECT url, id FROM address WHERE crossing_id = ? AND side = ?", *side))
    waiting = rows(
        "SELECT id, url, wants_file, depth, state != 'waiting' FROM address WHERE crossing_id = ? AND side = ? AND "
        "(state = 'waiting' OR (run < ? AND state IN ('done', 'failed'))) ORDER BY depth, id",
        *side,
        run,
    )
    pages = one(
        "SELECT count(*) FROM address WHERE crossing_id = ? AND side = ? AND sort = 'page' AND status = 200 AND run = "
        "?",
        *side,
        run,
    )
    return ids, waiting, pages


def drop_references(sources: list[int]) -> None:
    """Forget what these pages linked to; they have been read anew."""
    for source in sources:
        rows("DELETE FROM reference WHERE source_id = ?", source)
        rows("DELETE FROM out_reference WHERE source_id = ?", source)


def next_address_id() -> int:
    return (one("SELECT max(id) FROM address") or 0) + 1


def folder_of(key: str) -> str:
    """The first folder of a path, ``/`` for what lies in none."""
    parts = key.partition("?")[0].split("/")
    return f"/{parts[1]}/" if len(parts) > 2 and parts[1] else "/"


def add_addresses(side: Side, new: list[tuple[Any, ...]]) -> None:
    """Rows (id, url, host, key, wants_file, depth, first_run)."""
    many(
        "INSERT INTO address (id, crossing_id, side, url, host, key, wants_file, depth, folder, state, reason, "
        "status, sort, mime, target, title, words, bytes, visits, in_links, counted, decision, decision_target, "
        "decision_origin, decision_reason, verdict, judged, fate, proven, why, run, first_run, change) VALUES (?, ?, "
        "?, ?, ?, ?, ?, ?, ?, 'waiting', '', 0, '', '', '', '', 0, 0, 0, 0, 0, '', '', '', '', '', '', "
        "'unaccounted', 0, '', 0, ?, '')",
        [(row[0], *side, *row[1:6], folder_of(row[3]), row[6]) for row in new],
    )


def add_found(found: list[tuple[int, int, str]]) -> None:
    many("INSERT OR IGNORE INTO found (crossing_id, address_id, how) VALUES (?, ?, ?)", found)


def add_spellings(crossing: int, spellings: list[tuple[int, str]]) -> None:
    """Rows (address, url as written)."""
    many(
        "INSERT OR IGNORE INTO spelling (crossing_id, address_id, url) VALUES (?, ?, ?)",
        [(crossing, address, url) for address, url in spellings],
    )


def to_ask(side: Side, address: int) -> tuple[str, bool, int, bool] | None:
    """(url, wants_file, depth, whether it was asked before) of one address, None when it is none of the side's."""
    found = rows(
        "SELECT url, wants_file, depth, state != 'waiting' FROM address WHERE id = ? AND crossing_id = ? AND side = ?",
        address,
        *side,
    )
    return (found[0][0], bool(found[0][1]), found[0][2], bool(found[0][3])) if found else None


def set_visits(crossing: int, visits: dict[int, int]) -> None:
    many(
        "UPDATE address SET visits = ? WHERE id = ? AND crossing_id = ?", [(n, k, crossing) for k, n in visits.items()]
    )


def next_capture_id() -> int:
    return (one("SELECT max(id) FROM capture") or 0) + 1


def record_many(side: Side, run: int, host: str, outcomes: list[Outcome], first_capture: int) -> int:
    """Store the outcomes of a batch of fetches (within the caller's transaction); captures are numbered from
    ``first_capture`` on. Gives the next free number. What belongs to the account of the old ``host`` is counted in it
    at once (``count_accounts`` has the last word); the new side has no part in it."""
    crossing, host = side.crossing, host if side.name == "old" else ""
    captures, addresses, kept, facts = [], [], [], []
    number = first_capture
    for o in outcomes:
        capture = None
        if o.capture is not None:
            a = o.capture
            capture = number
            number += 1
            captures.append(
                (
                    capture,
                    crossing,
                    o.address,
                    a.at,
                    a.status,
                    a.headers,
                    a.body,
                    a.bytes,
                    a.seconds,
                    a.encoding,
                    a.doubtful,
                    a.rendered,
                )
            )
        if o.keep:
            kept.append((o.status, o.status, o.reason, run, o.address))
        else:
            counts = o.state == "failed" or (o.state == "done" and o.status not in (404, 410))
            addresses.append(
                (
                    o.state,
                    o.reason,
                    o.status,
                    o.sort,
                    o.mime,
                    o.target,
                    o.title,
                    o.words,
                    o.bytes,
                    capture,
                    run,
                    host,
                    counts,
                    o.address,
                )
            )
        if o.facts is not None:
            facts.append((o.address, crossing, *o.facts))
    many(
        "INSERT INTO capture (id, crossing_id, address_id, at, status, headers, body, bytes, seconds, encoding, "
        "doubtful, rendered) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        captures,
    )
    many(
        "UPDATE address SET state = ?, reason = ?, status = ?, sort = ?, mime = ?, target = ?, title = ?, words = ?, "
        "bytes = ?, capture = ?, run = ?, counted = counted OR (host = ? AND (visits > 0 OR ?)) WHERE id = ?",
        addresses,
    )
    many(
        "UPDATE address SET status = CASE WHEN ? > 0 THEN ? ELSE status END, reason = ?, run = ? WHERE id = ?",
        kept,
    )
    many("INSERT OR REPLACE INTO page_facts (address_id, crossing_id, facts, findings) VALUES (?, ?, ?, ?)", facts)
    return number


def add_references(refs: list[tuple[Any, ...]]) -> None:
    """Rows (crossing, source, target, how, raw, words)."""
    many(
        "INSERT INTO reference (crossing_id, source_id, target_id, how, raw, words) VALUES (?, ?, ?, ?, ?, ?)",
        refs,
    )


def add_in_links(counts: dict[int, int]) -> None:
    """Count links on their targets, while a survey goes on (``depths.measure`` has the last word)."""
    many("UPDATE address SET in_links = in_links + ? WHERE id = ?", [(n, k) for k, n in counts.items()])


def sound(side: Side, name: str, content: Any) -> None:
    Sounding.insert(
        crossing=side.crossing, side=side.name, name=name, content=json.dumps(content)
    ).on_conflict_replace().execute()


def shut_out(side: Side) -> dict[str, tuple[int, str, bool, int]]:
    """url -> (id, reason, wants_file, depth) of every address kept out so far."""
    return {
        url: (id_, reason, bool(wants_file), depth)
        for id_, url, reason, wants_file, depth in rows(
            "SELECT id, url, reason, wants_file, depth FROM shut_out WHERE crossing_id = ? AND side = ?", *side
        )
    }


def next_shut_out_id() -> int:
    return (one("SELECT max(id) FROM shut_out") or 0) + 1


def store_shut_out(side: Side, kept_out: list[tuple[int, str, str, str, bool, int]]) -> None:
    """Rows (id, url, host, reason, wants_file, depth) of addresses kept out, or kept out for another reason."""
    many(
        "INSERT INTO shut_out (crossing_id, side, id, url, host, reason, wants_file, depth, how, pages) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?, '', 0) ON CONFLICT (id) DO UPDATE SET reason = excluded.reason, wants_file = "
        "excluded.wants_file, depth = excluded.depth",
        [(*side, *row) for row in kept_out],
    )


def add_out_references(crossing: int, refs: list[tuple[Any, ...]]) -> None:
    """Rows (source, kept out, how, raw, words)."""
    many(
        "INSERT INTO out_reference (crossing_id, source_id, target_id, how, raw, words) VALUES (?, ?, ?, ?, ?, ?)",
        [(crossing, *ref) for ref in refs],
    )


def shut(address: int, reason: str) -> None:
    """Mark an address that waited as kept out."""
    rows("UPDATE address SET state = 'shut out', reason = ? WHERE id = ?", reason, address)


def reopen(address: int) -> bool:
    """Let an address that was kept out wait again; False when it was not kept out."""
    if one("SELECT state FROM address WHERE id = ?", address) != "shut out":
        return False
    rows("UPDATE address SET state = 'waiting', reason = '' WHERE id = ?", address)
    return True


def count_shut_out(side: Side) -> None:
    """Count the pages that name each address kept out, and note where it stands. What was let in and then kept out
    after all (by robots.txt, as an endless space) is linked to as an address."""
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


def let_in(crossing: int, pairs: list[tuple[int, int]]) -> None:
    """Rows (kept out, address): what was kept out is an address now, and so are the references to it."""
    for out, address in pairs:
        refs = rows("SELECT source_id, how, raw, words FROM out_reference WHERE target_id = ?", out)
        add_references([(crossing, source, address, how, raw, words) for source, how, raw, words in refs])
        rows("DELETE FROM out_reference WHERE target_id = ?", out)
        rows("DELETE FROM shut_out WHERE id = ?", out)


# visitors asked for it, or somebody named it in a list
_ASKED_FOR = "(visits > 0 OR EXISTS (SELECT 1 FROM found f WHERE f.address_id = address.id AND f.how = 'list'))"


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


def start_facts(side: Side, url: str) -> dict[str, Any]:
    """What the start page says of itself: status, title, generator mark, language, encoding, words, scripts."""
    found = rows(
        "SELECT a.status, a.title, a.words, c.encoding, c.doubtful, f.facts FROM address a JOIN capture c ON c.id = "
        "a.capture LEFT JOIN page_facts f ON f.address_id = a.id WHERE a.crossing_id = ? AND a.side = ? AND "
        "a.url = ?",
        *side,
        url,
    )
    if not found:
        return {}
    status, title, words, encoding, doubtful, facts = found[0]
    read = json.loads(facts) if facts else {}
    return {
        "status": status,
        "title": title,
        "words": words,
        "encoding": encoding,
        "doubtful": doubtful,
        **{name: read.get(name, "") for name in ("generator", "language", "scripts")},
    }


def summary(side: Side) -> dict[str, Any]:
    """The figures of a survey, as ``survey --json`` prints them."""
    by = dict(
        rows(
            "SELECT CASE WHEN state = 'failed' THEN 'failed' WHEN state = 'done' AND status >= 400 THEN 'error' ELSE "
            "sort END, count(*) FROM address WHERE crossing_id = ? AND side = ? GROUP BY 1",
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
            "type": sort or state,
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
        for id_, url, status, sort, state, target, title, depth, words, size, mime, visits, in_links, reason in rows(
            "SELECT id, url, status, sort, state, target, title, depth, words, bytes, mime, visits, in_links, reason "
            "FROM address WHERE crossing_id = ? AND side = ? ORDER BY id",
            *side,
        )
    ]


def captures(side: Side) -> Iterator[tuple[str, str, int, str, str]]:
    """(url, at, status, headers JSON, body hash) of all captures with a body and of all redirects, a thousand at a
    time."""
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
        yield from (row[1:] for row in batch)


def pages(crossing: int) -> list[PageToSort]:
    """Every captured page that answered 200 on the old host, in order of its key."""
    found = rows(
        "SELECT a.id, a.url, a.key, c.content, c.headers, s.made_from FROM address a JOIN capture c ON c.id = "
        "a.capture LEFT JOIN sorted s ON s.address_id = a.id WHERE a.crossing_id = ? AND a.side = 'old' AND a.sort = "
        "'page' AND a.status = 200 AND c.content != '' ORDER BY a.key",
        crossing,
    )
    return [PageToSort(*row) for row in found]


def soundings(side: Side) -> dict[str, Any]:
    """What was found out about the site before the survey, by name."""
    return {
        name: json.loads(content)
        for name, content in rows("SELECT name, content FROM sounding WHERE crossing_id = ? AND side = ?", *side)
    }
