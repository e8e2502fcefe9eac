"""What an old and a new address have in common: the words of their paths and titles, as sparse matrices.

A word weighs by how rare it is on both shores together (Spärck Jones, 1972); candidates are the nearest by the cosine
of what is left of it, block by block, so that memory stays the same however many addresses there are.
"""

from __future__ import annotations

import re
import unicodedata
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from urllib.parse import unquote

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_matrix

from ...filetypes import PAGE_ENDINGS, START_PAGES
from ...page import PARTING_SIGNS
from ..says import Hashes
from .content import NOTHING, Content

BLOCK = 512  # rows of a product at once
NEAREST = 6  # candidates by words
COMMON = 0.05  # of all addresses: a word in more of them names no candidates
_WORD = re.compile(r"\d+|[^\W\d_]+")


@dataclass(frozen=True, slots=True)
class Known:
    """An address (path and query, in normal form), its title, "" where none is known, and what stands there."""

    address: str
    title: str = ""
    content: Content = field(default=NOTHING, compare=False, repr=False)


@dataclass(frozen=True, slots=True)
class Parts:
    """An address taken apart: its path without what only a server looks at, the folders' words, the last part's, the
    title's (of a page without one the first heading's), and those of the first heading."""

    path: str
    above: str  # the same of the folder it lies in, or of the page without its query
    folders: tuple[str, ...]
    tail: tuple[str, ...]
    title: tuple[str, ...]
    heading: tuple[str, ...] = ()
    content: Content = NOTHING

    @property
    def words(self) -> frozenset[str]:
        """What says which page it is."""
        return frozenset((*self.tail, *self.title))


def words(text: str) -> tuple[str, ...]:
    """Words and numbers of a text, without accents and case; numbers without leading noughts."""
    plain = unicodedata.normalize("NFKD", text.casefold())
    found = _WORD.findall("".join(c for c in plain if not unicodedata.combining(c)))
    return tuple(word.lstrip("0") or "0" if word.isdigit() else word for word in found)


def parts_of(known: Known, names: Sequence[str] = ()) -> Parts:
    """Take an address apart. ``names``: what stands behind (or before) every title, the outermost first."""
    raw, _, query = known.address.partition("?")
    parts = [unquote(part) for part in raw.split("/") if part]
    if parts and not raw.endswith("/"):
        stem, dot, ending = parts[-1].rpartition(".")
        if dot and stem and ending.lower() in PAGE_ENDINGS:
            parts[-1] = stem
        if len(parts) > 1 and parts[-1].lower() in START_PAGES and not query:
            parts.pop()
    each = [words(part) for part in parts]
    if query:
        each.append(words(unquote(query.replace("+", " "))))
    ways = ["-".join(one) for one in each]
    folders = tuple(word for one in each[:-1] for word in one)
    title = _in_one_line(known.title)
    for name in names:
        title = title.removesuffix(name) if title.endswith(name) else title.removeprefix(name)
    heading = words(known.content.heading)
    tail = each[-1] if each else ()
    return Parts("/".join(ways), "/".join(ways[:-1]), folders, tail, words(title) or heading, heading, known.content)


_BETWEEN = re.compile(rf" [{PARTING_SIGNS}] |: | ?[|·•»] ?")
_OFTEN = 0.4  # of all titles: what so many end (or begin) with is the site's name


def _in_one_line(title: str) -> str:
    return " ".join(title.split())


def names_of(site: Sequence[Known]) -> list[str]:
    """What the titles of a site end, or begin, with: its name, with what parts it from the title, the outermost
    first."""
    titles, found = [_in_one_line(one.title) for one in site if one.title], list[str]()
    while (name := _name_of(titles)) and len(found) < 3:
        found.append(name)
        titles = [title.removesuffix(name) if title.endswith(name) else title.removeprefix(name) for title in titles]
    return found


def _name_of(titles: Sequence[str]) -> str:
    found: Counter[str] = Counter()
    for title in titles:
        marks = list(_BETWEEN.finditer(title))
        if marks:
            found.update({title[marks[-1].start() :], title[: marks[0].end()]})
    name, number = next(iter(found.most_common(1)), ("", 0))
    return name if len(titles) > 4 and number > _OFTEN * len(titles) else ""


