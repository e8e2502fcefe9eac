"""Why a page is in a kind, or in none."""

from __future__ import annotations

from grandferry.core.errors import NotThere, UnreadablePage
from grandferry.core.sort.rules import RuleChecked, explain, needs_make
from grandferry.store import bodies, crossings
from grandferry.store.survey import surveyed
from grandferry.work.pages import content_type, page_of
from grandferry.work.sort.run import seen_of


def why(crossing: int, address: int) -> list[RuleChecked]:
    """Every rule of every kind held against a captured page. Raises NotThere where there is no such page."""
    found = surveyed.page(crossing, address)
    if found is None:
        raise NotThere(f"Address {address} is no captured page of the old site.")
    plan = crossings.load_plan(crossing)
    try:
        page = page_of(bodies.get(found.content), content_type(found.headers))
    except UnreadablePage:
        page = None  # rules that ask for an element do not hold
    make = surveyed.makes(crossing, address).get(address, b"") if needs_make(plan.every_kind) else b""
    return explain(plan.every_kind, seen_of(found, plan.tongues, make)._replace(page=page))
