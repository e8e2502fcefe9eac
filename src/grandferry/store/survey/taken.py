"""What became of the addresses that were asked: captures, facts and references, written a batch at a time."""

from __future__ import annotations

from dataclasses import dataclass

from grandferry.core.side import Side

from ..db import many, one, rows


@dataclass(slots=True)
class NewCapture:
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
    type: str = ""
    mime: str = ""
    target: str = ""
    title: str = ""
    words: int = 0
    bytes: int = 0
    capture: NewCapture | None = None
    facts: tuple[str, str, bytes] | None = None  # as JSON, what is odd, the make
    keep: bool = False  # the capture of an earlier survey stays the latest (no answer this time, or it is gone)


def drop_references(sources: list[int]) -> None:
    """Forget what these pages linked to; they have been read anew."""
    for source in sources:
        rows("DELETE FROM reference WHERE source_id = ?", source)
        rows("DELETE FROM out_reference WHERE source_id = ?", source)


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
                    o.type,
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
        "UPDATE address SET state = ?, reason = ?, status = ?, type = ?, mime = ?, target = ?, title = ?, words = ?, "
        "bytes = ?, capture = ?, run = ?, counted = counted OR (host = ? AND (visits > 0 OR ?)) WHERE id = ?",
        addresses,
    )
    many(
        "UPDATE address SET status = CASE WHEN ? > 0 THEN ? ELSE status END, reason = ?, run = ? WHERE id = ?",
        kept,
    )
    many(
        "INSERT OR REPLACE INTO page_facts (address_id, crossing_id, facts, findings, make) VALUES (?, ?, ?, ?, ?)",
        facts,
    )
    return number


# A reference from a page to an address (or to one that is kept out), as it is written down: crossing, source, target,
# its element, the value as written, and the words it stands on. A plain tuple: a survey makes one for every link.
NewReference = tuple[int, int, int, str, str, str]


def add_references(refs: list[NewReference]) -> None:
    """References to addresses."""
    many(
        "INSERT INTO reference (crossing_id, source_id, target_id, how, raw, words) VALUES (?, ?, ?, ?, ?, ?)",
        refs,
    )


def add_in_links(counts: dict[int, int]) -> None:
    """Count links on their targets, while a survey goes on (``depths.measure`` has the last word)."""
    many("UPDATE address SET in_links = in_links + ? WHERE id = ?", [(n, k) for k, n in counts.items()])


def add_out_references(refs: list[NewReference]) -> None:
    """References to what is kept out."""
    many(
        "INSERT INTO out_reference (crossing_id, source_id, target_id, how, raw, words) VALUES (?, ?, ?, ?, ?, ?)",
        refs,
    )
