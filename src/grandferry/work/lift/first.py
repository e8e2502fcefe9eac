"""The fields that a kind made of a group begins with, looked up on a few of its pages."""

from __future__ import annotations

import numpy as np

from grandferry.core.errors import NotThere, UnreadablePage
from grandferry.core.lift.first import first_fields
from grandferry.core.lift.firstfield import FirstField
from grandferry.core.page import Page
from grandferry.core.sort.sample import sample
from grandferry.store import bodies, groups
from grandferry.store.survey import surveyed
from grandferry.work.pages import content_type, page_of

LOOKED_AT = 20  # pages of the group


def fields_of_groups(crossing: int, cut: int, numbers: list[int]) -> list[FirstField]:
    """Proposed fields for a kind made of groups. Raises NotThere."""
    members: list[int] = []
    for number in numbers:
        found = groups.members(crossing, cut, number)
        if not found:
            raise NotThere(f"There is no group {number} at this cut; the pages may have been grouped anew.")
        members += found
    return first_fields(some_pages(crossing, members))


def some_pages(
    crossing: int, addresses: list[int], makes: dict[int, bytes] | None = None, most: int = LOOKED_AT
) -> list[Page]:
    """A few of some captured pages, ``most`` of them, chosen by their ``makes`` (looked up where they are not given);
    those that cannot be read are left out."""
    made = surveyed.makes(crossing) if makes is None else makes
    pages: list[Page] = []
    for place in sample([np.frombuffer(made.get(address, b""), "<u4") for address in addresses], most):
        member = surveyed.page(crossing, addresses[place])
        if member is None:  # captured anew as something else, since it was grouped
            continue
        try:
            pages.append(page_of(bodies.get(member.content), content_type(member.headers)))
        except UnreadablePage:
            continue  # the survey has told it
    return pages
