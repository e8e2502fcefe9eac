"""What a page says, as far as it tells which new address it became: a sample of its own words, its first heading, the
pictures it shows, its language.

Of the hashes of a page's pairs of words the lowest are kept: two pages that share much share much of these (Broder
1997), and a site of many thousand pages takes little memory.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np

from ...filetypes import ending_of, family_of_ending
from ..says import SHARED, SHARED_LEAST, Common, Hashes, Says, hashes

MOST = 96  # hashes of a page that are kept
FEW = 0.01  # of a site's pages: so many may share what is still somebody's own
_MIX = np.uint32(2_654_435_761)  # an odd number: every hash has its own place (Knuth, 6.4)
# what systems put behind the name of a picture that they made smaller
_SMALLER = re.compile(r"[-_](?:\d{2,4}x\d{2,4}|scaled|thumb(?:nail)?|small|large|\d{2,4}w)$", re.I)


def _none() -> Hashes:
    return np.zeros(0, dtype=np.uint32)


@dataclass(frozen=True, slots=True, eq=False)
class Content:
    """``words`` and ``pictures``: hashes, sorted, each once; ``language``: the primary subtag, "" where none is
    declared."""

    heading: str = ""
    language: str = ""
    words: Hashes = field(default_factory=_none)
    pictures: Hashes = field(default_factory=_none)


NOTHING = Content()


class Read(NamedTuple):
    """What a page says, in which language, and the addresses of the pictures in it, as they are written."""

    says: Says
    language: str
    pictures: list[str]


def contents_of(pages: Mapping[str, Read]) -> dict[str, Content]:
    """Of the pages of a site, by their addresses, what is each one's own: pieces of text, pairs of words and pictures
    that stand on several pages tell none from another."""
    common = Common(page.says for page in pages.values())
    words = {key: common.own_of(page.says).pairs for key, page in pages.items()}
    shows = {key: hashes(filter(None, map(picture_name, page.pictures))) for key, page in pages.items()}
    rare, own = _rare(words.values()), _rare(shows.values())
    return {
        key: Content(
            page.says.heading,
            page.language.partition("-")[0].lower(),
            np.unique(np.intersect1d(words[key], rare) * _MIX)[:MOST],
            np.intersect1d(shows[key], own),
        )
        for key, page in pages.items()
    }


def _rare(sets: Collection[Hashes]) -> Hashes:
    """The hashes that stand in few of some sets: on a large site in more than on a small one."""
    every, counts = np.unique(np.concatenate([*sets, _none()]), return_counts=True)
    return every[counts < max(SHARED_LEAST, min(SHARED, len(sets) / 2), FEW * len(sets))]


def picture_name(address: str) -> str:
    """The name of a picture whatever size and folder it has, "" for what is none by its ending."""
    ending = ending_of(address)
    if family_of_ending(ending) != "pictures":
        return ""
    stem = address.partition("?")[0].rpartition("/")[2].lower().removesuffix(f".{ending}")
    return _SMALLER.sub("", stem)
