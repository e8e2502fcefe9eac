"""The fields that a kind begins with, proposed from a few of its pages: what every system wants (title, body,
description, date, author), each only where the pages have it, and read as they have it."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from os.path import commonprefix
from typing import Any, NamedTuple

import numpy as np

from ..address import Scope
from ..errors import PatternError
from ..kinds import FieldPlan, Locator
from ..page import AROUND, HEADINGS, LEADS_AWAY, Node, Page, text_of
from ..references import picture_source, stands_in
from ..refit.page import text_hash, texts_outside
from ..refit.region import Words, find_region, words_of
from .fields import lift_field
from .locators import locate
from .pointing import own_marks, selector_of
from .repeated import groups
from .slots import Slot, is_around, slots

SOME = 0.5  # of the pages that a field must be filled on to be proposed
RESERVED = ("title", "body", "slug", "path", "old", "new", "kind", "language")  # names that mean something else
BODIES = 3  # locators of a body, at most
OFFERED = 60  # of a body that are weighed
UPWARDS = 4  # boxes around the best one of a page that are weighed as well
NEARLY = 0.1  # of the measure, and of the words found, by which the locator of other kinds may be worse than the best
WHOLE = 0.9  # of a page's own words: a locator that finds so many finds the body
MORE = 0.02  # of the measure, by which another locator has to better it
COST = 0.012  # of the measure, for what breaks easily in a selector: each position, and a step without any name
FEWEST = 15  # words of a body (on average, of one that stands beside groups and holds none of them)
LEFT = 0.03  # of the own words of a page: so many may be in neither its groups nor a body beside these
SHARED, SHARED_ON = 0.34, 3  # of the pages, and pages: a text on so many is furniture

_TITLES = ({"css": "h1"}, {"meta": "og:title"}, {"meta": "title"})
_DESCRIPTIONS = ({"meta": "description"}, {"meta": "og:description"})
_AUTHORS = (
    {"json_ld": "author.name"},
    {"meta": "author"},
    {"meta": "article:author"},
    {"css": "[rel=author]"},
    {"css": ".author"},
)
_DATES = (
    {"meta": "article:published_time"},
    {"json_ld": "datePublished"},
    {"meta": "dcterms.date"},
    {"css": "time", "attribute": "datetime"},
)
_MODIFIED = (
    {"meta": "article:modified_time"},
    {"json_ld": "dateModified"},
    {"meta": "dcterms.modified"},
    {"css": "[itemprop=dateModified]", "attribute": "datetime"},
)
_LANGUAGES = ({"css": "html", "attribute": "lang"}, {"css": "html", "attribute": "xml:lang"})
_CANONICAL = ({"css": "link[rel=canonical]", "attribute": "href"},)
_PARTS = (": ", *(f" {sign} " for sign in "|·•»/–—-"))  # what parts a site's name from the title behind it
_TAGGED = '[rel~="tag"]'
_PICTURES = ({"meta": "og:image"},)
_MARK = re.compile(r"\s?[¶§#∞🔗]$")  # of a link to a heading
_DAY: list[dict[str, Any]] = [{"replace": [r"^(\d{4}-\d\d-\d\d).*$", r"\1"]}, {"date": "%Y-%m-%d"}]


@dataclass(frozen=True, slots=True)
class FirstField:
    """A field, on how many of the pages looked at it is filled, and of how many."""

    field: FieldPlan
    filled: int
    of: int


def shared_texts(pages: Sequence[Page]) -> set[str]:
    """The texts that so many of some pages have that they are nobody's own."""
    counted = _counted(pages)
    least = max(SHARED_ON, int(SHARED * len(pages)))
    return {text for text, number in counted.items() if number >= least}


def _counted(pages: Sequence[Page]) -> Counter[str]:
    return Counter(text for page in pages for text in {" ".join(n.text.split()) for n in texts_outside(page, ())})


