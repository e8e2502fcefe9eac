"""How Markdown says what it has no mark for: a choice for each such construct, the first of them by default.

``plain``: in marks that every reader of Markdown knows, where a visitor sees the same; ``html``: in tags; ``marked``:
in a mark that some dialects have; ``report``: left out, and counted.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum


class WrittenAs(StrEnum):
    PLAIN = "plain"
    HTML = "html"
    MARKED = "marked"
    REPORT = "report"


class Odd(StrEnum):
    """What CommonMark and GFM have no mark for."""

    ANCHORS = "anchors"  # plain: an empty tag in the line; marked: {#id} behind a heading
    DEFINITIONS = "definitions"  # plain: a list with the terms in bold; marked: a colon before each meaning
    ROW_HEADERS = "row_headers"  # plain: in bold
    SPANS = "spans"  # plain: the cells beside or below stay empty
    CELL_BLOCKS = "cell_blocks"  # lists, code, paragraphs in a cell; plain: tags around their Markdown
    CAPTIONS = "captions"  # plain: a line of its own
    SIZES = "sizes"  # of pictures; plain: left to the file, and counted
    CODE_LINKS = "code_links"  # plain: left out, and counted
    FOLDING = "folding"  # html: tags around the Markdown within; plain: the line in bold, and what it opens
    PASSAGES = "passages"  # in another language or direction; html: tags around the Markdown within
    EMBEDS = "embeds"  # plain: a link
    CALLOUTS = "callouts"  # plain: a quotation, its head in bold; marked: [!NOTE] at the head of a quotation
    TABS = "tabs"  # plain: each panel below its label in bold
    COLUMNS = "columns"  # plain: one below the other
    GALLERIES = "galleries"  # plain: one picture below the other
    BUTTONS = "buttons"  # plain: a link
    FOOTNOTES = "footnotes"  # plain: a list, with links there and back; marked: [^1]
    FORMS = "forms"
    ISLANDS = "islands"  # plain: their words
    MARKS = "marks"  # of lines, such as sub and kbd; html: tags around Markdown; plain: their words


_P, _H, _M, _R = WrittenAs.PLAIN, WrittenAs.HTML, WrittenAs.MARKED, WrittenAs.REPORT
CHOICES: dict[Odd, tuple[WrittenAs, ...]] = {
    Odd.ANCHORS: (_P, _M, _R),
    Odd.DEFINITIONS: (_P, _H, _M),
    Odd.ROW_HEADERS: (_P, _H),
    Odd.SPANS: (_H, _P),
    Odd.CELL_BLOCKS: (_P, _H),
    Odd.CAPTIONS: (_P, _H),
    Odd.SIZES: (_P, _H),
    Odd.CODE_LINKS: (_H, _P),
    Odd.FOLDING: (_H, _P),
    Odd.PASSAGES: (_H, _P),
    Odd.EMBEDS: (_H, _P, _R),
    Odd.CALLOUTS: (_P, _M, _H),
    Odd.TABS: (_P, _H),
    Odd.COLUMNS: (_P, _H),
    Odd.GALLERIES: (_P, _H),
    Odd.BUTTONS: (_P, _H),
    Odd.FOOTNOTES: (_P, _M),
    Odd.FORMS: (_H, _R),
    Odd.ISLANDS: (_H, _P, _R),
    Odd.MARKS: (_H, _P),
}
DEFAULTS: Mapping[Odd, WrittenAs] = {odd: choices[0] for odd, choices in CHOICES.items()}


@dataclass(slots=True)
class Writer:
    """One text being written: its choices, the words that stand in blocks of raw HTML, and what was left out by
    choice, each by how often. ``older``: for readers of before CommonMark, which want two blanks for a line's end, four
    for what stands in an item, know no mark for struck out text, and take a backslash before fewer characters;
    ``within``: in so many lists and quotations what is written next stands."""

    choices: Mapping[Odd, WrittenAs] = field(default_factory=lambda: DEFAULTS)
    older: bool = False
    within: int = 0
    raw_words: int = 0
    left_out: Counter[Odd] = field(default_factory=Counter)

    def takes(self, odd: Odd) -> WrittenAs:
        return self.choices.get(odd) or DEFAULTS[odd]

    def plain(self, odd: Odd) -> bool:
        return self.takes(odd) is WrittenAs.PLAIN
