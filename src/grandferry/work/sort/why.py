"""Why a page is in a kind, or in none."""

from __future__ import annotations

from grandferry.core.errors import NotThere, UnreadablePage
from grandferry.core.sort.rules import RuleChecked, explain, language_of
from grandferry.store import bodies, crossings
from grandferry.store.survey import surveyed
from grandferry.work.pages import content_type, page_of


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
    return explain(plan.every_kind, found.key, page, language_of(found.key, found.language, plan.tongues))
