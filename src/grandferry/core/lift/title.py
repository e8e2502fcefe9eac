"""How the titles of pages that are made alike are read."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from os.path import commonprefix
from typing import Any

from ..kinds import FieldPlan, Locator
from ..page import AROUND, HEADING_SIGNS, LEADS_AWAY, PARTING_SIGNS, Page, text_of
from .firstfield import SOME, FirstField
from .locators import locate
from .pointing import own_marks

SITES = 0.34  # of the pages: a title that so many have is the site's name
_TITLES = ({"css": "h1"}, {"meta": "og:title"}, {"meta": "title"})
_PARTS = (": ", *(f" {sign} " for sign in PARTING_SIGNS))  # what parts a site's name from the title behind it
_MARK = re.compile(rf"\s?[{HEADING_SIGNS}]$")


def title_of(pages: Sequence[Page]) -> FirstField:
    """The title: what the page itself says before what its head does, each where it differs from page to page; without
    the mark of a link to the heading, and the site's name behind the title."""
    first = {"css": _heading(pages)}
    made = FieldPlan.model_validate({"name": "title", "type": "line", "locators": [first, *_TITLES[1:]]})
    kept: list[Locator] = []
    filled: set[int] = set()
    values: list[str] = []
    for locator in made.locators:
        read = [[one.text.strip() for one in locate(page, locator, "") if one.text.strip()] for page in pages]
        firsts = Counter(one[0] for one in read if one)
        if len(pages) > 2 and firsts and firsts.most_common(1)[0][1] > SITES * firsts.total() + 1:
            continue  # the site's name
        new = {place for place, one in enumerate(read) if one} - filled
        if new:
            kept.append(locator)
            values += [read[place][0] for place in sorted(new)]
            filled |= new
    treat: list[dict[str, Any]] = []
    if 2 * sum(bool(_MARK.search(value)) for value in values) > len(values):
        treat.append({"replace": [_MARK.pattern, ""]})
    head = made.locators[-1]
    if head in kept and (behind := _behind([one.text for page in pages for one in locate(page, head, "")])):
        treat.append({"replace": [f"{re.escape(behind)}$", ""]})
    if head in kept and (before := _before([one.text for page in pages for one in locate(page, head, "")])):
        treat.append({"replace": [f"^{re.escape(before)}", ""]})
    field = {"name": "title", "type": "line", "required": True, "treat": treat}
    locators = [locator.model_dump(exclude_none=True) for locator in kept or made.locators[:1]]
    return FirstField(FieldPlan.model_validate({**field, "locators": locators}), len(filled), len(pages))


def _heading(pages: Sequence[Page]) -> str:
    """A selector for the heading of a page: ``h1``, or where pages have several, one of those in a box with a name that
    is alone there on every page, the more the better, if possible another one from page to page."""
    heads = [page.select("h1") for page in pages]
    several = sum(len(found) > 1 for found in heads)
    if several < SOME * len(pages):
        return "h1"
    boxes: Counter[str] = Counter()
    for found in heads:
        marks: dict[str, None] = {}
        for node in found:
            up = node.parent
            while up is not None and up.tag not in ("body", "html"):
                if up.tag not in AROUND:
                    marks.update(dict.fromkeys(own_marks(up)))
                up = up.parent
        boxes.update(marks.keys())
    alone = "h1"
    for mark, number in sorted(boxes.items(), key=lambda one: (-one[1], bool(LEADS_AWAY.search(one[0])), one[0])):
        if number < several:
            break
        selector = f"{mark} h1"
        read = [page.select(selector) for page in pages]
        said = [text_of(page, nodes[0]) for page, nodes in zip(pages, read, strict=True) if nodes]
        if all(len(nodes) < 2 for nodes in read):
            if 2 * len(set(said)) > len(said):
                return selector
            alone = selector if alone == "h1" else alone
    return alone


def _behind(titles: Sequence[str]) -> str:
    """What stands behind the title on all pages, from a sign that parts it on, or in brackets: a site's name."""
    tidy = [" ".join(title.split()) for title in titles]
    if len(set(tidy)) < 2:
        return ""
    end = commonprefix([title[::-1] for title in tidy])[::-1]
    match = re.search(r"\s(?:[|·•:»/\\–—-]|::)\s\S.*$|\s(?:\([^()]+\)|\[[^\[\]]+\])$", end)
    return match[0] if match and any(title != match[0].strip() for title in tidy) else ""


def _before(titles: Sequence[str]) -> str:
    """What stands before the title on all pages, up to a sign that parts it: a site's name."""
    tidy = [" ".join(title.split()) for title in titles]
    if len(set(tidy)) < 2:
        return ""
    start = commonprefix(tidy)
    ends = max(start.rfind(sign) + len(sign) if sign in start else 0 for sign in _PARTS)
    return start[:ends] if any(map(str.isalnum, start[:ends])) else ""
