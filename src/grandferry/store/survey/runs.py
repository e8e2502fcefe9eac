"""Records of later surveys: which survey goes on, what an earlier one captured, what the last one found changed."""

from __future__ import annotations

import json
from collections.abc import Iterable
from dataclasses import dataclass
from typing import NamedTuple

from grandferry.core.side import Side
from grandferry.core.survey.refusals import ONE_PAGE, SIGN_IN

from ..db import many, now, one, rows
from .taken import drop_references


def open_run(side: Side, again: bool) -> int:
    """The number of the survey that is to go on: the last one, or with ``again`` a new one when that has ended."""
    last = rows(
        "SELECT number, ended FROM survey_run WHERE crossing_id = ? AND side = ? ORDER BY number DESC LIMIT 1", *side
    )
    if last and not (again and last[0][1]):
        rows(
            "UPDATE survey_run SET ended = '', stopped = '' WHERE crossing_id = ? AND side = ? AND number = ?",
            *side,
            last[0][0],
        )
        return int(last[0][0])
    number = int(last[0][0]) + 1 if last else 1
    rows(
        "INSERT INTO survey_run (crossing_id, side, number, started, ended, stopped) VALUES (?, ?, ?, ?, '', '')",
        *side,
        number,
        now(),
    )
    rows("UPDATE address SET change = '' WHERE crossing_id = ? AND side = ? AND change != ''", *side)
    return number


def ended(side: Side) -> bool:
    """Whether the last survey has come to its end."""
    return bool(
        one("SELECT ended FROM survey_run WHERE crossing_id = ? AND side = ? ORDER BY number DESC LIMIT 1", *side)
    )


def last_run(side: Side) -> int:
    """The number of the survey that went on last; one is begun where there is none."""
    return one("SELECT max(number) FROM survey_run WHERE crossing_id = ? AND side = ?", *side) or open_run(side, False)


def close_run(side: Side, number: int) -> None:
    rows("UPDATE survey_run SET ended = ? WHERE crossing_id = ? AND side = ? AND number = ?", now(), *side, number)


def stop_run(side: Side, number: int, why: str) -> None:
    """Note why addresses of a survey still wait, as a sentence."""
    rows("UPDATE survey_run SET stopped = ? WHERE crossing_id = ? AND side = ? AND number = ?", why, *side, number)


def begin_anew(side: Side, number: int, start: int) -> None:
    """Let a survey that found nothing ask its start once more when it goes on."""
    rows(
        "UPDATE survey_run SET ended = '', stopped = '' WHERE crossing_id = ? AND side = ? AND number = ?",
        *side,
        number,
    )
    rows("UPDATE address SET state = 'waiting' WHERE id = ?", start)


def ask_again(side: Side, number: int, walls: dict[str, str], statuses: Iterable[int], start: str) -> dict[str, int]:
    """Let the answers by which this survey was turned away wait again: those of hosts (keys of ``walls``) that hold
    nothing or have one of some statuses, and those with the one body (its hash, or "") that a host gave whatever was
    asked. Nothing of them counts as content, but at the start address. Gives their number by host."""
    marks = ",".join("?" * len(known := list(statuses)))
    found: dict[str, int] = {}
    for host, wall in walls.items():
        where = (
            f"crossing_id = ? AND side = ? AND host = ? AND run = ? AND state != 'waiting' AND (status IN ({marks}) OR "
            "type = 'refused' OR change = 'no answer')"
        )
        values = (*side, host, number, *known)
        again = [(number, id_) for (id_,) in rows(f"SELECT id FROM address WHERE {where}", *values)]
        found[host] = len(again)
        many("DELETE FROM address_change WHERE run = ? AND address_id = ?", again)  # it is not known yet
        # what holds content of an earlier survey stays as that left it, and is compared when it is asked again
        many("UPDATE address SET run = ? - 1, change = '' WHERE id = ? AND change = 'no answer'", again)
        many("UPDATE address SET state = 'waiting' WHERE run = ? AND id = ?", again)
        found[host] += _take_back(side, number, host, wall, start) if wall else 0
    return {host: count for host, count in found.items() if count}


def knock_again(side: Side, host: str, statuses: Iterable[int]) -> int:
    """Let the addresses of a host that asked for a key wait again, now that there is one: those with one of some
    statuses, and those that led to a sign-in. Gives their number."""
    marks = ",".join("?" * len(known := list(statuses)))
    where = (
        f"crossing_id = ? AND side = ? AND host = ? AND state = 'done' AND (status IN ({marks}) OR (type = 'refused' "
        "AND reason = ?))"
    )
    values = (*side, host, *known, SIGN_IN)
    found = int(one(f"SELECT count(*) FROM address WHERE {where}", *values))
    rows(f"UPDATE address SET state = 'waiting' WHERE {where}", *values)
    return found