class FirstLook(NamedTuple):
    """What was found on pages that are made alike: fields for a kind of them, and how their bodies were told."""

    fields: list[FirstField]
    bodies: _Bodies

    def read_by(self, selector: str) -> list[FirstField]:
        """The same fields, the body by the selector of other kinds where that is nearly as good as any."""
        usual = self.bodies.by(selector)
        return [usual if usual and one.field.name == "body" else one for one in self.fields]


def first_fields(pages: Sequence[Page], site: Collection[str] = frozenset()) -> list[FirstField]:
    """Fields for pages that are made alike. A title and a body are always among them. ``site``: texts that pages of
    other makes share as well."""
    return look(pages, site).fields


def look(pages: Sequence[Page], site: Collection[str] = frozenset()) -> FirstLook:
    """The same, with how the bodies were told."""
    counted = _counted(pages)
    shared = shared_texts(pages) | set(site)
    title = _title(pages)
    head = [
        _plain(pages, "description", "passage", _DESCRIPTIONS),
        _plain(pages, "published", "date", _DATES, treat=_DAY, good=_is_day),
        _plain(pages, "modified", "date", _MODIFIED, treat=_DAY, good=_is_day),
        _plain(pages, "author", "line", _AUTHORS),
        _tags(pages),
        _plain(pages, "language", "line", _LANGUAGES, constant=True),
        _plain(pages, "canonical", "line", _CANONICAL),
        _plain(pages, "robots", "line", ({"meta": "robots"},), constant=True),
        _plain(pages, "picture", "picture", _PICTURES) or _lead_picture(pages),
    ]
    said = [one for one in head if one is not None]
    labels = {text.rstrip(" :*") for text in shared}
    found = slots(pages, {*RESERVED, *(one.field.name for one in said)}, shared | labels)
    read = [_read(page, title, [slot.nodes.get(n, []) for slot in found]) for n, page in enumerate(pages)]
    again = [text for text, number in counted.items() if number > 1]
    known = frozenset(map(text_hash, shared)), frozenset(map(text_hash, again))
    bodies = _bodies(pages, *known, read)
    repeated = groups(
        pages, {*RESERVED, *(one.field.name for one in said), *(slot.plan.name for slot in found)}, shared
    )
    found = [slot for slot in found if not any(_within(pages, slot, group) for group in repeated)]
    found = _said_once(pages, said, found) + repeated
    if repeated:
        held = [_held(page, repeated) for page in pages]
        without = [nodes | more for nodes, more in zip(read, held, strict=True)]
        beside = _bodies(pages, *known, without)
        if _stands_apart(bodies, beside, held):
            bodies = beside
    fields = [title, bodies.field(), *said, *(FirstField(slot.plan, slot.filled, len(pages)) for slot in found)]
    return FirstLook(fields, bodies)


def _said_once(pages: Sequence[Page], said: Sequence[FirstField], found: Sequence[Slot]) -> list[Slot]:
    """Slots without those that say what another or a field of the head says as well, and without lines that are but a
    box around what others are read from."""
    values = [_values(pages, one.field) for one in said]
    kept: list[Slot] = []
    for slot in found:
        if (read_ := _values(pages, slot.plan)) not in values:
            values.append(read_)
            kept.append(slot)
    read: list[set[int]] = [
        {place.node for one in said for locator in one.field.locators for place in locate(page, locator, "")}
        | {n for slot in kept for n in slot.nodes.get(k, ())}
        for k, page in enumerate(pages)
    ]

    def around(slot: Slot) -> bool:
        spans = [(k, n, pages[k].nodes[n].last) for k, nodes in slot.nodes.items() for n in nodes]
        return 2 * sum(any(n < other <= last for other in read[k]) for k, n, last in spans) > len(spans)

    return [slot for slot in kept if slot.plan.type != "line" or not around(slot)]


def _values(pages: Sequence[Page], field: FieldPlan) -> list[Any]:
    """What a field reads on each page."""
    scope = Scope(hosts=frozenset(), scheme="http")
    return [lift_field(page, field, "", "", scope).value for page in pages]


