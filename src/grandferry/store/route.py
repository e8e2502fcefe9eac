"""Records of routing: decisions, files' new places, rounds and verdicts."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from typing import NamedTuple

from grandferry.core.address import shape
from grandferry.core.filetypes import looks_like_file
from grandferry.core.route.fate import Decision
from grandferry.core.route.redirects import Redirect
from grandferry.core.survey.families import FAMILIES, WITHIN, family_of

from .db import many, now, one, rows, typed
from .fates import refresh_fates


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
        "UPDATE address SET decision = ?, decision_target = ?, decision_origin = ?, decision_reason = ?, "
        "decision_status = ? WHERE crossing_id = ? AND side = 'old' AND key = ? AND counted = 1",
        [(d.fate or "", d.target, d.origin, d.reason, d.status, crossing, key) for key, d in decisions.items()],
    )
    refresh_fates(crossing)


def decisions(crossing: int) -> dict[str, Decision]:
    return {
        key: Decision(fate or None, target, origin, reason, status)
        for key, fate, target, origin, reason, status in rows(
            "SELECT key, decision, decision_target, decision_origin, decision_reason, decision_status FROM address "
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


def proven(crossing: int) -> set[str]:
    """The keys of the account's addresses whose decision a check has proven."""
    return {
        key for (key,) in rows("SELECT key FROM address WHERE crossing_id = ? AND counted = 1 AND proven = 1", crossing)
    }


class NewPlace(NamedTuple):
    """What is on the new shore: ``old`` is the key of the page that an item there was made of, "" for none; ``listed``:
    nobody but a list says that it is there."""

    path: str
    title: str
    old: str
    listed: bool


def new_shore(crossing: int) -> list[NewPlace]:
    """The places of items, the pages of the new site where it was surveyed, and what lists say is there (but for what
    ends as files do), each once, in order of their paths."""
    found = typed(
        NewPlace,
        "SELECT path, max(title), max(old), min(listed) FROM (SELECT new_path AS path, title, key AS old, 0 AS listed "
        "FROM item WHERE crossing_id = ?1 AND new_path != '' UNION ALL SELECT key, title, '', 0 FROM address WHERE "
        "crossing_id = ?1 AND side = 'new' AND type = 'page' UNION ALL SELECT v.target, v.title, '', 1 FROM "
        "given_address v JOIN given g ON "
        "g.id = v.given_id LEFT JOIN address a ON a.crossing_id = g.crossing_id AND a.side = 'new' AND a.key = "
        "v.target AND a.host = v.host WHERE g.crossing_id = ?1 AND g.side = 'new' AND coalesce(a.type, '') IN "
        "('', 'page')) GROUP BY path ORDER BY path",
        crossing,
    )
    return [place for place in found if not (place.listed and looks_like_file(place.path.partition("?")[0]))]


def led_to(crossing: int) -> list[str]:
    """The paths that old addresses lead to, or where they stay, each once."""
    return [
        target
        for (target,) in rows(
            "SELECT DISTINCT decision_target FROM address WHERE crossing_id = ? AND counted = 1 AND decision IN "
            "('stays', 'moved', 'merged') AND decision_target LIKE '/%'",
            crossing,
        )
    ]


def links_to(crossing: int, keys: Iterable[str]) -> int:
    """On how many places of old pages some old addresses are linked."""
    counts = dict(
        rows("SELECT key, in_links FROM address WHERE crossing_id = ? AND side = 'old' AND counted = 1", crossing)
    )
    return sum(counts.get(key, 0) for key in keys)


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


class AskedAbout(NamedTuple):
    """An address as the list of questions shows it."""

    id: int
    key: str
    title: str
    visits: int
    fate: str
    proven: bool
    origin: str
    target: str


def asked_about(crossing: int) -> dict[str, AskedAbout]:
    """By key, of every address of the account that some question of the plan is about."""
    found = typed(
        AskedAbout,
        "SELECT id, key, title, visits, fate, proven, decision_origin, decision_target FROM address WHERE crossing_id "
        "= ?1 AND side = 'old' AND counted = 1 AND key IN (SELECT e.value FROM plan_row p, json_each(p.content, "
        "'$.about') e WHERE p.crossing_id = ?1 AND p.part = 'question')",
        crossing,
    )
    return {row.key: row for row in found}


def provisional(crossing: int) -> int:
    """How many addresses lead somewhere only until the owner answers."""
    return int(
        one(
            "SELECT count(*) FROM address WHERE crossing_id = ? AND counted = 1 AND decision_origin = 'question' AND "
            "decision != ''",
            crossing,
        )
    )


class Decided(NamedTuple):
    """What is decided of an address: ``fate`` as planned, and what decided it (``origin``); ``verdict`` of the latest
    round."""

    address: int
    key: str
    fate: str
    target: str
    origin: str
    verdict: str
    visits: int


def decided(crossing: int) -> list[Decided]:
    """What is decided of every address of the account, in order of the keys."""
    return typed(
        Decided,
        "SELECT id, key, decision, decision_target, decision_origin, verdict, visits FROM address WHERE "
        "crossing_id = ? AND counted = 1 ORDER BY key",
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
