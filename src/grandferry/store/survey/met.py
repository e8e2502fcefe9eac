"""Addresses that a survey meets: those it is to ask, how each was found, and those it keeps out."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from grandferry.core.keptout import KeptOut
from grandferry.core.side import Side

from ..db import many, one, rows, typed
from .taken import add_references


class Waiting(NamedTuple):
    """An address that a survey has still to ask. ``depth`` counts links from the start; ``again``: an earlier survey
    has asked it."""

    id: int
    url: str
    host: str
    key: str
    wants_file: bool
    depth: int
    again: bool = False


class Known(NamedTuple):
    """What a survey knows when it begins or goes on: url -> id of all addresses of its side, those it has still to ask,
    and the number of pages it has fetched."""

    ids: dict[str, int]
    waiting: list[Waiting]
    pages: int


class NewAddress(NamedTuple):
    """An address met for the first time, in the survey ``run``."""

    id: int
    url: str
    host: str
    key: str
    wants_file: bool
    depth: int
    run: int


class Held(NamedTuple):
    """An address that is kept out, and what is needed to let it in later."""

    id: int
    url: str
    host: str
    reason: KeptOut
    wants_file: bool
    depth: int


def known(side: Side, run: int) -> Known:
    """What a survey of a side has to begin with."""
    ids = dict(rows("SELECT url, id FROM address WHERE crossing_id = ? AND side = ?", *side))
    waiting = typed(
        Waiting,
        "SELECT id, url, host, key, wants_file, depth, state != 'waiting' FROM address WHERE crossing_id = ? AND "
        "side = ? AND (state = 'waiting' OR (run < ? AND state IN ('done', 'failed'))) ORDER BY depth, id",
        *side,
        run,
    )
    pages = one(
        "SELECT count(*) FROM address WHERE crossing_id = ? AND side = ? AND type = 'page' AND status = 200 AND run = "
        "?",
        *side,
        run,
    )
    return Known(ids, waiting, pages)


def next_address_id() -> int:
    return (one("SELECT max(id) FROM address") or 0) + 1


def folder_of(key: str) -> str:
    """The first folder of a path, ``/`` for what lies in none."""
    parts = key.partition("?")[0].split("/")
    return f"/{parts[1]}/" if len(parts) > 2 and parts[1] else "/"


def add_addresses(side: Side, new: list[NewAddress]) -> None:
    many(
        "INSERT INTO address (id, crossing_id, side, url, host, key, wants_file, depth, folder, state, reason, "
        "status, type, mime, target, title, words, bytes, visits, in_links, counted, decision, decision_target, "
        "decision_origin, decision_reason, verdict, judged, fate, proven, why, run, first_run, change) VALUES (?, ?, "
        "?, ?, ?, ?, ?, ?, ?, 'waiting', '', 0, '', '', '', '', 0, 0, 0, 0, 0, '', '', '', '', '', '', "
        "'unaccounted', 0, '', 0, ?, '')",
        [(a.id, *side, a.url, a.host, a.key, a.wants_file, a.depth, folder_of(a.key), a.run) for a in new],
    )


def add_found(crossing: int, found: Iterable[tuple[int, str]]) -> None:
    """Rows (address, how it was found)."""
    many(
        "INSERT OR IGNORE INTO found (crossing_id, address_id, how) VALUES (?, ?, ?)",
        [(crossing, address, how) for address, how in found],
    )


def add_spellings(crossing: int, spellings: list[tuple[int, str]]) -> None:
    """Rows (address, url as written)."""
    many(
        "INSERT OR IGNORE INTO spelling (crossing_id, address_id, url) VALUES (?, ?, ?)",
        [(crossing, address, url) for address, url in spellings],
    )


def to_ask(side: Side, address: int) -> Waiting | None:
    """One address, to be asked whether it was before or not; None when it is none of the side's."""
    found = typed(
        Waiting,
        "SELECT id, url, host, key, wants_file, depth, state != 'waiting' FROM address WHERE id = ? AND "
        "crossing_id = ? AND side = ?",
        address,
        *side,
    )
    return found[0] if found else None


def set_visits(crossing: int, visits: dict[int, int]) -> None:
    many(
        "UPDATE address SET visits = ? WHERE id = ? AND crossing_id = ?", [(n, k, crossing) for k, n in visits.items()]
    )


def shut_out(side: Side) -> dict[str, Held]:
    """Every address kept out so far, by its URL."""
    return {
        held.url: held._replace(reason=KeptOut(held.reason), wants_file=bool(held.wants_file))
        for held in typed(
            Held,
            "SELECT id, url, host, reason, wants_file, depth FROM shut_out WHERE crossing_id = ? AND side = ?",
            *side,
        )
    }


def next_shut_out_id() -> int:
    return (one("SELECT max(id) FROM shut_out") or 0) + 1


def store_shut_out(side: Side, kept_out: list[Held]) -> None:
    """Addresses kept out, or kept out for another reason."""
    many(
        "INSERT INTO shut_out (crossing_id, side, id, url, host, reason, wants_file, depth, how, pages) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?, '', 0) ON CONFLICT (id) DO UPDATE SET reason = excluded.reason, wants_file = "
        "excluded.wants_file, depth = excluded.depth",
        [(*side, *row) for row in kept_out],
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


def let_in(crossing: int, pairs: list[tuple[int, int]]) -> None:
    """Rows (kept out, address): what was kept out is an address now, and so are the references to it."""
    for out, address in pairs:
        refs = rows("SELECT source_id, how, raw, words FROM out_reference WHERE target_id = ?", out)
        add_references([(crossing, source, address, how, raw, words) for source, how, raw, words in refs])
        rows("DELETE FROM out_reference WHERE target_id = ?", out)
        rows("DELETE FROM shut_out WHERE id = ?", out)