def _within(pages: Sequence[Page], slot: Slot, group: Slot) -> bool:
    """Whether the values of a slot mostly stand in the members of a group."""
    inside = [
        any(member <= n <= pages[place].nodes[member].last for member in group.nodes.get(place, ()))
        for place, nodes in slot.nodes.items()
        for n in nodes
    ]
    return 2 * sum(inside) > len(inside)


def _held(page: Page, repeated: Sequence[Slot]) -> frozenset[int]:
    """The nodes of a page that groups are read from."""
    scope = Scope(hosts=frozenset(), scheme="http")
    read = [n for group in repeated for n in lift_field(page, group.plan, "", "", scope).nodes if n >= 0]
    return frozenset(inner.n for n in read for inner in page.inside(page.nodes[n]))


def _stands_apart(all_: _Bodies, beside: _Bodies, held: Sequence[frozenset[int]]) -> bool:
    """Whether bodies without the groups of their pages are bodies by themselves: another box, with words enough, and
    next to nothing left out that no group is read from."""
    if beside.kept == all_.kept or not beside.kept:
        return False
    words = left = out = 0
    for n in range(len(all_.pages)):
        whole, part = all_.region(n), beside.region(n)
        if whole is None:
            continue
        own = np.diff(all_.words[n].own)
        words += int(own[whole.n : whole.last + 1].sum())
        if part is None:
            left += int(own[whole.n : whole.last + 1].sum())
            continue
        if not whole.n <= part.n <= part.last <= whole.last:
            return False
        out += int(own[part.n : part.last + 1].sum())
        left += sum(
            int(own[k]) for k in range(whole.n, whole.last + 1) if not part.n <= k <= part.last and k not in held[n]
        )
    return out >= FEWEST * len(all_.pages) and left <= LEFT * words


def _title(pages: Sequence[Page]) -> FirstField:
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
        if len(pages) > 2 and firsts and firsts.most_common(1)[0][1] > SHARED * firsts.total() + 1:
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


def _read(page: Page, title: FirstField, taken: Sequence[Sequence[int]]) -> frozenset[int]:
    """The nodes of a page that its title and its slots are read from."""
    places = [place for locator in title.field.locators for place in locate(page, locator, "")]
    found = [place.node for place in places if place.node >= 0]
    called = {" ".join(place.text.split()) for place in places}
    found += [n.n for n in page.nodes if n.tag in HEADINGS and " ".join(text_of(page, n).split()) in called]
    found += [n for nodes in taken for n in nodes]
    return frozenset(inner.n for n in found for inner in page.inside(page.nodes[n]))


def _plain(
    pages: Sequence[Page],
    name: str,
    type_: str,
    locators: Sequence[dict[str, str]],
    *,
    treat: Sequence[dict[str, Any]] = (),
    good: Callable[[str], bool] = bool,
    constant: bool = False,
) -> FirstField | None:
    """A field of one value a page: of the locators those that add pages to the ones before them. ``constant``: it says
    something also where it is the same on all of them."""
    field = {"name": name, "type": type_, "treat": list(treat)}
    made = FieldPlan.model_validate({**field, "locators": list(locators)})
    read: list[tuple[int, set[int]]] = []
    values: Counter[str] = Counter()
    for number, locator in enumerate(made.locators):
        on = set()
        for place, page in enumerate(pages):
            texts = [text for one in locate(page, locator, "") if (text := one.text.strip())]
            if len(texts) == 1 and good(texts[0]):
                on.add(place)
                values[texts[0]] += 1
        read.append((number, on))
    kept: list[dict[str, str]] = []
    filled: set[int] = set()
    for number, on in sorted(read, key=lambda one: -len(one[1])):  # of two that fill as many pages the plainer one
        if on - filled:
            kept.append(locators[number])
            filled |= on
    if len(filled) < SOME * len(pages) or (len(pages) > 2 and len(values) == 1 and not constant):
        return None  # hardly anywhere, or everywhere the same: said of the site, not of its pages
    return FirstField(FieldPlan.model_validate({**field, "locators": kept}), len(filled), len(pages))


