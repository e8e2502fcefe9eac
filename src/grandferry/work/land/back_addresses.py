"""Addresses of a folder's files back to those of the old site."""

from __future__ import annotations

from grandferry.core.address import fragment_of
from grandferry.core.plan import Plan
from grandferry.store import carried, lift, route

from .content import old_url


class OldAddresses:
    """What stands at a new place was at which old address. Of several that were merged the first counts, where none of
    them is an item's own."""

    def __init__(self, crossing: int, plan: Plan):
        self._plan = plan
        self._pages = {made.target: key for key, made in sorted(route.decisions(crossing).items(), reverse=True)}
        self._pages |= {item.new_path: item.key for item in lift.items(crossing) if item.new_path}
        self._files = {place: address for address, place in carried.places(crossing).items()}

    def link(self, href: str) -> str:
        """A link as the old site has it; one to nothing that went over as it is."""
        if href.startswith("#"):
            return href
        if href in self._files:
            return self._files[href]
        page = self._pages.get(href) or self._pages.get(href.partition("#")[0])
        if page is None:
            return href
        mark = fragment_of(href)
        return old_url(self._plan, f"{page}#{mark}" if mark and "#" not in page else page)

    def source(self, src: str) -> str:
        return self._files.get(src, src)
