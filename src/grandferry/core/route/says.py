"""What an answer says, and whether another one says the same: of pages their own words, of files the bytes.

Words are taken two at a time, as they follow each other: single ones stand on every page of a site. Pieces of text that
stand on several pages of the old site as they are (menus, feet, labels) are no page's own. Of its own words those that
stand on many pages weigh little, those of one page much: the weight is the inverse document frequency (Spärck Jones
1972). What the new page says beside them counts for nothing: a new site has menus of its own.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from itertools import pairwise
from typing import Literal, NamedTuple
from zlib import crc32

import numpy as np
from numpy.typing import NDArray

from ..address import MADE_UP
from ..survey.glance import PIECE, Glance
from .verdicts import Seen

RIGHT = 0.6  # of the weight of the old page's own words: so many are there, and it is the right page
WITH_TITLE = 0.4  # … or so many, when its title is there as well
WRONG = 0.25  # so few, and no title: it is another page
TITLE = 0.75  # of the weight of a title's words
SHARED, SHARED_LEAST = 5, 3  # pages on which a piece of text is nobody's own (on a small site, half of them)
HEAVIEST = np.log(10)  # a few rare words (numbers, names in a table) do not outweigh the text
FEW = 8  # with fewer words of its own, the title has to tell …
SOME, ALL = 3, 0.9  # … or all of them, when there are some
LIST = 0.5  # of its words stand in links: a page of links
LINKS = 8  # … when there are so many of them
ERROR_DIFFERS = 0.03  # of an error page's words may differ from one address to another

Hashes = NDArray[np.uint32]
_NONE: Hashes = np.zeros(0, dtype=np.uint32)
_NO_PIECES: Hashes = np.zeros((0, 2), dtype=np.uint32)
# scripts that are written without blanks between words: taken two letters at a time
_UNSPACED = re.compile(r"[\u0e00-\u0eff\u1000-\u109f\u1780-\u17ff\u3040-\u30ff\u3400-\u9fff\uf900-\ufaff]")
_ERROR = re.compile(
    r"^\W*(?:404|410)\b|\berror\W+(?:404|410|5\d\d)\b|\b(?:404|410)\W+(?:error|not|page)|"
    r"not (?:be )?found|no longer (?:exists|available)|does(?: not|n['’]t) exist|"
    r"nicht gefunden|introuvable|no encontrad[ao]|não encontrad[ao]|non trovat[ao]|niet gevonden|nie znaleziono|"
    r"не найден[ао]?",
    re.IGNORECASE,
)


@dataclass(frozen=True, slots=True)
class Says:
    """What an answer says. ``words``: hashes of its different words, sorted; ``pairs``: of its different pairs of words
    (of a piece of one word, that); ``pieces``: rows of the hash of a piece of text and of a pair in it; ``in_links``:
    the share of its words that stand in its ``links``; of a file ``mime`` and ``digest`` (SHA-256)."""

    type: Literal["page", "file"]
    title: str = ""
    heading: str = ""
    words: Hashes = field(default_factory=lambda: _NONE)
    pairs: Hashes = field(default_factory=lambda: _NONE)
    pieces: Hashes = field(default_factory=lambda: _NO_PIECES)
    links: int = 0
    in_links: float = 0.0
    mime: str = ""
    digest: str = ""

    @property
    def is_list(self) -> bool:
        return self.links >= LINKS and self.in_links >= LIST

    @property
    def names_an_error(self) -> bool:
        return bool(_ERROR.search(self.title) or _ERROR.search(self.heading))


def tokens(text: str) -> list[str]:
    """The words of a text, letter case aside; where words are not set apart, every two letters."""
    found: list[str] = []
    for word in re.findall(r"\w+", text.casefold()):
        if len(word) > 2 and _UNSPACED.search(word):
            found += [word[n : n + 2] for n in range(len(word) - 1)]
        else:
            found.append(word)
    return found


def hashes(words: Iterable[str]) -> Hashes:
    """The hashes of some words, sorted, each once."""
    return np.unique(np.fromiter(map(_hash, words), dtype=np.uint32))


def _hash(text: str) -> int:
    return crc32(text.encode("utf-8", "replace"))


def page_says(seen: Glance) -> Says:
    """What a page says that was read at a glance."""
    facts = seen.facts
    pieces: set[tuple[int, int]] = set()
    every: set[str] = set()
    for piece in set(seen.seen.split(PIECE)):
        words = tokens(piece)
        every.update(words)
        name = _hash(" ".join(words))
        together = [f"{one} {two}" for one, two in pairwise(words)] or words
        pieces.update((name, _hash(pair)) for pair in together)
    rows = np.array(sorted(pieces), dtype=np.uint32).reshape(-1, 2)
    links = [link.words.split() for link in seen.links if link.how == "a" and link.words]
    return Says(
        "page",
        facts.title,
        facts.headings[0] if facts.headings else "",
        hashes(every),
        np.unique(rows[:, 1]),
        rows,
        len(links),
        sum(map(len, links)) / facts.words if facts.words else 0.0,
    )


def file_says(mime: str, digest: str) -> Says:
    """What a file says, ``digest`` being the SHA-256 of its bytes."""
    return Says("file", mime=mime, digest=digest)


class Common:
    """How many pages of a site each word stands on, and which pieces of text stand on several."""

    def __init__(self, pages: Iterable[Says]):
        every = [page for page in pages if len(page.words)]
        self._pages = len(every)
        self._names = _counted([hashes(tokens(f"{page.title} {page.heading}")) for page in every])
        self._pairs = _counted([page.pairs for page in every])
        pieces, counts = _counted([np.unique(page.pieces[:, 0]) for page in every])
        self._shared = pieces[counts >= max(SHARED_LEAST, min(SHARED, self._pages / 2))]

    def own_of(self, page: Says) -> Says:
        """A page of the site with its own words alone."""
        if page.type == "file":
            return page
        own = page.pieces[~np.isin(page.pieces[:, 0], self._shared), 1]
        return replace(page, pairs=np.unique(own), pieces=_NO_PIECES)

    def _weights(self, some: Hashes, counted: tuple[Hashes, NDArray[np.int64]]) -> NDArray[np.float64]:
        """The weight of each hash, from 0 for what stands on every page to HEAVIEST for what is rare."""
        known, counts = counted
        if not len(known):
            return np.ones(len(some))
        places = np.minimum(np.searchsorted(known, some), len(known) - 1)
        on = np.where(known[places] == some, counts[places], 0)
        return np.clip(np.log((self._pages + 1) / (on + 0.5)), 0.0, HEAVIEST)

    def own(self, page: Says) -> int:
        """How many pairs of words a page has that stand on at most half of the pages."""
        return int(np.count_nonzero(self._weights(page.pairs, self._pairs) >= np.log(2)))

    def share(self, old: Says, new: Says) -> float:
        """How much of the weight of the pairs of one page stands on another, 0 to 1 (0 when it has none)."""
        return _share(self._weights(old.pairs, self._pairs), np.isin(old.pairs, new.pairs))

    def names(self, name: str, shown: str) -> bool:
        """Whether a name stands in a text, by the weight of its words."""
        words = hashes(tokens(name))
        return _share(self._weights(words, self._names), np.isin(words, hashes(tokens(shown)))) >= TITLE


def _share(weights: NDArray[np.float64], there: NDArray[np.bool_]) -> float:
    whole = float(weights.sum())
    return float(weights[there].sum()) / whole if whole else 0.0


class Likeness(NamedTuple):
    """Whether an answer says what another one said: right, doubtful or wrong; ``seen`` and its figures say why."""

    is_: Literal["right", "doubtful", "wrong"]
    seen: Seen
    percent: int = 0
    title: bool = False


def _counted(sets: list[Hashes]) -> tuple[Hashes, NDArray[np.int64]]:
    """The hashes that stand in some sets, and in how many of them each."""
    return np.unique(np.concatenate(sets), return_counts=True) if sets else (_NONE, np.zeros(0, dtype=np.int64))


def _title_is_there(old: Says, new: Says, common: Common) -> bool:
    """Whether what the old page calls itself (its first heading, else its title) stands in what the new one does."""
    shown = f"{new.title} {new.heading}"
    return any(common.names(name, shown) for name in (old.heading, old.title) if name.strip())


def likeness(old: Says | None, new: Says, common: Common, *, front: bool = False) -> Likeness:
    """Whether ``new`` says what ``old`` said (None: nothing is known of it). ``common``: of the old site's pages;
    ``front``: the new answer is the front page of its site, and the old one was not."""
    if old is None:
        return Likeness("right", Seen.NOTHING)
    if old.type != new.type:
        return Likeness("wrong", Seen.OTHER_SORT)
    if old.type == "file":
        if old.digest == new.digest:
            return Likeness("right", Seen.SAME_BYTES)
        family = old.mime.partition("/")[0] == new.mime.partition("/")[0]
        return Likeness("doubtful" if family else "wrong", Seen.OTHER_FILE)
    title = _title_is_there(old, new, common)
    share = common.share(old, new)
    percent = round(share * 100)
    own = common.own(old)
    if own < FEW:
        if title:
            return Likeness("right", Seen.TITLE_ALONE, percent, True)
        return Likeness("right" if own >= SOME and share >= ALL else "doubtful", Seen.FEW_WORDS, percent)
    if share >= RIGHT:
        return Likeness("right", Seen.WORDS, percent, title)
    if front:
        return Likeness("wrong" if share <= WRONG else "doubtful", Seen.FRONT, percent, title)
    if new.is_list and not old.is_list:
        return Likeness("wrong" if share <= WRONG else "doubtful", Seen.LIST, percent, title)
    if title and share >= WITH_TITLE:
        return Likeness("right", Seen.WORDS, percent, True)
    return Likeness("wrong" if share <= WRONG and not title else "doubtful", Seen.WORDS, percent, title)


def is_error_page(new: Says, error: Says, asked: str) -> bool:
    """Whether an answer is ``error``, what the host answers to ``MADE_UP``; what repeats the address that was ``asked``
    aside."""
    if new.type != error.type:
        return False
    if new.type == "file":
        return new.digest == error.digest
    if set(tokens(f"{new.title} {new.heading}")) != set(tokens(f"{error.title} {error.heading}")):
        return False
    echoed = hashes(tokens(f"{asked} {MADE_UP}"))
    apart = np.setdiff1d(np.setxor1d(new.words, error.words), echoed)
    return len(apart) <= max(3, ERROR_DIFFERS * len(error.words))