def _tags(pages: Sequence[Page]) -> FirstField | None:
    """What a page is filed under, where its links say so (``rel=tag``, HTML section 4.6.7.13)."""
    read = [tuple(text_of(page, node) for node in page.select(_TAGGED) if not is_around(node)) for page in pages]
    filled = sum(map(bool, read))
    if filled < SOME * len(pages) or len(set(read)) < min(2, len(pages)):
        return None
    field = {"name": "tags", "type": "list", "locators": [{"css": _TAGGED}]}
    return FirstField(FieldPlan.model_validate(field), filled, len(pages))


def _lead_picture(pages: Sequence[Page]) -> FirstField | None:
    """The picture that stands for a page: one with a name of its own, or in a box with one, alone there on most pages,
    another from page to page."""
    on: Counter[str] = Counter()
    for page in pages:
        marks: set[str] = set()
        for node in page.nodes:
            if node.tag == "img" and node.parent is not None and not is_around(node):
                marks.update(own_marks(node))
                marks.update(f"{outer} > img" for outer in own_marks(node.parent))
        on.update(marks)
    for mark, number in sorted(on.items(), key=lambda one: (-one[1], ">" in one[0], one[0])):
        if number < max(2, SOME * len(pages)):
            break
        found = [page.select(mark) for page in pages]
        shown = [picture_source("img", nodes[0].attrs) for nodes in found if nodes]
        if (
            all(len(nodes) < 2 for nodes in found)
            and 2 * len(set(shown)) > len(shown)
            and not any(map(stands_in, shown))
        ):
            field = {"name": "picture", "type": "picture", "locators": [{"css": mark}]}
            return FirstField(FieldPlan.model_validate(field), len(shown), len(pages))
    return None


def _is_day(text: str) -> bool:
    return len(text) >= 10 and text[:4].isdigit() and text[4] == text[7] == "-" and text[5:7].isdigit()


class _Fit(NamedTuple):
    """How well a selector finds the body of a page, and the share of the page's own words that it finds."""

    measure: float
    recall: float


@dataclass(frozen=True, slots=True)
class _Bodies:
    """Pages, their own words, and the selectors by which their bodies are read best, with how each of them does."""

    pages: Sequence[Page]
    words: Sequence[Words]
    kept: list[str]
    found: Mapping[str, Sequence[_Fit | None]]

    def field(self) -> FirstField:
        """The body as a field; all of a page that has words of its own, and none of what others have."""
        without = [n for n in range(len(self.pages)) if all(self.found[s][n] is None for s in self.kept)]
        number = len(self.pages) - len(without)
        locators = [{"css": selector} for selector in self.kept or ["body"]]
        if self.kept and any(self.words[n].own[-1] >= FEWEST for n in without):
            locators.append({"css": "body"})
        field = {"name": "body", "type": "blocks", "required": True, "locators": locators}
        return FirstField(FieldPlan.model_validate(field), number, len(self.pages))

    def region(self, page: int) -> Node | None:
        """The body of a page, None where none is found."""
        for selector in self.kept:
            if self.found[selector][page] is not None:
                return self.pages[page].select(selector)[0]
        return None

    def by(self, selector: str) -> FirstField | None:
        """The body by another selector, None where that is clearly worse; of pages that have hardly a word of their own
        nothing is."""
        fits = [_measure(page, own, selector) for page, own in zip(self.pages, self.words, strict=True)]
        here = [_first(self.found, self.kept, n) for n in range(len(self.pages))]
        worse = [sum(one[k] for one in here) - sum(fit[k] for fit in fits if fit) for k in range(2)]
        bare = sum(int(words.own[-1]) for words in self.words) < FEWEST * len(self.pages)
        if not all(fits) or (not bare and max(worse) > NEARLY * len(self.pages)):
            return None
        return replace(self, kept=[selector], found={selector: fits}).field()


