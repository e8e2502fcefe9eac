"""The places within pages that links of a side lead to, by the fragments of its references."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Mapping

from grandferry.core.side import Side

from ..db import rows
from .likeness import twins

_HOPS = 10  # redirects that are followed

Aims = Mapping[int, Mapping[str, int]]  # address -> fragment as written -> links


def measure(side: Side) -> None:
    """Count them anew (within a transaction)."""
    rows("DELETE FROM aimed WHERE address_id IN (SELECT id FROM address WHERE crossing_id = ? AND side = ?)", *side)
    rows(
        "INSERT INTO aimed (address_id, fragment, links) SELECT r.target_id, substr(r.raw, instr(r.raw, '#') + 1), "
        "count(*) FROM reference r JOIN address a ON a.id = r.target_id WHERE r.crossing_id = ? AND a.side = ? AND "
        "r.how IN ('a', 'area') AND instr(r.raw, '#') > 0 AND substr(r.raw, -1) != '#' GROUP BY 1, 2",
        *side,
    )


def aims(crossing: int) -> Aims:
    """Of the old site: of every address, what links to it lead to within it, also those to an address that redirects to
    it, or to another spelling of it."""
    found: defaultdict[int, Counter[str]] = defaultdict(Counter)
    keys: dict[int, str] = {}
    for address, key, fragment, links in rows(
        "SELECT a.id, a.key, m.fragment, m.links FROM aimed m JOIN address a ON a.id = m.address_id WHERE "
        "a.crossing_id = ? AND a.side = 'old'",
        crossing,
    ):
        found[address][fragment] += links
        keys[address] = key
    if not found:
        return found
    onward = {
        source: (target, key)
        for source, target, key in rows(
            "SELECT a.id, t.id, t.key FROM address a JOIN address t ON t.crossing_id = a.crossing_id AND t.side = "
            "a.side AND t.url = a.target WHERE a.crossing_id = ? AND a.side = 'old' AND a.type = 'redirect'",
            crossing,
        )
    }
    same = twins(crossing)
    ids: dict[str, int] = {}
    if same:
        ids = dict(rows("SELECT key, id FROM address WHERE crossing_id = ? AND side = 'old' AND counted = 1", crossing))
    for address in list(found):
        at, key = address, keys[address]
        for _ in range(_HOPS):
            if at in onward:
                at, key = onward[at]
            elif key in same and ids.get(same[key], at) != at:
                key = same[key]
                at = ids[key]
            else:
                break
        if at != address:
            found[at].update(found[address])
    return found
