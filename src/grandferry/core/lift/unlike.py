"""Values that want a look though they were read: unlike the others of their field in length, form or size, or left by
whoever built the page until there is something to say."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from datetime import date, datetime
from enum import StrEnum
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..page import Node, Page
from ..patterns import compile_pattern
from ..references import picture_source


class Unlike(StrEnum):
    """Why a value wants a look."""

    LONG = "long"
    SHORT = "short"
    FORM = "form"
    FAR = "far"
    FILLER = "filler"
    AGAIN = "again"
    STAND_IN = "stand-in"


SAYS = {
    Unlike.LONG: "much longer than the others",
    Unlike.SHORT: "much shorter than the others",
    Unlike.FORM: "of another form than nearly all others",
    Unlike.FAR: "far from all others",
    Unlike.FILLER: "text that stands in for something",
    Unlike.AGAIN: "the same paragraph three times",
    Unlike.STAND_IN: "a picture that stands in for something",
}
BY_ITSELF = frozenset([Unlike.FILLER, Unlike.AGAIN, Unlike.STAND_IN])  # told of a value alone
FEWEST = 12  # values of a field of which one can be told that it is unlike them
TIMES = 4  # longer, or shorter, than nine of ten others
LONG, SHORT = 60, 12  # characters from which a value is long, to which nine of ten have to come for one to be short
MEMBERS = 6  # of a list, from which it is long
SAME_FORM = 0.97  # of all values
APART = 8.0  # deviations (MAD) from the middle
YEARS = 10.0  # from nine of ten other dates
AGAIN = 0.3  # of the words of a body, said three times or more: a manual has its phrases
WORDS = 6  # of a paragraph that is not said again by chance
_PHRASES = (
    r"\blorem +ipsum\b|\bdolor +sit +amet\b|\b(?:dummy|placeholder|filler|blind) ?text\b|"
    r"\b(?:your|insert|enter|add|type) +(?:(?:your|a|the) +)?(?:text|title|headline|content|name|description) +here\b|"
    r"\bblindtext\b"
)
_FILLER = compile_pattern(
    rf"(?im){_PHRASES}|^\W*(?:todo|tbd|tba|fixme|x{{3,}}|test(?:ing)?|untitled|new page|asdf\w*)\W*$"
)
_FILLER_PHRASE = compile_pattern(f"(?i){_PHRASES}")  # of bodies: an entry of a list may be called “test”
_STAND_IN = re.compile(
    r"(?i)(?:^|[-_.])(?:placeholder|dummy|filler|no[-_]?(?:image|photo|picture|img|pic)|"
    r"default[-_]?(?:image|photo|picture|thumb(?:nail)?)|(?:image[-_]?)?coming[-_]?soon|your[-_]?(?:image|logo))"
    r"(?:[-_.\d]|$)"
)
_BLOCKS = frozenset("p li td dd blockquote".split())


def unlike(type_: str, values: Sequence[Any]) -> dict[int, Unlike]:
    """Which of the values of a field, none of them empty, are unlike the others, by their positions."""
    if len(values) < FEWEST:
        return {}
    if type_ in ("line", "passage", "choice"):
        texts = [str(value) for value in values]
        found = _lengths([len(text) for text in texts], LONG, SHORT)
        return {**(_forms(texts) if type_ == "line" else {}), **found}
    if type_ == "list":
        return _lengths([len(value) if isinstance(value, list) else 1 for value in values], MEMBERS, 10**9)
    if type_ == "number":
        numbers = [value for value in values if isinstance(value, int | float)]
        return _far(np.array(numbers, dtype=float)) if len(numbers) == len(values) else {}
    if type_ == "date":
        return _dates(values)
    return {}


def _lengths(lengths: Sequence[int], long: int, short: int) -> dict[int, Unlike]:
    low, high = np.quantile(lengths, [0.1, 0.9])
    found = {n: Unlike.LONG for n, length in enumerate(lengths) if length > max(long, TIMES * high)}
    if low >= short:
        found |= {n: Unlike.SHORT for n, length in enumerate(lengths) if length * TIMES < low}
    return found


def _forms(texts: Sequence[str]) -> dict[int, Unlike]:
    forms = [_form(text) for text in texts]
    form, times = Counter(forms).most_common(1)[0]
    if times < SAME_FORM * len(forms) or "9" not in form:
        return {}  # without a figure in it a form is hardly more than the number of words
    return {n: Unlike.FORM for n, one in enumerate(forms) if one != form}


def _form(text: str) -> str:
    """Runs of letters, figures and blanks as one sign each; all others as they are."""
    return re.sub(r"\s+", " ", re.sub(r"[^\W\d_]+", "a", re.sub(r"\d+", "9", text)))


def _far(numbers: NDArray[np.float64]) -> dict[int, Unlike]:
    middle = np.median(numbers)
    spread = max(float(np.median(np.abs(numbers - middle))), 0.05 * abs(float(middle)), 1e-9)
    low, high = np.quantile(numbers, [0.1, 0.9])
    reach = max(APART * spread, TIMES * float(high - low))
    return {int(n): Unlike.FAR for n in np.flatnonzero(np.abs(numbers - middle) > reach)}


def _dates(values: Sequence[Any]) -> dict[int, Unlike]:
    days: list[int] = []
    for value in values:
        try:
            days.append(datetime.fromisoformat(str(value).replace("Z", "+00:00")).date().toordinal())
        except ValueError:
            return {}
    low, high = np.quantile(days, [0.1, 0.9])
    reach = max(YEARS * 365.25, TIMES * float(high - low))
    ahead = date(9000, 1, 1).toordinal()
    return {n: Unlike.FAR for n, day in enumerate(days) if day < low - reach or day > high + reach or day > ahead}


def left_over(value: Any) -> Unlike | None:
    """Whether a value was left until there is something to say: filler text, a picture that stands in."""
    if isinstance(value, str):
        return Unlike.FILLER if _FILLER.search(value) else None
    if isinstance(value, list):
        return next((why for one in value if (why := left_over(one)) is not None), None)
    if isinstance(value, dict) and "src" in value:
        return Unlike.STAND_IN if _stands_in(str(value["src"])) else None
    return None


def _stands_in(source: str) -> bool:
    """Whether a picture's file is called as those are that stand in for another."""
    return _STAND_IN.search(source.partition("?")[0].rpartition("/")[2]) is not None


