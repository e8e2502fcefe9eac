"""Endless spaces: addresses that a script makes for ever, like the months of a calendar or the orders of a list.

Told by their pages, not by their names: of one shape, many in a row that lead to nothing new but to more of their own
shape, and that hold no text of their own. Pages that lead to nothing new at all do not count: they end by themselves.
"""

from __future__ import annotations

from dataclasses import dataclass, field

from grandferry.core.address import loose_shape
from grandferry.core.encoding import decode
from grandferry.core.survey.own import pieces, share_with_own
from grandferry.store import bodies

DRY = 30  # pages in a row that lead to nothing but more of their own shape
MOST_WITH_OWN = 0.2  # of those pages may hold text that stands on no other of the shape
A_FEW = 12  # pages that are looked at first
CLEARLY_OWN = 0.8  # with so many, that look is enough
REMEMBERED = 90  # pages of the shape before them that they are compared with


@dataclass(slots=True)
class _Shape:
    dry: int = 0
    judged: int = DRY  # the number of dry pages at which the shape is looked at next
    pages: list[tuple[str, str]] = field(default_factory=list)  # stored bodies, and how they are encoded


class Endless:
    """Watches the shapes of a site. ``capped`` are those recognised; ``real`` were said by a person to be no such
    space."""

    def __init__(self, capped: set[str], real: frozenset[str]):
        self.capped = capped - real
        self.real = real
        self._shapes: dict[str, _Shape] = {}

    def holds(self, key: str) -> bool:
        """Whether an address lies in a capped space."""
        return bool(self.capped) and loose_shape(key) in self.capped

    def saw(self, key: str, body: str, encoding: str, leads_to: list[str]) -> str:
        """Note a page: its stored body, and the new addresses (their keys, "" for files and other hosts) it leads to.
        Gives its shape when that turns out to be endless, else ""."""
        if not leads_to or ("?" not in key and not any(c.isdigit() for c in key)):
            return ""  # it makes nothing new, or its name does not vary
        shaped = loose_shape(key)
        if shaped in self.real or shaped in self.capped:
            return ""
        known = self._shapes.setdefault(shaped, _Shape())
        known.pages.append((body, encoding))
        if len(known.pages) > REMEMBERED + DRY:
            del known.pages[0]
        if not all(other and loose_shape(other) == shaped for other in leads_to):
            known.dry, known.judged = 0, DRY
            return ""
        known.dry += 1
        if known.dry < known.judged:
            return ""
        known.judged *= 4  # what was found to be real text is not read again after every page
        texts = _texts(known.pages[-A_FEW * 2 :])
        if share_with_own(texts[-A_FEW:], texts[:-A_FEW]) > CLEARLY_OWN:
            return ""  # comparing more with more would cost time and say the same
        texts = _texts(known.pages)
        if share_with_own(texts[-DRY:], texts[:-DRY]) > MOST_WITH_OWN:
            return ""
        self.capped.add(shaped)
        return shaped


def _texts(pages: list[tuple[str, str]]) -> list[set[str]]:
    return [pieces(decode(bodies.get(page), f"text/html; charset={code}").text) for page, code in pages]
