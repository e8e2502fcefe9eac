"""The fields that a kind made of a group begins with, looked up on a few of its pages."""

from __future__ import annotations

import numpy as np

from grandferry.core.errors import NotThere, UnreadablePage
from grandferry.core.lift.first import FirstField, first_fields
from grandferry.core.page import Page
from grandferry.store import bodies, groups
from grandferry.store.survey import surveyed
from grandferry.work.pages import content_type, page_of

LOOKED_AT = 9  # pages of the group, from its first to its last


def fields_of_groups(crossing: int, cut: int, numbers: list[int]) -> list[FirstField]:
    """Proposed fields for a kind made of groups. Raises NotThere."""
    members: list[int] = []
    for number in numbers:
        found = groups.members(crossing, cut, number)
        if not found:
            raise NotThere(f"There is no group {number} at this cut; the pages may have been grouped anew.")
        members += found
    return first_fields(some_pages(crossing, members))


def some_pages(crossing: int, addresses: list[int]) -> list[Page]:
    """A few of some captured pages, from the first to the last; those that cannot be read are left out."""
    pages: list[Page] = []
    for place in sorted({int(n) for n in np.linspace(0, len(addresses) - 1, LOOKED_AT)}) if addresses else ():
        member = surveyed.page(crossing, addresses[place])
        if member is None:  # captured anew as something else, since it was grouped
            continue
        try:
            pages.append(page_of(bodies.get(member.content), content_type(member.headers)))
        except UnreadablePage:
            continue  # the survey has told it
    return pages
