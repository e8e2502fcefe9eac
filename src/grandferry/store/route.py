"""Records of routing: decisions, files' new places, rounds and verdicts; fates are written here and nowhere else."""

from __future__ import annotations

import json
from collections import Counter
from typing import Any, NamedTuple

from grandferry.core.address import shape
from grandferry.core.route.fate import Decision, fate_of
from grandferry.core.route.verdicts import Verdict
from grandferry.core.survey.families import FAMILIES, WITHIN, family_of

from .db import many, named, now, one, rows
from .schema import Round


def old_addresses(crossing: int) -> list[tuple[Any, ...]]:
    """(id, key, target url, sort, status) of all addresses of the old host itself, in order of their keys."""
    return rows(
        "SELECT id, key, target, sort, status FROM address WHERE crossing_id = ? AND side = 'old' AND counted = 1 "
        "ORDER BY key",
        crossing,
    )


def all_redirects(crossing: int) -> dict[str, str]:
    """url -> target url of everything that redirects on the old site, counted or not."""
    return dict(
        rows("SELECT url, target FROM address WHERE crossing_id = ? AND side = 'old' AND sort = 'redirect'", crossing)
    )


def store_decisions(crossing: int, decisions: dict[str, Decision]) -> None:
    """Decisions by key, then all fates anew (within the caller's transaction)."""
    many(
        "UPDATE address SET decision = ?, decision_target = ?, decision_origin = ?, decision_reason = ? "
        "WHERE crossing_id = ? AND side = 'old' AND key = ? AND counted = 1",
        [(d.fate or "", d.target, d.origin, d.reason, crossing, key) for key, d in decisions.items()],
    )
    refresh_fates(crossing)


def refresh_fates(crossing: int) -> None:
    """Every counted address's fate from its decision and verdict, by the one function that knows."""
    changed = []
    for id_, fate, target, origin, reason, verdict, judged, visits, in_links, had, proven, why in rows(
        "SELECT id, decision, decision_target, decision_origin, decision_reason, verdict, judged, visits, in_links, "
        "fate, proven, why FROM address WHERE crossing_id = ? AND counted = 1",
        crossing,
    ):
        decision = Decision(fate or None, target, origin, reason)
        outcome = fate_of(decision, verdict or None, judged, weighty=bool(visits or in_links))
        if (outcome.fate, outcome.proven, outcome.why) != (had, bool(proven), why):
            changed.append((outcome.fate, outcome.proven, outcome.why, id_))
    many("UPDATE address SET fate = ?, proven = ?, why = ? WHERE id = ?", changed)


def decisions(crossing: int) -> dict[str, Decision]:
    return {
        key: Decision(fate or None, target, origin, reason)
        for key, fate, target, origin, reason in rows(
            "SELECT key, decision, decision_target, decision_origin, decision_reason FROM address "
            "WHERE crossing_id = ? AND counted = 1 ORDER BY key",
            crossing,
        )
    }


def titles_and_visits(crossing: int) -> dict[str, tuple[str, int]]:
    """key -> (title, visits) of every address of the account."""
    return {
        key: (title, visits)
        for key, title, visits in rows(
            "SELECT key, title, visits FROM address WHERE crossing_id = ? AND counted = 1", crossing
        )
    }


def captured_files(crossing: int) -> list[tuple[Any, ...]]:
    """(address id, url, key, host, body hash, mime, bytes, an alt text) of every captured file, in order of its url."""
    return rows(
        "SELECT a.id, a.url, a.key, a.host, c.body, a.mime, a.bytes, coalesce((SELECT r.words FROM reference r WHERE "
        "r.target_id = a.id AND r.words != '' ORDER BY r.id LIMIT 1), '') FROM address a JOIN capture c ON c.id = "
        "a.capture WHERE a.crossing_id = ? AND a.side = 'old' AND a.sort = 'file' AND a.status = 200 AND c.body != '' "
        "ORDER BY a.url",
        crossing,
    )


