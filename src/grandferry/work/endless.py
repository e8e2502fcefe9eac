"""Endless spaces: addresses that a script makes for ever, like the months of a calendar or the orders of a list.

Told by their pages, not by their names: of one shape, many in a row that say nearly the same and lead to nothing new
but to more of their own shape. Pages that lead to nothing new at all do not count: they end by themselves.
"""

from __future__ import annotations

from dataclasses import dataclass

from grandferry.core.address import loose_shape
from grandferry.core.survey.fingerprint import apart

REASON = "endless space"
DRY = 30  # pages in a row that lead to nothing but more of their own shape
NEAR = 16  # bits of 64 that may differ from the page before of the same shape
MOST_ALIKE = 0.8  # of those pages


@dataclass(slots=True)
class _Shape:
    dry: int = 0
    alike: int = 0
    last: str = ""


class Endless:
    """Watches the shapes of a site. ``capped`` are those recognised; ``real`` were said by a person to be no such space."""

    def __init__(self, capped: set[str], real: frozenset[str]):
        self.capped = capped - real
        self.real = real
        self._shapes: dict[str, _Shape] = {}

    def holds(self, key: str) -> bool:
        """Whether an address lies in a capped space."""
        return bool(self.capped) and loose_shape(key) in self.capped

    def saw(self, key: str, fingerprint: str, leads_to: list[str]) -> str:
        """Note a page: its fingerprint, and the new addresses (their keys, "" on other hosts) it leads to. Gives its
        shape when that turns out to be endless, else ""."""
        if not leads_to or ("?" not in key and not any(c.isdigit() for c in key)):
            return ""  # it makes nothing new, or its name does not vary
        shaped = loose_shape(key)
        if shaped in self.real or shaped in self.capped:
            return ""
        known = self._shapes.setdefault(shaped, _Shape())
        own = [loose_shape(other) == shaped for other in leads_to]
        if not all(own):
            known.dry = known.alike = 0
        else:
            known.dry += 1
            if fingerprint == known.last or (fingerprint and known.last and apart(fingerprint, known.last) <= NEAR):
                known.alike += 1
        known.last = fingerprint
        if known.dry >= DRY and known.alike >= MOST_ALIKE * known.dry:
            self.capped.add(shaped)
            return shaped
        return ""
