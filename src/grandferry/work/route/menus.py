"""Which entries of the old site's menus stand above its pages, read off their captures."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from functools import lru_cache

from grandferry.core.address import Scope, normal
from grandferry.core.encoding import decode
from grandferry.core.errors import FerryError
from grandferry.core.plan import Plan
from grandferry.core.route.menus import Led, above, menus_of
from grandferry.core.route.places import asks_menu
from grandferry.core.side import Side
from grandferry.core.survey.scope import scope_of
from grandferry.store import bodies, rounds
from grandferry.store.rounds import Answered
from grandferry.work.pages import content_type

Above = dict[str, tuple[str, ...]]


def menus_above(crossing: int, plan: Plan) -> Above:
    """Old keys -> the labels of the entries above them, where the address of some kind asks for them; else nothing."""
    if not any(asks_menu(kind.address) for kind in plan.kinds):
        return {}
    pages = [row for row in rounds.answered(Side(crossing)) if row.type == "page" and row.content]
    side = plan.side("old")
    start = normal(side.start)
    mark = hashlib.blake2b("\n".join(f"{row.key} {row.content}" for row in pages).encode("utf-8", "replace"))
    return _read(_Pages(pages, scope_of(side), start.key if start else "/", mark.hexdigest()))


class _Pages:
    """The captured pages of a crossing, the same when their contents are."""

    def __init__(self, pages: list[Answered], scope: Scope, home: str, mark: str) -> None:
        self.by_key = {row.key: row for row in pages}
        self.scope, self.home, self.mark = scope, home, mark

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Pages) and (self.mark, self.home, self.scope) == (other.mark, other.home, other.scope)

    def __hash__(self) -> int:
        return hash((self.mark, self.home))

    def menus(self, key: str) -> Iterable[list[Led]]:
        """The menus of a page; none of one that is not captured, or cannot be read."""
        row = self.by_key.get(key)
        if row is None:
            return []
        try:
            found = menus_of(decode(bodies.get(row.content), content_type(row.headers)).text)
        except FerryError:  # told where the page is surveyed
            return []
        return [[Led(entry.label, self._key(row.url, entry.href), *entry[2:]) for entry in menu] for menu in found]

    def _key(self, page: str, href: str) -> str:
        try:
            address = self.scope.normal(href, page) if href else None
        except ValueError:
            return ""
        return address.key if address is not None and address.host in self.scope.hosts else ""


@lru_cache(maxsize=4)
def _read(pages: _Pages) -> Above:
    return above(pages.home, pages.menus)