def store_files(crossing: int, files: list[tuple[Any, ...]], sources: list[tuple[str, int]]) -> None:
    """Files as rows (body, name, mime, bytes, new path, alt, fate, reason) and their sources (body, address)."""
    many(
        "INSERT INTO file (crossing_id, body, name, mime, bytes, new_path, alt, fate, reason) VALUES (?, ?, ?, ?, ?, "
        "?, ?, ?, ?) ON CONFLICT (crossing_id, body) DO UPDATE SET name = excluded.name, mime = excluded.mime, "
        "new_path = excluded.new_path, alt = excluded.alt, reason = excluded.reason, "
        "fate = CASE WHEN file.fate = 'carried' AND excluded.fate = 'unaccounted' AND file.new_path = "
        "excluded.new_path THEN 'carried' ELSE excluded.fate END",
        [(crossing, *file) for file in files],
    )
    ids = dict(rows("SELECT body, id FROM file WHERE crossing_id = ?", crossing))
    wanted = {file[0] for file in files}
    many("DELETE FROM file WHERE id = ?", [(id_,) for body, id_ in ids.items() if body not in wanted])
    many("INSERT OR IGNORE INTO file_source (file_id, address_id) VALUES (?, ?)", [(ids[b], a) for b, a in sources])


def files(crossing: int) -> list[dict[str, Any]]:
    names = ("id", "body", "name", "mime", "bytes", "new_path", "alt", "fate", "reason")
    return named(names, f"SELECT {', '.join(names)} FROM file WHERE crossing_id = ? ORDER BY new_path, id", crossing)


def file_places(crossing: int) -> dict[str, str]:
    """old url -> new path of every file that is carried or to be carried."""
    return dict(
        rows(
            "SELECT a.url, f.new_path FROM file f JOIN file_source s ON s.file_id = f.id JOIN address a ON a.id = "
            "s.address_id WHERE f.crossing_id = ? AND f.new_path != ''",
            crossing,
        )
    )


def file_fates(crossing: int) -> dict[str, int]:
    return dict(rows("SELECT fate, count(*) FROM file WHERE crossing_id = ? GROUP BY fate", crossing))


# --- rounds ----------------------------------------------------------------------------------------


def open_round(crossing: int, base: str) -> int:
    """A new round, or the unfinished one of the same base (a broken run goes on)."""
    unfinished = one("SELECT max(id) FROM round WHERE crossing_id = ? AND base = ? AND ended = ''", crossing, base)
    if unfinished:
        return int(unfinished)
    return int(Round.create(crossing=crossing, base=base, started=now()).id)


def judged_in(round_: int) -> set[int]:
    return {row[0] for row in rows("SELECT address_id FROM round_verdict WHERE round_id = ?", round_)}


def to_check(crossing: int) -> list[tuple[Any, ...]]:
    """(address id, key, decision, target, reason, expected title) of every counted address.

    The title is that of the item which the address leads to, "" where that is no item.
    """
    titles = dict(rows("SELECT new_path, title FROM item WHERE crossing_id = ? AND new_path != ''", crossing))
    return [
        (id_, key, Decision(fate or None, target, origin, reason), titles.get(target, ""))
        for id_, key, fate, target, origin, reason in rows(
            "SELECT id, key, decision, decision_target, decision_origin, decision_reason FROM address "
            "WHERE crossing_id = ? AND counted = 1 ORDER BY key",
            crossing,
        )
    ]


def store_verdicts(round_: int, found: list[tuple[int, Verdict, str, int, str, str]]) -> None:
    """Rows (address, verdict, judged, status, hops JSON, final)."""
    many(
        "INSERT OR REPLACE INTO round_verdict (round_id, address_id, verdict, judged, status, hops, final) "
        "VALUES (?, ?, ?, ?, ?, ?, ?)",
        [(round_, *row) for row in found],
    )
    many("UPDATE address SET verdict = ?, judged = ? WHERE id = ?", [(v, j, a) for a, v, j, *_ in found])


def close_round(crossing: int, round_: int) -> dict[str, int]:
    counts = dict(rows("SELECT verdict, count(*) FROM round_verdict WHERE round_id = ? GROUP BY verdict", round_))
    rows("UPDATE round SET ended = ?, counts = ? WHERE id = ?", now(), json.dumps(counts), round_)
    refresh_fates(crossing)
    return counts


def open_addresses(crossing: int) -> list[dict[str, Any]]:
    """All addresses that are unaccounted or merely planned, with their shapes."""
    names = (
        "id",
        "key",
        "title",
        "fate",
        "proven",
        "why",
        "decision",
        "decision_target",
        "verdict",
        "visits",
        "in_links",
    )
    return [
        {**dict(zip(names, row, strict=True)), "shape": shape(row[1])}
        for row in rows(
            f"SELECT {', '.join(names)} FROM address WHERE crossing_id = ? AND counted = 1 AND (fate = 'unaccounted' "
            "OR proven = 0) ORDER BY visits DESC, key",
            crossing,
        )
    ]


