"""Which new addresses an old one is likely to have become: of our items, and of the new site where it was surveyed."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Mapping, Sequence

from grandferry.core.errors import NotThere
from grandferry.core.route.above import first_below
from grandferry.core.route.fate import Decision
from grandferry.core.route.suggest import Candidate, Known, Reason
from grandferry.core.route.suggest.pairs import KEPT, suggest_one
from grandferry.store import route, stamps, suggested

LIKELY = 0.5  # a candidate that is so sure needs no other to choose
CHOICE = 0.05  # how sure it is that the page of a folder is to go to the first page in it


SHORE = "suggested of"  # the stamp of what is suggested: the new shore that it was held against


def mark_of(places: Iterable[route.NewPlace]) -> str:
    """One hash over what is on the new shore."""
    found = hashlib.blake2b(digest_size=10)
    for place in places:
        found.update(f"{place.path}\t{place.title}\n".encode("utf-8", "surrogatepass"))
    return found.hexdigest()


def likely(crossing: int, key: str) -> list[Candidate]:
    """The candidates for an old address, the best first; for the page of a folder of which none is likely, the first
    page below it before them, to choose. What all were held against together is taken, where the new shore is still
    the same: it rests on what the pages say as well. Raises NotThere for an address that is none of the account."""
    there = route.new_shore(crossing)
    kept = suggested.of_key(crossing, key) if stamps.get(crossing, SHORE) == mark_of(there) else None
    if kept is not None:
        reasons = tuple((Reason(why), what) for why, what in kept.reasons)
        best = Candidate(kept.new, kept.confidence, reasons)
        return [best, *(Candidate(new, sure, ()) for new, sure in kept.others)]
    titles = route.titles_and_visits(crossing)
    if key not in titles:
        raise NotThere(f"There is no old address {key} in this crossing.")
    old = [Known(one, title) for one, (title, _) in titles.items()]
    new = [Known(place.path, place.title) for place in there]
    found = suggest_one(Known(key, titles[key][0]), old, new).candidates
    return with_below(key, found, sorted(titles), route.decisions(crossing))


def with_below(key: str, found: list[Candidate], known: Sequence[str], made: Mapping[str, Decision]) -> list[Candidate]:
    """Candidates, and before them the first page below the page of a folder of which none is likely. ``known``: the old
    addresses, sorted."""
    if found and found[0].confidence >= LIKELY:
        return found
    child, place = first_below(key, known, made)
    if not place or any(one.new == place for one in found):
        return found
    return [Candidate(place, CHOICE, ((Reason.BELOW, child),)), *found][:KEPT]