def left_over_in(page: Page, nodes: Sequence[int]) -> Unlike | None:
    """Whether a body (the nodes of its region) holds filler text, the same paragraph three times, or a picture that
    stands in for another."""
    shown: list[str] = []
    for number in nodes:
        for node in page.inside(page.nodes[number]):
            if not node.tag:
                if node.visible:
                    shown.append(node.text)
            elif node.tag == "img" and _stands_in(picture_source(node.tag, node.attrs)):
                return Unlike.STAND_IN
    # of most bodies it is enough to look at their texts at once; what they say by the paragraph takes its time
    if not _FILLER_PHRASE.search(_blank(" ".join(shown))):
        again = [text for text, times in Counter(shown).items() if times > 2]
        if sum(len(text.split()) for text in again) < WORDS:
            return None
    said = _paragraphs(page, nodes)
    if _FILLER_PHRASE.search("\n".join(said)):
        return Unlike.FILLER
    lengths = {text: len(text.split()) for text in said}
    said = Counter({text: times for text, times in said.items() if lengths[text] >= WORDS})
    all_ = sum(lengths[text] * times for text, times in said.items())
    often = (lengths[text] * times for text, times in said.items() if times > 2)
    return Unlike.AGAIN if max(often, default=0) > AGAIN * all_ else None


def _blank(text: str) -> str:
    """A text with every blank a space."""
    return text.replace("\n", " ").replace("\t", " ").replace("\u00a0", " ")


def _paragraphs(page: Page, nodes: Sequence[int]) -> Counter[str]:
    """How often each text that a visitor sees is said, by the innermost block that it stands in."""
    parts: dict[int, list[str]] = {}  # texts by the innermost block that they stand in
    for number in nodes:
        open_ = [(block.last, block.n) for block in reversed(list(_blocks_around(page.nodes[number])))]
        for node in page.inside(page.nodes[number]):
            while open_ and node.n > open_[-1][0]:
                open_.pop()
            if not node.tag:
                if open_ and node.visible:
                    parts.setdefault(open_[-1][1], []).append(node.text)
            elif node.tag in _BLOCKS:
                open_.append((node.last, node.n))
    return Counter(_blank("".join(texts)).strip() for texts in parts.values())


def _blocks_around(node: Node) -> Iterator[Node]:
    """The blocks that an element stands in, the innermost first."""
    up = node.parent
    while up is not None:
        if up.tag in _BLOCKS:
            yield up
        up = up.parent
