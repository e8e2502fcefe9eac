"""The ground truth of a body: its blocks as plain lists, made from the model that its markup was written from.

Text is a list of runs [words, marks, address]: marks are ``e`` (emphasis) and ``s`` (strength), in this order; ``^`` is
the call of a note, its address the note's name; a picture in a line is [its text, "picture", its address].
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Any

from .markup import INLINE

Run = list[str]


def joined(runs: Iterable[Run]) -> list[Run]:
    """Runs of the same sort as one, blanks as one, none at the ends."""
    made: list[Run] = []
    for words, marks, address in runs:
        if made and made[-1][1:] == [marks, address]:
            made[-1][0] += words
        elif words:
            made.append([words, marks, address])
    for run in made:
        run[0] = re.sub(r"\s+", " ", run[0])
    if made:
        made[0][0] = made[0][0].lstrip()
        made[-1][0] = made[-1][0].rstrip()
    return [run for run in made if run[0]]


def _raw(text: str, style: str = "clean") -> list[Run]:
    made: list[Run] = []
    at = 0
    for match in INLINE.finditer(text):
        made.append([text[at : match.start()], "", ""])
        made.append([match[1] or match[2] or match[3], "s" if match[1] else "e" if match[2] else "", match[4] or ""])
        at = match.end()
    made.append([text[at:], "", ""])
    if style == "double":
        made = [[words.replace("£", "&pound;"), marks, address] for words, marks, address in made]
    return made


def runs(text: str, style: str = "clean") -> list[Run]:
    """A text of the model as runs."""
    return joined(_raw(text, style))


def _misnested(text: str) -> list[Run]:
    """A paragraph whose first word stands in tags that were closed in the wrong order."""
    marked = INLINE.sub(lambda m: m[0].replace(" ", "\0"), text)  # a mark is written before its words are parted
    first, blank, rest = marked.partition(" ")
    bold = [[words, "es", address] for words, _, address in _raw(first)]
    made = joined([*bold, [blank, "", ""], *_raw(rest)])
    return [[words.replace("\0", " "), marks, address] for words, marks, address in made]


def _items(items: list[Any], style: str) -> list[Any]:
    made = []
    for item in items:
        text, inner = item if isinstance(item, tuple) else (item, [])
        made.append([runs(text, style), _items(inner, style)])
    return made


def _row(row: list[Any], head: bool, style: str) -> list[list[Any]]:
    cells = (cell if isinstance(cell, tuple) else (cell, 1, 1) for cell in row)
    return [[runs(said, style), across, down, head] for said, across, down in cells]


def _one(block: tuple[Any, ...], style: str) -> list[list[Any]]:
    def text(said: str) -> list[Run]:
        return runs(said, style)

    def paragraph(said: str) -> list[list[Any]]:
        return [["Paragraph", text(said)]]

    match block:
        case ("heading", level, said):
            return [["Heading", level, text(said)]]
        case ("paragraph", said):
            return [["Paragraph", _misnested(said)]] if style == "misnested" else paragraph(said)
        case ("list", ordered, items):
            return [["List", ordered, _items(items, style)]]
        case ("table", rows):
            return [["Table", [_row(row, n == 0, style) for n, row in enumerate(rows)]]]
        case ("code", language, said):
            return [["CodeBlock", language or "", said]]
        case ("quote", said):
            return [["Quote", paragraph(said)]]
        case ("figure", src, alt, caption):
            return [["Figure", [["Picture", src, alt]], text(caption)]]
        case ("rule",):
            return [["Divider"]]
        case ("definitions", pairs):
            return [["Definitions", [[[[term, "", ""]], paragraph(meaning)] for term, meaning in pairs]]]
        case ("disclosure", summary, said) | ("fold", _, summary, said):
            return [["Disclosure", text(summary), paragraph(said)]]
        case ("embed", src, title):
            return [["Embed", "frame", src, title, "", []]]
        case ("film", src, poster, track):
            return [["Embed", "video", src, "", poster, [track]]]
        case ("file", href, said):
            return [["FileLink", href, text(said)]]
        case ("unknown", said):
            return [["Island", "rail-signal", said]]
        case ("callout", sort, title, said):
            return [["Callout", sort, text(title), paragraph(said)]]
        case ("tabs", tabs):
            return [["Tabs", [[text(label), paragraph(said)] for label, said in tabs]]]
        case ("columns", texts):
            return [["Columns", [paragraph(said) for said in texts]]]
        case ("gallery", shots):
            return [["Gallery", [[small, alt, large] for small, alt, large in shots]]]
        case ("button", href, said):
            return [["Button", href, text(said)]]
        case ("form", action, fields):
            return [["Form", action, "post", [list(field) for field in fields]]]
        case ("noted", parts, notes):
            called = [_raw(part) if isinstance(part, str) else [[part[1], "^", part[0]]] for part in parts]
            back = {name: ["\u21a9", "", f"#to-{name}"] for name, _ in notes}
            below = [[name, [["Paragraph", joined([*_raw(f"{said} "), back[name]])]]] for name, said in notes]
            return [["Paragraph", joined(run for part in called for run in part)], ["Footnotes", below]]
        case ("bullets", items):
            return [["List", False, _items(items, style)]]
        case ("pasted", items):
            return [["List", True, _items(items, style)]]
        case ("shown", src, alt):
            return [["Paragraph", [[alt, "picture", src]]]]
        case ("sized", _, large, alt, caption):
            return [["Figure", [["Picture", large, alt]], text(caption)]]
        case ("foreign", language, said):
            return [["Passage", language, paragraph(said)]]
    raise ValueError(block[0])


def outline(body: list[tuple[Any, ...]], style: str) -> list[list[Any]]:
    """A body's blocks."""
    return [made for block in body for made in _one(block, style)]
