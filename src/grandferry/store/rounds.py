"""Rounds: what is to be asked for, what old addresses answered, and what each live check found."""

from __future__ import annotations

import json
from typing import NamedTuple

from grandferry.core.route.fate import Decision
from grandferry.core.route.verdicts import Verdict
from grandferry.core.side import Side

from .db import many, now, one, rows, typed
from .fates import refresh_fates
from .schema import Round


def open_round(crossing: int, base: str) -> int:
    """A new round, or the unfinished one of the same base (a broken run goes on)."""
    unfinished = one("SELECT max(id) FROM round WHERE crossing_id = ? AND base = ? AND ended = ''", crossing, base)
    if unfinished:
        return int(unfinished)
    return int(Round.create(crossing=crossing, base=base, started=now()).id)


def judged_in(round_: int) -> set[int]:
    return {row[0] for row in rows("SELECT address_id FROM round_verdict WHERE round_id = ?", round_)}


def latest_round(crossing: int, base: str) -> int:
    """The latest round of a host that came to its end, 0 for none."""
    return int(one("SELECT max(id) FROM round WHERE crossing_id = ? AND base = ? AND ended != ''", crossing, base) or 0)


def take_over(round_: int, before: int, addresses: list[int]) -> None:
    """What the round ``before`` found at some addresses stands in this one as well (within the caller's
    transaction)."""
    many(
        "INSERT OR IGNORE INTO round_verdict (round_id, address_id, verdict, judged, status, hops, final, seen) "
        "SELECT ?, address_id, verdict, judged, status, hops, final, seen FROM round_verdict WHERE round_id = ? AND "
        "address_id = ?",
        [(round_, before, address) for address in addresses],
    )
    rows("UPDATE round SET taken_over = ? WHERE id = ?", len(addresses), round_)


def drop(round_: int) -> None:
    """Forget a round that came to nothing (within the caller's transaction)."""
    rows("DELETE FROM round WHERE id = ?", round_)


class ToCheck(NamedTuple):
    """An address to be asked for."""

    address: int
    key: str
    decision: Decision


class Answered(NamedTuple):
    """What an address answered: the hash of its body, its headers (JSON) and media type; ``target``: where it
    redirects to, and then the rest is empty."""

    address: int
    key: str
    url: str
    type: str
    mime: str
    target: str
    content: str
    headers: str


class Judged(NamedTuple):
    """What a round found for one address; ``judged`` is the signature of the decision, ``hops`` JSON; ``seen`` what its
    content was found to be, "" where that was not looked at."""

    address: int
    verdict: Verdict
    judged: str
    status: int
    hops: str
    final: str
    seen: str = ""


def answered(side: Side) -> list[Answered]:
    """What every address of a side answered that answered at all."""
    return typed(
        Answered,
        "SELECT a.id, a.key, a.url, a.type, a.mime, a.target, CASE a.type WHEN 'page' THEN c.content ELSE c.body END, "
        "c.headers FROM address a JOIN capture c ON c.id = a.capture WHERE a.crossing_id = ? AND a.side = ? AND "
        "(a.type = 'redirect' OR a.status = 200) ORDER BY a.id",
        side.crossing,
        side.name,
    )


def to_check(crossing: int) -> list[ToCheck]:
    """Every counted address, in order of their keys."""
    return [
        ToCheck(id_, key, Decision(fate or None, target, origin, reason, status))
        for id_, key, fate, target, origin, reason, status in rows(
            "SELECT id, key, decision, decision_target, decision_origin, decision_reason, decision_status FROM address "
            "WHERE crossing_id = ? AND counted = 1 ORDER BY key",
            crossing,
        )
    ]


def store_verdicts(round_: int, found: list[Judged], counts: bool = True) -> None:
    """Note what was found in a round. ``counts``: it was found on the host where checks go, so that fates follow."""
    many(
        "INSERT OR REPLACE INTO round_verdict (round_id, address_id, verdict, judged, status, hops, final, seen) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        [(round_, *row) for row in found],
    )
    if counts:
        many(
            "UPDATE address SET verdict = ?, judged = ?, seen = ? WHERE id = ?",
            [(row.verdict, row.judged, row.seen, row.address) for row in found],
        )


def close_round(crossing: int, round_: int) -> dict[str, int]:
    counts = dict(rows("SELECT verdict, count(*) FROM round_verdict WHERE round_id = ? GROUP BY verdict", round_))
    rows("UPDATE round SET ended = ?, counts = ? WHERE id = ?", now(), json.dumps(counts), round_)
    refresh_fates(crossing)
    return counts


class Found(NamedTuple):
    """What a round found for an address, and what decides it now."""

    address: int
    key: str
    verdict: str
    judged: str
    origin: str
    reason: str


def verdicts_of(round_: int) -> list[Found]:
    """All that a round found."""
    return typed(
        Found,
        "SELECT v.address_id, a.key, v.verdict, v.judged, a.decision_origin, a.decision_reason FROM round_verdict v "
        "JOIN address a ON a.id = v.address_id WHERE v.round_id = ?",
        round_,
    )


class Proof(NamedTuple):
    """Where an address is to lead, and what the latest check says of it."""

    key: str
    target: str
    verdict: str
    judged: str
    visits: int


def proofs(crossing: int, base: str) -> list[Proof]:
    """Of every counted address, in order of their keys, by the latest round that asked the host at ``base``."""
    return typed(
        Proof,
        "SELECT a.key, a.decision_target, coalesce(v.verdict, ''), coalesce(v.judged, ''), a.visits FROM address a "
        "LEFT JOIN round_verdict v ON v.address_id = a.id AND v.round_id = (SELECT max(r.id) FROM round r WHERE "
        "r.crossing_id = a.crossing_id AND r.base = ?) WHERE a.crossing_id = ? AND a.counted = 1 ORDER BY a.key",
        base,
        crossing,
    )


def undecided_same(crossing: int) -> int:
    """Undecided addresses that answered with the same content in the latest round."""
    return int(
        one(
            "SELECT count(*) FROM address WHERE crossing_id = ? AND counted = 1 AND decision = '' AND verdict = 'same'",
            crossing,
        )
    )


class RoundRow(NamedTuple):
    """A round: where it asked, from when to when, its verdicts by count (as JSON), how many it did not ask since the
    round before had proven them."""

    id: int
    base: str
    started: str
    ended: str
    counts: str
    taken_over: int


def round_rows(crossing: int) -> list[RoundRow]:
    return typed(
        RoundRow,
        "SELECT id, base, started, ended, counts, taken_over FROM round WHERE crossing_id = ? ORDER BY id",
        crossing,
    )


class VerdictRow(NamedTuple):
    """What a round found at an address; ``hops`` as JSON; ``seen`` what its content was found to be."""

    address: int
    key: str
    verdict: str
    status: int
    hops: str
    final: str
    seen: str


def verdict_rows(round_: int, verdict: str, offset: int, limit: int) -> tuple[int, list[VerdictRow]]:
    condition, values = ("AND v.verdict = ?", [verdict]) if verdict else ("", [])
    total = one(f"SELECT count(*) FROM round_verdict v WHERE v.round_id = ? {condition}", round_, *values)
    found = typed(
        VerdictRow,
        "SELECT a.id, a.key, v.verdict, v.status, v.hops, v.final, v.seen FROM round_verdict v JOIN address a "
        f"ON a.id = v.address_id WHERE v.round_id = ? {condition} ORDER BY a.key LIMIT ? OFFSET ?",
        round_,
        *values,
        limit,
        offset,
    )
    return total, found
