"""The account of a crossing: what became of every address, page, word and file, and what is open."""

from __future__ import annotations

from collections import Counter
from typing import Any

from grandferry.core.because import sentence
from grandferry.core.kinds import FieldPlan, KindPlan
from grandferry.core.refit.leftovers import Leftover
from grandferry.core.route.fate import FATES
from grandferry.store import carried, crossings, lift, refit, route, sort
from grandferry.work.media.standing import unsuited


def account_of(crossing: int) -> dict[str, Any]:
    """What became of every address, page, word and file, and what is open."""
    plan = crossings.load_plan(crossing)
    found = crossings.account_of(crossing)
    pages, coverage = sort.kind_counts(crossing), lift.coverage(crossing)
    items = Counter(made.kind for made in lift.made(crossing).values())
    return {
        "addresses": {fate: sum(found.get(fate, {}).values()) for fate in FATES},
        "kinds": [
            {
                "name": kind.name,
                "pages": pages.get(kind.name, 0),
                "items": items[kind.name],
                "confidence": _confidence(kind),
                "fields": [
                    {
                        "name": field.name,
                        "filled": coverage.get(kind.name, {}).get(field.name, {}).get("filled", 0),
                        "confidence": _confidence(field),
                    }
                    for field in kind.fields
                ],
            }
            for kind in plan.every_kind
        ],
        "words": _words(crossing),
        "files": carried.fates(crossing),
        "open": _open(crossing),
    }


def _confidence(part: KindPlan | FieldPlan) -> float:
    """Of what a person decided: 1."""
    return 1.0 if part.proposed is None else round(part.proposed.confidence, 3)


def _words(crossing: int) -> dict[str, int]:
    totals = refit.totals(crossing)
    removed = sum(words for _, words in refit.removed_by_step(crossing).values())
    said = {
        "have": totals["words"],
        "blocks": totals["in_blocks"],
        "islands": totals["in_islands"],
        "removed": removed,
        "unaccounted": totals["unaccounted"],
    }
    other = said["have"] - said["blocks"] - said["islands"] - said["removed"] - said["unaccounted"]
    return said | {"other": other, "raw_html": totals["in_raw_html"]}


def _open(crossing: int) -> list[dict[str, Any]]:
    """What still waits for a person, with why."""
    found: list[dict[str, Any]] = []
    whys = Counter(sentence(row.why) for row in route.open_addresses(crossing) if row.fate == "unaccounted")
    found += [{"what": "addresses", "count": count, "why": why} for why, count in whys.most_common()]
    unsorted = sort.kind_counts(crossing).get("", 0)
    if unsorted:
        found.append({"what": "pages", "count": unsorted, "why": "no kind takes them"})
    for row in lift.without_address(crossing):
        found.append({"what": f"items of {row.kind}", "count": row.items, "why": sentence(row.reason)})
    states = Counter((row.kind, row.field, row.state) for row in lift.exceptions(crossing))
    for (kind, field, state), count in sorted(states.items()):
        found.append({"what": f"{field} of {kind}", "count": count, "why": state})
    left = {row.name: row.count for row in refit.constructs(crossing)}
    found += [{"what": one.value, "count": left[one], "why": "left over"} for one in Leftover if one in left]
    if odd := unsuited(crossing, crossings.load_plan(crossing)):
        found.append({"what": "pictures with a role", "count": odd, "why": "too small for it, or of another shape"})
    lost = refit.totals(crossing)["unaccounted"]
    if lost:
        found.append({"what": "words", "count": lost, "why": "in no block, and taken out by nobody"})
    found += [
        {"what": one.name, "count": one.lost, "why": "in the bodies, and not in their blocks"}
        for one in refit.things(crossing)
        if one.lost
    ]
    return found