def not_proven(crossing: int, most: int = 50) -> list[dict[str, Any]]:
    """Addresses that are unaccounted or merely planned, with why and their shape."""
    names = ("key", "fate", "proven", "why", "decision", "decision_target", "verdict", "visits", "in_links")
    return [
        {**dict(zip(names, row, strict=True)), "shape": shape(row[0])}
        for row in rows(
            f"SELECT {', '.join(names)} FROM address WHERE crossing_id = ? AND counted = 1 AND (fate = 'unaccounted' "
            "OR proven = 0) ORDER BY visits DESC, key LIMIT ?",
            crossing,
            most,
        )
    ]


def verdicts_of(round_: int) -> list[tuple[Any, ...]]:
    """(address, key, verdict, judged decision, origin and reason of the decision now) of a round."""
    return rows(
        "SELECT v.address_id, a.key, v.verdict, v.judged, a.decision_origin, a.decision_reason FROM round_verdict v "
        "JOIN address a ON a.id = v.address_id WHERE v.round_id = ?",
        round_,
    )


def note_handed(crossing: int, lines: list[tuple[str, str, str]], server: str) -> None:
    """Lines (match, old, new) of the map that were written out for a server."""
    many(
        'INSERT OR REPLACE INTO handed (crossing_id, "match", old, new, server, at) VALUES (?, ?, ?, ?, ?, ?)',
        [(crossing, *line, server, now()) for line in lines],
    )


def handed(crossing: int) -> dict[tuple[str, str], tuple[str, str, str]]:
    """(match, old) -> (new, server, at) of all lines ever written out, the latest of each."""
    return {
        (match, old): (new, server, at)
        for match, old, new, server, at in rows(
            'SELECT "match", old, new, server, at FROM handed WHERE crossing_id = ?', crossing
        )
    }


def proofs(crossing: int) -> list[tuple[Any, ...]]:
    """(address, key, decision, target, origin, reason, verdict, judged, proven, fate) of every counted address."""
    return rows(
        "SELECT id, key, decision, decision_target, decision_origin, decision_reason, verdict, judged, proven, fate "
        "FROM address WHERE crossing_id = ? AND counted = 1 ORDER BY key",
        crossing,
    )


def reasons(crossing: int) -> list[tuple[str, str, str]]:
    """(key, fate, reason of its decision) of every address in the account."""
    return [
        (key, fate, reason)
        for key, fate, reason in rows(
            "SELECT key, fate, decision_reason FROM address WHERE crossing_id = ? AND side = 'old' AND counted = 1",
            crossing,
        )
    ]


def pieces(crossing: int, fact: str) -> int:
    """How many pieces of a sort the captured pages hold, by the fact that counts them."""
    return int(
        one(
            "SELECT coalesce(sum(json_extract(f.facts, '$.' || ?)), 0) FROM page_facts f JOIN address a ON a.id = "
            "f.address_id WHERE f.crossing_id = ? AND a.counted = 1",
            fact,
            crossing,
        )
    )


def family_counts(crossing: int) -> dict[str, int]:
    """What there is to carry: addresses by family, and what stands within pages by the piece."""
    counts = Counter(families(crossing).values())
    return {name: pieces(crossing, name) if name in WITHIN else counts[name] for name in FAMILIES}


def families(crossing: int) -> dict[str, str]:
    """old key -> family of every address in the account that has one."""
    found = rows("SELECT key, sort, mime FROM address WHERE crossing_id = ? AND side = 'old' AND counted = 1", crossing)
    return {key: name for key, sort, mime in found if (name := family_of(key, sort, mime))}


class Decided(NamedTuple):
    """What is decided of an address: ``fate`` as planned, and what decided it (``origin``)."""

    address: int
    key: str
    fate: str
    target: str
    origin: str


def decided(crossing: int) -> list[Decided]:
    """What is decided of every address of the account, in order of the keys."""
    found = rows(
        "SELECT id, key, decision, decision_target, decision_origin FROM address WHERE crossing_id = ? AND counted = 1 "
        "ORDER BY key",
        crossing,
    )
    return [Decided(*row) for row in found]
