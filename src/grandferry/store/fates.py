"""Fates as they are kept: written here and nowhere else, by the one function that knows."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from grandferry.core.plan import RouteSettings
from grandferry.core.route.fate import OF_CONTENT, Decision, fate_of

from .db import many, rows


def _accept_lines(crossing: int) -> list[str]:
    lines = rows("SELECT content FROM plan_row WHERE crossing_id = ? AND part = 'accept' ORDER BY position", crossing)
    return [content for (content,) in lines]


def _accepting(crossing: int) -> Callable[[str], str]:
    return RouteSettings(accept=[json.loads(content) for content in _accept_lines(crossing)]).accepting()


def refresh_fates(crossing: int) -> None:
    """Every counted address's fate from its decision and verdict (within the caller's transaction)."""
    changed = []
    accepted = _accepting(crossing)
    for (
        id_,
        key,
        fate,
        target,
        origin,
        reason,
        status,
        verdict,
        judged,
        seen,
        visits,
        in_links,
        had,
        proven,
        why,
    ) in rows(
        "SELECT id, key, decision, decision_target, decision_origin, decision_reason, decision_status, "
        "verdict, judged, seen, visits, "
        "in_links, fate, proven, why FROM address WHERE crossing_id = ? AND counted = 1",
        crossing,
    ):
        decision = Decision(fate or None, target, origin, reason, status)
        right = accepted(key) if verdict in OF_CONTENT else ""
        weighty = bool(visits or in_links)
        outcome = fate_of(decision, verdict or None, judged, weighty=weighty, seen=seen, accepted=right)
        if (outcome.fate, outcome.proven, outcome.why) != (had, bool(proven), why):
            changed.append((outcome.fate, outcome.proven, outcome.why, id_))
    many("UPDATE address SET fate = ?, proven = ?, why = ? WHERE id = ?", changed)


@contextmanager
def fates_follow(crossing: int) -> Iterator[None]:
    """Fates are found anew when the plan, while this lasts, has come to accept other landing pages or to name another
    interim host: what was proven was proven on a host."""
    accepted, host = _accept_lines(crossing), _interim(crossing)
    yield
    now_at = _interim(crossing)
    if now_at != host:
        _adopt_verdicts(crossing, now_at)
    if now_at != host or _accept_lines(crossing) != accepted:
        refresh_fates(crossing)


def _interim(crossing: int) -> str:
    """The host where checks go, as rounds note it; "" while there is none."""
    found = rows("SELECT content FROM plan_row WHERE crossing_id = ? AND part = 'interim'", crossing)
    return str(json.loads(found[0][0]) or "").rstrip("/") if found else ""


def _adopt_verdicts(crossing: int, base: str) -> None:
    """What was found last at ``base`` is what is known of each address; nothing where it was never asked there."""
    rows(
        "UPDATE address SET (verdict, judged, seen) = (SELECT coalesce(max(verdict), ''), coalesce(max(judged), ''), "
        "coalesce(max(seen), '') FROM (SELECT v.verdict, v.judged, v.seen FROM round_verdict v JOIN round r ON r.id = "
        "v.round_id WHERE v.address_id = address.id AND r.crossing_id = address.crossing_id AND r.base = ? ORDER BY "
        "r.id DESC LIMIT 1)) WHERE crossing_id = ? AND counted = 1",
        base,
        crossing,
    )
