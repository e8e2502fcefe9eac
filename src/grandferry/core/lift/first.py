"""The fields that a kind begins with, proposed from a few of its pages: what every system wants (title, body,
description, date, author), each only where the pages have it, and read as they have it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Sequence
from typing import Any, NamedTuple

import numpy as np

from ..address import Scope
from ..kinds import FieldPlan
from ..page import HEADINGS, Page, text_of
from ..references import picture_source, stands_in
from ..refit.page import text_hash, texts_outside
from .bodies import FEWEST, Bodies, bodies_of
from .fields import lift_field
from .firstfield import SOME, FirstField
from .locators import locate
from .pointing import own_marks
from .repeated import groups
from .slots import Slot, is_around, slots
from .title import title_of

RESERVED = ("title", "body", "slug", "path", "old", "new", "kind", "language")  # names that mean something else
LEFT = 0.03  # of the own words of a page: so many may be in neither its groups nor a body beside these
SHARED, SHARED_ON = 0.34, 3  # of the pages, and pages: a text on so many is furniture

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
_TAGGED = '[rel~="tag"]'
_PICTURES = ({"meta": "og:image"},)
_DAY: list[dict[str, Any]] = [{"replace": [r"^(\d{4}-\d\d-\d\d).*$", r"\1"]}, {"date": "%Y-%m-%d"}]


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
    bodies: Bodies

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
    title = title_of(pages)
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
    bodies = bodies_of(pages, *known, read)
    repeated = groups(
        pages, {*RESERVED, *(one.field.name for one in said), *(slot.plan.name for slot in found)}, shared
    )
    found = [slot for slot in found if not any(_within(pages, slot, group) for group in repeated)]
    found = _said_once(pages, said, found) + repeated
    if repeated:
        held = [_held(page, repeated) for page in pages]
        without = [nodes | more for nodes, more in zip(read, held, strict=True)]
        beside = bodies_of(pages, *known, without)
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
        read_ = _values(pages, slot.plan)
        if read_ not in values or len(pages) < SHARED_ON:  # on one page or two they may by chance
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


def _stands_apart(all_: Bodies, beside: Bodies, held: Sequence[frozenset[int]]) -> bool:
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
