"""What a page says that others like it do not: tells pages that a script makes for ever from pages somebody wrote."""

from __future__ import annotations

import re
from collections import Counter

from ..errors import FerryError
from ..page import INVISIBLE, open_page

FEWEST = 4  # words a piece of text must have; month names, prices and page numbers are shorter
_FIGURES = re.compile(r"[\d#]+")
_ASCII_DIGITS = bytes.maketrans(b"0123456789", b"##########")


def pieces(html: str) -> set[str]:
    """The pieces of text (between two tags) of a page that stand outside links and have FEWEST words or more; figures
    count as one and the same. Empty for a page that cannot be read."""
    try:
        parser = open_page(html)
    except FerryError:
        return set()
    body = parser.body or parser.root
    if body is None:
        return set()
    for node in body.css(",".join(["a", *sorted(INVISIBLE - {"head"})])):
        if node.mem_id != body.mem_id:
            node.decompose()
    found = set()
    for line in _without_figures(body.text(separator="\x00")).split("\x00"):
        words = line.split()
        if len(words) >= FEWEST and any(word.strip("#.,:;-/()") for word in words):
            found.add(" ".join(words))
    return found


def _without_figures(text: str) -> str:
    """A text with # for each figure in it, as for each run of #."""
    if not text.isascii():
        return _FIGURES.sub("#", text)
    found = text.encode().translate(_ASCII_DIGITS)  # a tenth of the time
    while b"##" in found:
        found = found.replace(b"##", b"#")
    return found.decode()


def share_with_own(pages: list[set[str]], others: list[set[str]]) -> float:
    """The share of ``pages`` (each its pieces) that hold a piece which no other of them, nor one of ``others``, has."""
    if not pages:
        return 0.0
    counts = Counter(piece for page in [*pages, *others] for piece in page)
    return sum(any(counts[piece] == 1 for piece in page) for page in pages) / len(pages)


__all__ = ["FEWEST", "pieces", "share_with_own"]
