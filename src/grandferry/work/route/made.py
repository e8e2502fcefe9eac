"""The new addresses that the items of a kind would have, while the kind is written."""

from __future__ import annotations

from typing import NamedTuple

from grandferry.core.because import Why, read
from grandferry.core.kinds import KindPlan
from grandferry.core.plan import Plan
from grandferry.core.route.places import Item, Place, new_addresses
from grandferry.store import crossings, lift, records
from grandferry.work.route.menus import menus_above

SHOWN = 6


class Made(NamedTuple):
    """``clashes``: how many have a number, since another item was first; ``without``: how many get none. The first of
    those that have something to tell, then the first of the others, each with its old key."""

    items: int
    clashes: int
    without: int
    rows: list[tuple[str, Place]]


def made_by(crossing: int, kind: KindPlan) -> Made:
    """The new addresses of the items there are of a kind (of all its languages), if it were as given; addresses of
    other kinds are not looked at."""
    plan = crossings.load_plan(crossing)
    others = [one for one in plan.kinds if one.name != kind.name]
    tried: Plan = plan.model_copy(update={"kinds": [*others, kind]})
    names = {one.name for one in kind.by_language()}
    pairs = {pair.old for pair in crossings.load_pairs(crossing)}  # set by hand, and locked
    mine: list[Item] = [item for item in lift.items(crossing) if item.kind in names and item.key not in pairs]
    old = {page: key for page, (key, _) in records.old_keys(crossing).items()}
    places = new_addresses(tried, mine, set(), old, menus_above(crossing, tried))
    keys = {item.id: item.key for item in mine}
    clashes = [place for place in places if (why := read(place.note)) is not None and why.why is Why.TAKEN]
    without = [place for place in places if not place.path]
    outside = [place for place in places if (why := read(place.note)) is not None and why.why is Why.NO_MENU]
    told = [*without[:2], *clashes[:2], *outside[:1]]
    told += [place for place in places if place not in told][: SHOWN - len(told)]
    return Made(len(places), len(clashes), len(without), [(keys[place.item], place) for place in told])
