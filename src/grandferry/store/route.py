"""Records of routing: decisions, files' new places, rounds and verdicts."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Iterable
from typing import NamedTuple

from grandferry.core.address import shape
from grandferry.core.route.fate import Decision
from grandferry.core.route.places import CapturedFile, PlacedFile
from grandferry.core.route.redirects import Redirect
from grandferry.core.route.verdicts import Verdict
from grandferry.core.survey.families import FAMILIES, WITHIN, family_of

from .db import many, now, one, rows, typed
from .fates import refresh_fates
from .schema import Round


class OldAddress(NamedTuple):
    """An address of the account; ``target``: the URL it redirects to on the old site, "" for none."""

    key: str
    target: str


def old_addresses(crossing: int) -> list[OldAddress]:
    """All addresses of the account, in order of their keys."""
    return typed(
        OldAddress,
        "SELECT key, target FROM address WHERE crossing_id = ? AND side = 'old' AND counted = 1 ORDER BY key",
        crossing,
    )


def all_redirects(crossing: int) -> dict[str, str]:
    """url -> target url of everything that redirects on the old site, counted or not."""
    return dict(
        rows("SELECT url, target FROM address WHERE crossing_id = ? AND side = 'old' AND type = 'redirect'", crossing)
    )


def store_decisions(crossing: int, decisions: dict[str, Decision]) -> None:
    """Decisions by key, then all fates anew (within the caller's transaction)."""
    many(
        "UPDATE address SET decision = ?, decision_target = ?, decision_origin = ?, decision_reason = ? "
        "WHERE crossing_id = ? AND side = 'old' AND key = ? AND counted = 1",
        [(d.fate or "", d.target, d.origin, d.reason, crossing, key) for key, d in decisions.items()],
    )
    refresh_fates(crossing)


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


def captured_files(crossing: int) -> list[CapturedFile]:
    """Every captured file, in order of its url."""
    return typed(
        CapturedFile,
        "SELECT a.id, a.url, a.key, a.host, c.body, a.mime, a.bytes, coalesce((SELECT r.words FROM reference r WHERE "
        "r.target_id = a.id AND r.words != '' ORDER BY r.id LIMIT 1), '') FROM address a JOIN capture c ON c.id = "
        "a.capture WHERE a.crossing_id = ? AND a.side = 'old' AND a.type = 'file' AND a.status = 200 AND c.body != '' "
        "ORDER BY a.url",
        crossing,
    )


def store_files(crossing: int, files: list[PlacedFile], sources: list[tuple[str, int]]) -> None:
    """Files, and their sources (body, address)."""
    many(
        "INSERT INTO file (crossing_id, body, name, mime, bytes, new_path, alt, fate, reason) VALUES (?, ?, ?, ?, ?, "
        "?, ?, ?, ?) ON CONFLICT (crossing_id, body) DO UPDATE SET name = excluded.name, mime = excluded.mime, "
        "new_path = excluded.new_path, alt = excluded.alt, reason = excluded.reason, "
        "fate = CASE WHEN file.fate = 'carried' AND excluded.fate = 'unaccounted' AND file.new_path = "
        "excluded.new_path THEN 'carried' ELSE excluded.fate END",
        [(crossing, *file) for file in files],
    )
    ids = dict(rows("SELECT body, id FROM file WHERE crossing_id = ?", crossing))
    wanted = {file.body for file in files}
    many("DELETE FROM file WHERE id = ?", [(id_,) for body, id_ in ids.items() if body not in wanted])
    many("INSERT OR IGNORE INTO file_source (file_id, address_id) VALUES (?, ?)", [(ids[b], a) for b, a in sources])


class KeptFile(NamedTuple):
    """A file as it is kept."""

    id: int
    body: str
    name: str
    mime: str
    new_path: str
    alt: str
    fate: str


def files(crossing: int) -> list[KeptFile]:
    """All files, in order of their new paths."""
    names = ", ".join(KeptFile._fields)
    return typed(KeptFile, f"SELECT {names} FROM file WHERE crossing_id = ? ORDER BY new_path, id", crossing)


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


class ToCheck(NamedTuple):
    """An address to be asked for."""

    address: int
    key: str
    decision: Decision


class OldContent(NamedTuple):
    """What an old address answered: the hash of its body, its headers (JSON) and media type; ``target``: where it
    redirects to, and then the rest is empty."""

    address: int
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


def old_contents(crossing: int) -> list[OldContent]:
    """What every address of the old side answered that answered at all."""
    return typed(
        OldContent,
        "SELECT a.id, a.url, a.type, a.mime, a.target, CASE a.type WHEN 'page' THEN c.content ELSE c.body END, "
        "c.headers FROM address a JOIN capture c ON c.id = a.capture WHERE a.crossing_id = ? AND a.side = 'old' AND "
        "(a.type = 'redirect' OR a.status = 200) ORDER BY a.id",
        crossing,
    )


def to_check(crossing: int) -> list[ToCheck]:
    """Every counted address, in order of their keys."""
    return [
        ToCheck(id_, key, Decision(fate or None, target, origin, reason))
        for id_, key, fate, target, origin, reason in rows(
            "SELECT id, key, decision, decision_target, decision_origin, decision_reason FROM address "
            "WHERE crossing_id = ? AND counted = 1 ORDER BY key",
            crossing,
        )
    ]


def store_verdicts(round_: int, found: list[Judged]) -> None:
    many(
        "INSERT OR REPLACE INTO round_verdict (round_id, address_id, verdict, judged, status, hops, final, seen) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        [(round_, *row) for row in found],
    )
    many(
        "UPDATE address SET verdict = ?, judged = ?, seen = ? WHERE id = ?",
        [(row.verdict, row.judged, row.seen, row.address) for row in found],
    )


def close_round(crossing: int, round_: int) -> dict[str, int]:
    counts = dict(rows("SELECT verdict, count(*) FROM round_verdict WHERE round_id = ? GROUP BY verdict", round_))
    rows("UPDATE round SET ended = ?, counts = ? WHERE id = ?", now(), json.dumps(counts), round_)
    refresh_fates(crossing)
    return counts


class Open(NamedTuple):
    """An address that is unaccounted or merely planned, with why, and its shape."""

    id: int
    key: str
    title: str
    fate: str
    proven: bool
    why: str
    decision: str
    decision_target: str
    verdict: str
    visits: int
    in_links: int
    shape: str


def open_addresses(crossing: int, most: int = -1) -> list[Open]:
    """Addresses that are unaccounted or merely planned, the most visited first; ``most`` of them, or all."""
    return [
        Open(*row, shape=shape(row[1]))
        for row in rows(
            "SELECT id, key, title, fate, proven, why, decision, decision_target, verdict, visits, in_links FROM "
            "address WHERE crossing_id = ? AND counted = 1 AND (fate = 'unaccounted' OR proven = 0) ORDER BY visits "
            "DESC, key LIMIT ?",
            crossing,
            most,
        )
    ]


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


class WrittenOut(NamedTuple):
    """A line of the map that was written out for a server, and when."""

    match: str
    old: str
    new: str
    server: str
    at: str


def note_written(crossing: int, lines: Iterable[Redirect], server: str) -> None:
    """Note lines of the map that were written out for a server."""
    many(
        'INSERT OR REPLACE INTO handed (crossing_id, "match", old, new, server, at) VALUES (?, ?, ?, ?, ?, ?)',
        [(crossing, line.match, line.old, line.new, server, now()) for line in lines],
    )


def written(crossing: int) -> dict[tuple[str, str], WrittenOut]:
    """(match, old) -> the line as it was written out last."""
    found = typed(WrittenOut, 'SELECT "match", old, new, server, at FROM handed WHERE crossing_id = ?', crossing)
    return {(line.match, line.old): line for line in found}


class Proof(NamedTuple):
    """Where an address is to lead, and what the latest check says of it."""

    key: str
    target: str
    verdict: str
    judged: str


def proofs(crossing: int, base: str) -> list[Proof]:
    """Of every counted address, in order of their keys, by the latest round that asked the host at ``base``."""
    return typed(
        Proof,
        "SELECT a.key, a.decision_target, coalesce(v.verdict, ''), coalesce(v.judged, '') FROM address a LEFT JOIN "
        "round_verdict v ON v.address_id = a.id AND v.round_id = (SELECT max(r.id) FROM round r WHERE r.crossing_id = "
        "a.crossing_id AND r.base = ?) WHERE a.crossing_id = ? AND a.counted = 1 ORDER BY a.key",
        base,
        crossing,
    )


class Reason(NamedTuple):
    """The fate of an address, and why it is decided so (as ``core.because`` keeps it)."""

    key: str
    fate: str
    reason: str


def reasons(crossing: int) -> list[Reason]:
    """Of every address in the account."""
    return typed(
        Reason,
        "SELECT key, fate, decision_reason FROM address WHERE crossing_id = ? AND side = 'old' AND counted = 1",
        crossing,
    )


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
    for mime, number in rows(  # files that other hosts of the site give are carried as well
        "SELECT mime, count(*) FROM address WHERE crossing_id = ? AND side = 'old' AND counted = 0 AND type = 'file' "
        "AND status = 200 GROUP BY mime",
        crossing,
    ):
        counts[family_of("", "file", mime)] += number
    return {name: pieces(crossing, name) if name in WITHIN else counts[name] for name in FAMILIES}


def families(crossing: int) -> dict[str, str]:
    """old key -> family of every address in the account that has one."""
    found = rows("SELECT key, type, mime FROM address WHERE crossing_id = ? AND side = 'old' AND counted = 1", crossing)
    return {key: name for key, type_, mime in found if (name := family_of(key, type_, mime))}


class Decided(NamedTuple):
    """What is decided of an address: ``fate`` as planned, and what decided it (``origin``); ``verdict`` of the latest
    round."""

    address: int
    key: str
    fate: str
    target: str
    origin: str
    verdict: str


def decided(crossing: int) -> list[Decided]:
    """What is decided of every address of the account, in order of the keys."""
    return typed(
        Decided,
        "SELECT id, key, decision, decision_target, decision_origin, verdict FROM address WHERE crossing_id = ? AND "
        "counted = 1 ORDER BY key",
        crossing,
    )


class NewPage(NamedTuple):
    """A page or file that answers on the new site, as its survey found it."""

    address: int
    key: str


def new_alone(crossing: int) -> list[NewPage]:
    """What answers on the host of the new site at an address that the old account has not got, in order of the keys."""
    return typed(
        NewPage,
        "SELECT n.id, n.key FROM address n WHERE n.crossing_id = ? AND n.side = 'new' AND n.status = 200 AND n.host = "
        "(SELECT s.host FROM address s WHERE s.crossing_id = n.crossing_id AND s.side = 'new' ORDER BY s.depth, s.id "
        "LIMIT 1) AND NOT EXISTS (SELECT 1 FROM address o WHERE o.crossing_id = n.crossing_id AND o.side = 'old' AND "
        "o.counted = 1 AND o.key = n.key) ORDER BY n.key",
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
    """A round: where it asked, from when to when, its verdicts by count (as JSON)."""

    id: int
    base: str
    started: str
    ended: str
    counts: str


def round_rows(crossing: int) -> list[RoundRow]:
    return typed(
        RoundRow, "SELECT id, base, started, ended, counts FROM round WHERE crossing_id = ? ORDER BY id", crossing
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


class FolderCount(NamedTuple):
    """Old addresses of a first folder with one fate."""

    folder: str
    fate: str
    proven: bool
    count: int


def folders(crossing: int) -> list[FolderCount]:
    """Old addresses by first folder and fate."""
    return typed(
        FolderCount,
        "SELECT folder, fate, proven, count FROM tally WHERE crossing = ? AND count > 0 ORDER BY folder, fate",
        crossing,
    )
