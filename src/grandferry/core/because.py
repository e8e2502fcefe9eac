"""Why something is as it is: a code that the program decides by, with what it speaks of. The sentence is made where it
is shown, by ``sentence``.

Kept as one text, the parts apart by tabs, which no address holds.
"""

from __future__ import annotations

from collections.abc import Callable
from enum import StrEnum
from typing import NamedTuple

from .route.verdicts import VERDICTS, Seen


class Why(StrEnum):
    # of a decision over an old address
    GONE = "gone"  # a line of the map answers 410
    LINE = "line"  # match, old
    SAID = "said"  # a person's own words
    FAMILY = "family"  # its name: the whole family is left out
    LEADS = "leads"  # key; and why that one is decided so
    TWIN = "twin"  # key
    CIRCLE = "circle"
    LOOP = "loop"  # key: where it would lead leads back
    OPEN_END = "open end"  # key
    SECTIONS = "sections"  # how many items its sections are
    ASKED = "asked"  # the question's words: it leads somewhere until the owner answers
    ASKED_OPEN = "asked, nowhere"  # the same, and it leads nowhere
    # of a fate
    UNDECIDED = "undecided"
    UNNAMED = "unnamed"  # fate
    REFUTED = "refuted"  # fate, verdict; and what was seen
    DOUBTFUL = "doubtful"  # what was seen
    # of an item's new address
    NO_KIND = "no kind"  # its name
    NO_PATTERN = "no pattern"
    NO_VALUE = "no value"  # field
    NO_DATE = "no date"  # value, the part of the pattern
    TAKEN = "taken"  # the path that is another's
    NO_MENU = "no menu"
    BY_PAIR = "by pair"
    RETIRED = "retired"
    # of a file
    FOLLOWS = "follows"  # key of the page that it stands on
    MACHINERY = "machinery"


_SEEN: dict[Seen, Callable[[str], str]] = {
    Seen.SAME_BYTES: lambda n: "the same bytes",
    Seen.WORDS: lambda n: f"{n} % of the old words",
    Seen.TITLE_ALONE: lambda n: "few old words, and the title",
    Seen.FEW_WORDS: lambda n: f"few old words, {n} % of them, not the title",
    Seen.FRONT: lambda n: f"the front page; {n} % of the old words",
    Seen.LIST: lambda n: f"a page of links; {n} % of the old words",
    Seen.OTHER_FILE: lambda n: "a file of the same family, with other bytes",
    Seen.OTHER_SORT: lambda n: "a page where a file was, or a file where a page was",
    Seen.NOTHING: lambda n: "nothing is known of what the old address said",
}


def seen_sentence(what: str = Seen.NOTHING, percent: str = "0", title: str = "") -> str:
    """What was found when two contents were held against each other: what was seen, percent, and "1" when the title is
    there as well."""
    if what not in set(Seen):  # a word of another version
        return what
    seen = Seen(what)
    says = _SEEN[seen](percent)
    return says + (", and the title" if title else ", not the title") if seen is Seen.WORDS else says


_VERDICTS: dict[str, str] = {str(verdict): says for verdict, says in VERDICTS.items()}
_SENTENCES: dict[Why, Callable[..., str]] = {
    Why.GONE: lambda: "answers 410 by decision",
    Why.LINE: lambda match, old: f"{match} {old}",
    Why.SAID: lambda words: words,
    Why.FAMILY: lambda name: f"left out on purpose: {name}",
    Why.LEADS: lambda key, *more: f"leads to {key} on the old site" + (f" ({_said(more)})" if more else ""),
    Why.TWIN: lambda key: f"the same page as {key}, spelt otherwise",
    Why.CIRCLE: lambda: "its redirects on the old site go in a circle",
    Why.SECTIONS: lambda n: f"its sections are {n} items of their own: lead it to the page that lists them, or to one",
    Why.ASKED: lambda words: f"for now, until the owner answers: {words}",
    Why.ASKED_OPEN: lambda words: f"the owner is asked, and until then it leads nowhere: {words}",
    Why.LOOP: lambda key: f"it would go in a circle: {key}, where it is to lead, leads back to it",
    Why.OPEN_END: lambda key: f"redirects to {key}, for which nothing is decided",
    Why.UNDECIDED: lambda: "nobody has decided; it would break",
    Why.UNNAMED: lambda fate: f"{fate} without a reason, though it is visited or linked",
    Why.REFUTED: lambda fate, verdict, *seen: (
        f"decided as {fate}, but the check says: {_VERDICTS.get(verdict, verdict)}"
        + (f" ({seen_sentence(*seen)})" if seen else "")
    ),
    Why.DOUBTFUL: lambda *seen: f"a person has to say whether it is the right page: {seen_sentence(*seen)}",
    Why.NO_KIND: lambda kind: f"the plan has no kind “{kind}” any more",
    Why.NO_PATTERN: lambda: "its kind names no pattern for new addresses",
    Why.NO_VALUE: lambda field: f"“{field}” has no value to make an address from.",
    Why.NO_DATE: lambda value, part: f"“{value}” is not a date, so {part} cannot be made from it.",
    Why.NO_MENU: lambda: "it stands in no menu, so that its address has no part of one",
    Why.TAKEN: lambda path: f"{path} is another item's place",
    Why.BY_PAIR: lambda: "set by a pair",
    Why.RETIRED: lambda: "retired by a pair",
    Why.FOLLOWS: lambda page: f"goes along with {page}, on which it stands",
    Why.MACHINERY: lambda: "style, script or feed of the old site",
}


class Because(NamedTuple):
    """A code and what it speaks of; its text is ``str(because)``."""

    why: Why
    of: tuple[str, ...] = ()

    def __str__(self) -> str:
        return "\t".join((self.why, *(part.replace("\t", " ") for part in self.of)))


def because(why: Why, *of: str) -> str:
    """The text of a reason, to be kept."""
    return str(Because(why, of))


def led(key: str, further: str) -> str:
    """The text of: it leads to an address which itself is decided so for ``further`` (a text, or "")."""
    return "\t".join((Why.LEADS, key, *([further] if further else [])))


def read(text: str) -> Because | None:
    """A kept text as code and parts, None for "". Raises ValueError for one that was never written by ``because``."""
    if not text:
        return None
    why, *of = text.split("\t")
    return Because(Why(why), tuple(of))


def _said(parts: tuple[str, ...]) -> str:
    return sentence("\t".join(parts))


def sentence(text: str) -> str:
    """A kept text in words, "" for none."""
    found = read(text)
    return _SENTENCES[found.why](*found.of) if found is not None else ""
