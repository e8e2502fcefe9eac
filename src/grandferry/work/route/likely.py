"""Which new addresses an old one is likely to have become: of our items, and of the new site where it was surveyed."""

from __future__ import annotations

from grandferry.core.errors import NotThere
from grandferry.core.route.suggest import Candidate, Known
from grandferry.core.route.suggest.pairs import suggest_one
from grandferry.store import route


def likely(crossing: int, key: str) -> list[Candidate]:
    """The candidates for an old address, the best first; none where nothing is like it. Raises NotThere for an address
    that is none of the account."""
    titles = route.titles_and_visits(crossing)
    if key not in titles:
        raise NotThere(f"There is no old address {key} in this crossing.")
    old = [Known(one, title) for one, (title, _) in titles.items()]
    new = [Known(place.path, place.title) for place in route.new_shore(crossing)]
    return suggest_one(Known(key, titles[key][0]), old, new).candidates
