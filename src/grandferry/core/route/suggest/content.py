"""What a page says, as far as it tells which new address it became: a sample of its own words, its first heading, the
pictures it shows, its language.

Of the hashes of a page's pairs of words the lowest are kept: two pages that share much share much of these (Broder
1997), and a site of many thousand pages takes little memory.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, field

import numpy as np

from ...filetypes import ending_of, family_of_ending
from ..says import Hashes, Says, hashes

MOST = 96  # hashes of a page that are kept
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


def content_of(own: Says, language: str, pictures: Iterable[str]) -> Content:
    """Of a page of which nothing is left but its own words (``Common.own_of``); ``pictures``: as their addresses are
    written, or any other names that the same picture has on both sites."""
    mixed = np.unique(own.pairs * _MIX)[:MOST]
    names = {name for address in pictures if (name := picture_name(address))}
    return Content(own.heading, language.partition("-")[0].lower(), mixed, hashes(names))


def picture_name(address: str) -> str:
    """The name of a picture whatever size and folder it has, "" for what is none by its ending."""
    ending = ending_of(address)
    if family_of_ending(ending) != "pictures":
        return ""
    stem = address.partition("?")[0].rpartition("/")[2].lower().removesuffix(f".{ending}")
    return _SMALLER.sub("", stem)