def _take_back(side: Side, number: int, host: str, wall: str, start: str) -> int:
    same = [
        (id_,)
        for (id_,) in rows(
            "SELECT a.id FROM address a JOIN capture c ON c.id = a.capture WHERE a.crossing_id = ? AND a.side = ? AND "
            "a.host = ? AND a.run = ? AND c.body = ? AND a.url != ?",
            *side,
            host,
            number,
            wall,
            start,
        )
    ]
    drop_references([id_ for (id_,) in same])
    many("DELETE FROM page_facts WHERE address_id = ?", same)
    many(
        "UPDATE address SET state = 'waiting', type = 'refused', reason = ?, title = '', words = 0, capture = NULL "
        "WHERE id = ?",
        [(ONE_PAGE, id_) for (id_,) in same],
    )
    return len(same)


class Run(NamedTuple):
    """A survey of a side. ``stopped`` says why addresses still wait; ``changes``: addresses by what is different since
    the one before."""

    number: int
    started: str
    ended: str
    stopped: str
    changes: dict[str, int]


def runs(side: Side) -> list[Run]:
    """All surveys of a side, the first one first."""
    changes: dict[int, dict[str, int]] = {}
    for number, change, count in rows(
        "SELECT run, change, count(*) FROM address_change WHERE crossing_id = ? AND side = ? GROUP BY 1, 2", *side
    ):
        changes.setdefault(number, {})[change] = count
    return [
        Run(number, started, ended_, stopped, changes.get(number, {}))
        for number, started, ended_, stopped in rows(
            "SELECT number, started, ended, stopped FROM survey_run WHERE crossing_id = ? AND side = ? ORDER BY number",
            *side,
        )
    ]


@dataclass(frozen=True, slots=True)
class Before:
    """What an earlier survey captured at an address, to be compared with a new answer."""

    status: int
    answered: int  # the latest answer, which may be another: the capture stays when a page is gone
    etag: str
    modified: str
    body: str
    target: str
    title: str
    words_hash: str
    targets: frozenset[int]  # addresses it linked to
    rendered: bool  # captured as a browser built it, too


def before(address: int) -> Before | None:
    """The latest capture of an address, None when there is none."""
    found = rows(
        "SELECT c.status, a.status, c.headers, c.body, a.target, a.title, coalesce(f.facts, '{}'), c.rendered != '' "
        "FROM address a JOIN capture c ON c.id = a.capture LEFT JOIN page_facts f ON f.address_id = a.id WHERE a.id = "
        "?",
        address,
    )
    if not found:
        return None
    status, answered, headers, body, target, title, facts, rendered = found[0]
    held = json.loads(headers)
    targets = frozenset(row[0] for row in rows("SELECT target_id FROM reference WHERE source_id = ?", address))
    words_hash = str(json.loads(facts).get("words_hash", ""))
    etag, modified = held.get("etag", ""), held.get("last-modified", "")
    return Before(status, answered, etag, modified, body, target, title, words_hash, targets, bool(rendered))


def another(side: Side, host: str, body: str) -> str:
    """A page of a host that was captured with another body than this one, as near to the start as there is; "" when
    there is none."""
    found = rows(
        "SELECT a.url FROM address a JOIN capture c ON c.id = a.capture WHERE a.crossing_id = ? AND a.side = ? AND "
        "a.host = ? AND a.type = 'page' AND a.status = 200 AND c.body NOT IN ('', ?) ORDER BY a.depth, a.id LIMIT 1",
        *side,
        host,
        body,
    )
    return str(found[0][0]) if found else ""


class Changed(NamedTuple):
    """What a survey found changed at an address: added, changed, gone, back, no answer; and in what."""

    address: int
    change: str
    what: list[str]


def record_changes(side: Side, run: int, changes: list[Changed]) -> None:
    """Addresses that this survey has found changed."""
    many("UPDATE address SET change = ? WHERE id = ?", [(change, id_) for id_, change, _ in changes])
    many(
        "INSERT OR REPLACE INTO address_change (crossing_id, side, run, address_id, change, what) VALUES (?, ?, ?, ?, "
        "?, ?)",
        [(*side, run, id_, change, json.dumps(what)) for id_, change, what in changes],
    )


def asked(run: int, address: int) -> None:
    """Note that this survey is done with an address, which stays as it is."""
    rows("UPDATE address SET run = ? WHERE id = ?", run, address)


class ListedChange(NamedTuple):
    """What a survey found changed, as ``Changed``, with the page it is about."""

    address: int
    key: str
    title: str
    change: str
    what: list[str]


def changed(side: Side, run: int, offset: int, limit: int) -> tuple[int, list[ListedChange]]:
    """(total, rows) of what a survey found changed."""
    table = (
        "address_change c JOIN address a ON a.id = c.address_id WHERE c.crossing_id = ? AND c.side = ? AND c.run = ?"
    )
    found = rows(
        f"SELECT a.id, a.key, a.title, c.change, c.what FROM {table} ORDER BY c.change, a.key LIMIT ? OFFSET ?",
        *side,
        run,
        limit,
        offset,
    )
    read = [ListedChange(*row, json.loads(what)) for *row, what in found]
    return int(one(f"SELECT count(*) FROM {table}", *side, run)), read