def _bodies(
    pages: Sequence[Page], shared: frozenset[int], again: frozenset[int], read: Sequence[frozenset[int]]
) -> _Bodies:
    """How bodies are read: of the boxes that any of the pages offers those whose selector finds the own words of most
    pages for the fewest others. Texts that many of the pages have (``shared``), and what other fields are read from,
    are not of the body."""
    words = [words_of(page, shared, nodes, again) for page, nodes in zip(pages, read, strict=True)]
    best = [find_region(page, found) for page, found in zip(pages, words, strict=True)]
    offered: dict[str, None] = {}
    for page, node in zip(pages, best, strict=True):
        for up in _upwards(node):
            if up.n != page.body.n:
                offered.update(dict.fromkeys(_names(page, up)))
    found: dict[str, list[_Fit | None]] = {}
    for selector in sorted(list(offered)[:OFFERED], key=lambda one: (_loose(one), len(one), one)):
        found[selector] = [_measure(page, own, selector) for page, own in zip(pages, words, strict=True)]
    return _Bodies(pages, words, _in_turn(found, len(pages)), found)


def _in_turn(found: Mapping[str, Sequence[_Fit | None]], pages: int) -> list[str]:
    """Of selectors, with how well each finds the body on every page (None where it finds nothing), those that do best
    when they are tried in turn: one, and more while each is worth its while. Another one is worth what it finds where
    those before it find none of the body, or a part; that it fits a page closer is chance."""
    kept: list[str] = []
    most = 0.0
    while len(kept) < BODIES:
        best: list[str] = []
        best_value = most + (0.0 if not kept else MORE * pages)
        had = [_first(found, kept, n) for n in range(pages)]
        for selector in found:
            for at in range(len(kept), -1, -1):
                tried = [*kept[:at], selector, *kept[at:]]
                value = 0.0
                for n, before in enumerate(had):
                    now = _first(found, tried, n).measure
                    value += min(now, before.measure) if before.recall >= WHOLE else now
                value -= COST * pages * sum(map(_loose, tried))
                if value > best_value + 1e-6:
                    best, best_value = tried, value
        if not best:
            break
        kept, most = best, best_value
    return kept


def _first(found: Mapping[str, Sequence[_Fit | None]], kept: Sequence[str], page: int) -> _Fit:
    """How well the first of some selectors that finds anything on a page finds the body."""
    return next((fit for selector in kept if (fit := found[selector][page]) is not None), _Fit(0.0, 0.0))


def _loose(selector: str) -> float:
    return (
        selector.count(":nth")
        + 0.3 * bool(re.search(r"\d{2}", selector))
        + (not re.search(r"[.#]|^(?:main|article)$", selector))
    )


def _upwards(node: Node) -> Iterator[Node]:
    """An element and those it stands in, a few of them."""
    up: Node | None = node
    for _ in range(UPWARDS):
        if up is None or up.tag in ("body", "html"):
            return
        yield up
        up = up.parent


def _names(page: Page, node: Node) -> Iterator[str]:
    """Selectors by which an element may be told apart: its own names (what they are worth is told on other pages), its
    tag, and the plainest that finds it here."""
    yield from own_marks(node, any_name=True)
    if node.tag in ("main", "article"):
        yield node.tag
    plain = selector_of(page, node.n)
    yield plain
    if ">" in plain and not plain.endswith(")") and node.parent is not None:  # which of several, should there be some
        same = [n for n in node.parent.children if n.tag == node.tag]
        yield f"{plain}:nth-of-type({same.index(node) + 1})"


def _measure(page: Page, words: Words, selector: str) -> _Fit | None:
    """How well what a selector finds is a page's own content: not at all where it finds several, None where it finds
    none."""
    try:
        found = page.select(selector)
    except PatternError:
        return None
    if not found:
        return None
    return _Fit(words.measure(found[0]), words.recall(found[0])) if len(found) == 1 else _Fit(0.0, 0.0)
