"""What the stages that look at the outside rest on: a survey, a landing, a round. Each as one short hash."""

from __future__ import annotations

import hashlib

from grandferry.core.made import made_from
from grandferry.core.plan import Plan
from grandferry.store.db import rows


def survey_stamp(crossing: int, plan: Plan) -> str:
    """What a survey rests on: the old site, its bounds, and the lists that were handed over."""
    lists = rows(
        "SELECT g.name, g.sort, count(a.target), coalesce(sum(a.count), 0) FROM given g LEFT JOIN given_address a ON "
        "a.given_id = g.id WHERE g.crossing_id = ? GROUP BY g.name, g.sort ORDER BY 1, 2",
        crossing,
    )
    return made_from(1, plan.old.model_dump(mode="json", exclude={"permission"}), plan.survey, [list(r) for r in lists])


def _digest(crossing: int, *questions: str) -> str:
    found = hashlib.blake2b(digest_size=10)
    for question in questions:
        for row in rows(question, crossing):
            found.update(repr(row).encode("utf-8", "surrogatepass"))
    return found.hexdigest()


_DECISIONS = (
    "SELECT key, decision, decision_target, decision_reason FROM address WHERE crossing_id = ? AND counted = 1 "
    "ORDER BY id"
)


def land_stamp(crossing: int, plan: Plan) -> str:
    """What a landing sends: items with their fields and bodies as they stand, files, and the map."""
    digest = _digest(
        crossing,
        "SELECT id, kind, key, title, new_path, made_from FROM item WHERE crossing_id = ? ORDER BY id",
        "SELECT r.item_id, r.field, r.blocks FROM refit r JOIN item i ON i.id = r.item_id WHERE i.crossing_id = ? "
        "ORDER BY 1, 2",
        "SELECT old, field, block, act, value FROM edit WHERE crossing_id = ? ORDER BY 1, 2, 3, 4",
        "SELECT body, name, mime, new_path, alt FROM file WHERE crossing_id = ? ORDER BY id",
        _DECISIONS,
    )
    return made_from(1, plan.land, plan.kinds, plan.route.rules, digest)


def check_stamp(crossing: int, base: str) -> str:
    """What a round judges: the host, and every decision."""
    return made_from(1, base, _digest(crossing, _DECISIONS))