@dataclass(slots=True)
class Shores:
    """Both shores in the same words. ``old`` and ``new``: addresses by words of tails and titles, ``old_ways`` and
    ``new_ways`` by those of folders and tails, ``old_says`` and ``new_says`` by what their pages say, ``old_shows`` and
    ``new_shows`` by the pictures they show; rows of length 1 (or 0)."""

    old: csr_matrix
    new: csr_matrix
    old_ways: csr_matrix
    new_ways: csr_matrix
    old_says: csr_matrix
    new_says: csr_matrix
    old_shows: csr_matrix
    new_shows: csr_matrix
    weights: dict[str, float]

    def first(self, number: int) -> Shores:
        """With the first of the old addresses alone; the others have told how rare each word is."""
        names = ("old", "old_ways", "old_says", "old_shows")
        return replace(self, **{name: getattr(self, name)[:number] for name in names})


def shores(old: Sequence[Parts], new: Sequence[Parts]) -> Shores:
    texts = [one.words for one in (*old, *new)]
    ways = [frozenset((*one.folders, *one.tail)) for one in (*old, *new)]
    counts = Counter(word for text in (*texts,) for word in text)
    counts.update(word for way in ways for word in way)
    total = 2 * max(1, len(texts))
    weights = {word: float(np.log((1 + total) / (1 + n))) for word, n in counts.items()}
    numbers = {word: at for at, word in enumerate(weights)}
    made = _rows(texts, weights, numbers)
    also = _rows(ways, weights, numbers)
    says = _hashed([one.content.words for one in (*old, *new)])
    shows = _hashed([one.content.pictures for one in (*old, *new)])
    n = len(old)
    return Shores(made[:n], made[n:], also[:n], also[n:], says[:n], says[n:], shows[:n], shows[n:], weights)


def _hashed(sets: Sequence[Hashes]) -> csr_matrix:
    """Sets of hashes as rows, each hash weighed by how rare it is."""
    every = np.concatenate(sets) if sets else np.zeros(0, dtype=np.uint32)
    names, places, counts = np.unique(every, return_inverse=True, return_counts=True)
    weights = np.log((1 + len(sets)) / counts)[places]
    ends = np.concatenate(([0], np.cumsum([len(one) for one in sets], dtype=np.int64)))
    made = csr_matrix((weights, places, ends), shape=(len(sets), max(1, len(names))), dtype=np.float32)
    lengths = np.sqrt(np.asarray(made.multiply(made).sum(axis=1)).ravel())
    scale = np.repeat(1 / np.where(lengths > 0, lengths, 1), np.diff(made.indptr))
    made.data *= scale.astype(np.float32)
    return made


def _rows(texts: Iterable[frozenset[str]], weights: dict[str, float], numbers: dict[str, int]) -> csr_matrix:
    ends, places, values = [0], list[int](), list[float]()
    for text in texts:
        mine = sorted(text)
        length = float(np.sqrt(sum(weights[word] ** 2 for word in mine))) or 1.0
        places += [numbers[word] for word in mine]
        values += [weights[word] / length for word in mine]
        ends.append(len(places))
    return csr_matrix((values, places, ends), shape=(len(ends) - 1, max(1, len(numbers))), dtype=np.float32)


def nearest(old: csr_matrix, new: csr_matrix) -> Iterator[tuple[int, NDArray[np.int64]]]:
    """For each row of ``old`` the rows of ``new`` that are nearest to it, NEAREST at most. Words that are nearly
    everywhere name no candidates."""
    rows = new.shape[0]
    often = np.asarray((new != 0).sum(axis=0)).ravel() > max(50, COMMON * rows)
    keep = csr_matrix(np.where(often, 0, 1).astype(np.float32))
    columns = new.multiply(keep).tocsr().T.tocsr()
    for first in range(0, old.shape[0], BLOCK):
        product = (old[first : first + BLOCK] @ columns).tocsr()
        for at in range(product.shape[0]):
            start, end = product.indptr[at], product.indptr[at + 1]
            found, scores = product.indices[start:end], product.data[start:end]
            if len(found) > NEAREST:
                found = found[np.argpartition(-scores, NEAREST)[:NEAREST]]
            yield first + at, np.sort(found).astype(np.int64)
