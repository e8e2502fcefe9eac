"""What a live check can find at an address, and what each of it means."""

from __future__ import annotations

from enum import StrEnum
from typing import Literal

Verdict = Literal[
    "same",
    "as planned",
    "gone",
    "left out",
    "wrong place",
    "wrong page",
    "doubtful",
    "temporary",
    "permanent",
    "chain",
    "loop",
    "soft error",
    "missing",
    "target missing",
    "elsewhere",
    "not gone",
    "failed",
]
VERDICTS: dict[Verdict, str] = {
    "same": "the same path answers 200 with the right page",
    "as planned": "one redirect to the planned place, of the planned sort, which answers 200 with the right page",
    "gone": "answers 410, as planned",
    "left out": "set aside with a named reason; nothing is asked of the host",
    "wrong place": "redirected, but not to the planned place, or answers itself where a redirect was planned",
    "wrong page": "answers 200 at the right place, but with another page's content",
    "doubtful": "answers 200 at the right place; whether it says what the old page said, a person has to say",
    "temporary": "redirected to the planned place with a temporary status (302, 303, 307)",
    "permanent": "redirected to the planned place for good (301, 308), where a temporary redirect was planned",
    "chain": "reaches the planned place by more than one hop",
    "loop": "the redirects go in a circle, or never end",
    "soft error": "answers 200 with the host's own error page",
    "missing": "answers 404: it would break",
    "target missing": "redirected as planned, but the new place answers 404 or 410",
    "elsewhere": "redirected as planned to another host, which gave no usable answer or was not asked",
    "not gone": "should be gone (410) and still answers otherwise",
    "failed": "no usable answer: no connection, time-out, or a server error",
}


class Seen(StrEnum):
    """What was seen when two answers were held against each other."""

    SAME_BYTES = "same bytes"
    WORDS = "words"  # so many percent of the old page's own words; the title as well or not
    TITLE_ALONE = "title alone"  # the old page has few words; its title is there
    FEW_WORDS = "few words"  # the old page has few words, and its title is not there; percent
    FRONT = "front"  # the front page of the new site; percent
    LIST = "list"  # a page of links; percent
    OTHER_FILE = "other file"  # a file of the same family with other bytes
    OTHER_SORT = "other sort"  # a page where a file was, or the reverse
    NOTHING = "nothing"  # nothing is known of what the old address said
