"""Teaching by example: from places that somebody pointed at on pages of a kind, locators that read the same thing on
all of them.

Every way to name a place is a candidate: names of the element and of what it stands in, the element before it, a label
beside it, what the head and the declarations of the page say in the same words, and its position. Each is tried on all
pages given, and those win that agree with the examples, find one place on each page, and hang neither on names that
look generated nor on counting.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any, NamedTuple

from pydantic import ValidationError

from ..errors import PatternError
from ..kinds import ADDRESSES, FieldPlan, Locator
from ..page import HEADINGS, Node, Page, text_of
from .locators import MOST_THINGS, Place, declared, locate, tidy
from .pointing import REACH, generated, own_marks, selector_of, tag_of
from .repeated import group_at
from .slots import called
from .written_as import type_of

MOST = 200  # candidates of an example
KEPT = 3  # offers: the best and its runners-up
IN_TURN = 12  # candidates that are tried one after the other, where none agrees with all examples
LABEL = 6  # words of a label
SAID = 14  # words of a text that the head may say as well
OUTER = frozenset("main article header footer aside section table ul ol dl figure".split())
_VALUE = re.compile(r"[A-Za-z][\w:.-]*\Z")
_NAMING = ("itemprop", "property", "rel", "data-field", "data-role", "name")  # attributes that say what a thing is
_COUNTING = re.compile(r":nth-|:first-|:last-")


class Example(NamedTuple):
    """A place that was pointed at: the position of its page among those given, the number of its node."""

    page: int
    node: int


@dataclass(slots=True)
class Offer:
    """Locators tried in turn; ``agreed`` with so many examples. ``one``, ``none``, ``several``: positions of pages on
    which they find one place, none, more than one (of a list, more than one is ``one``)."""

    locators: list[Locator]
    agreed: int
    one: list[int] = field(default_factory=list)
    none: list[int] = field(default_factory=list)
    several: list[int] = field(default_factory=list)
    name: str = ""  # what a field read so may be called
    type: str = "line"
    treat: list[dict[str, Any]] = field(default_factory=list)
    parts: list[dict[str, Any]] = field(default_factory=list)
    value: float = 0.0


Found = Sequence[Place]


def teach(pages: Sequence[Page], keys: Sequence[str], examples: Sequence[Example], type_: str) -> list[Offer]:
    """What may be read by, the best first, for a field of a type; nothing where nothing agrees with an example.
    ``keys``: of the pages' addresses."""
    if type_ == "group":
        return _groups(pages, examples)
    several = type_ == "list"
    empty = type_ in ("picture", "blocks", *ADDRESSES)  # types of what may be found where no text is

    def read(locator: Locator) -> list[Found]:
        found: list[Found] = []
        for page, key in zip(pages, keys, strict=True):
            try:
                found.append([place for place in locate(page, locator, key) if empty or place.text.strip()])
            except PatternError:
                found.append([])
        return found

    candidates: dict[str, Locator] = {}
    for example in examples:
        page = pages[example.page]
        node = _element(page, example.node)
        for offered in list(_offered(page, node, type_))[:MOST]:
            candidates.setdefault(offered.model_dump_json(exclude_none=True), offered)
    tried: list[tuple[Offer, list[Found]]] = []
    for locator in candidates.values():
        if not any(_agrees(pages, example, _on(pages, keys, example, locator, empty), several) for example in examples):
            continue
        found = read(locator)
        tried.append((_offer(pages, [locator], found, examples, several), found))
    tried.sort(key=lambda one: (-one[0].agreed, -one[0].value, one[0].locators[0].model_dump_json()))
    best = max((offer.agreed for offer, _ in tried), default=0)
    if 0 < best < len(examples):
        tried = [*_in_turn(pages, tried, examples, several), *tried]
        tried.sort(key=lambda one: (-one[0].agreed, -one[0].value))
    kept: dict[str, tuple[Offer, list[Found]]] = {}
    for one in tried:
        if len(kept) < KEPT:
            kept.setdefault(_by(one[0]), one)  # a runner-up is another way, not the same name with more before it
    for offer, found in kept.values():
        offer.name = _called(offer.locators[0])
        texts = [one[0].text.strip() for one in found if one]
        if type_ in ("line", "date", "number") and texts:
            offer.type, offer.treat = type_of(texts, figures=type_ == "number")
        else:
            offer.type = type_
    return [offer for offer, _ in kept.values()]


def _by(offer: Offer) -> str:
    """What an offer reads by, what an element stands in left aside."""
    ways = (one.css.split()[-1] if one.css is not None else one.model_dump_json() for one in offer.locators)
    return " ".join(ways)


def _called(locator: Locator) -> str:
    """A name for what is read, from the names that it is read by; "" when they say nothing."""
    said = locator.label or locator.meta or locator.json_ld or ""
    if locator.css is not None:
        names = [name for pair in re.findall(r'="([^"]+)"|[.#]([\w-]+)', locator.css) for name in pair if name]
        said = next((name for name in reversed(names) if not generated(name)), "")
        if not said and re.search(r"(?:^|\s)h1$", locator.css):
            said = "title"
    return called(re.split(r"[.:]", said)[-1])


def _on(pages: Sequence[Page], keys: Sequence[str], example: Example, locator: Locator, empty: bool) -> Found:
    try:
        found = locate(pages[example.page], locator, keys[example.page])
    except PatternError:
        return []
    return [place for place in found if empty or place.text.strip()]


def _element(page: Page, number: int) -> Node:
    """The element with a number; of a text the one that it stands in. Raises IndexError."""
    node = page.nodes[number]
    return node if node.tag or node.parent is None else node.parent


def _offer(
    pages: Sequence[Page], locators: list[Locator], found: Sequence[Found], examples: Sequence[Example], several: bool
) -> Offer:
    offer = Offer(locators, sum(_agrees(pages, one, found[one.page], several) for one in examples))
    for place, places in enumerate(found):
        into = offer.none if not places else offer.several if len(places) > 1 and not several else offer.one
        into.append(place)
    texts = [places[0].text for places in found if places]
    offer.value = len(offer.one) / max(1, len(pages)) - sum(map(_cost, locators))
    if len(texts) > 3 and len(set(texts)) == 1:
        offer.value -= 0.3  # it says the same on every page: of the site, not of the page
    if several:  # all that stand beside what was pointed at, and nothing that stands elsewhere
        beside = sum(_beside(page, places) for page, places in zip(pages, found, strict=True))
        offer.value += beside / max(1, len(offer.one)) - 1 + 0.2 * any(len(found[one.page]) > 1 for one in examples)
    return offer


def _beside(page: Page, places: Found) -> bool:
    """Whether places stand in one element, each by itself or in an element of its own."""
    if not places or places[0].node < 0:
        return bool(places)
    holders = [page.nodes[place.node].parent for place in places]
    above = [holder.parent if holder is not None else None for holder in holders]
    return all(one is holders[0] for one in holders) or all(one is above[0] for one in above)


def _cost(locator: Locator) -> float:
    """What speaks against a way of reading: counting, generated names, names that anything may have."""
    if locator.css is None:
        return 0.02 if locator.label is not None else 0.06  # what a reader sees before what is said beside it
    css = locator.css
    names = re.findall(r"[.#]([\w-]+)", css)
    plain = not names and "[" not in css and css not in ("main", "article", "h1")
    steps = len(re.findall(r"[\s>+]+", css))
    return 0.06 * len(_COUNTING.findall(css)) + 0.05 * sum(map(generated, names)) + 0.03 * plain + 0.012 * steps + 0.01


def _agrees(pages: Sequence[Page], example: Example, places: Found, several: bool) -> bool:
    """Whether what was found on an example's page is what was pointed at."""
    page = pages[example.page]
    node = _element(page, example.node)
    if not places or (len(places) > 1 and not several):
        return False
    meant = tidy(text_of(page, node))
    for place in places:
        said = tidy(place.text)
        if place.node == node.n or (said and said == meant):
            return True
        beside = place.node >= 0 and page.nodes[place.node].n <= node.n <= page.nodes[place.node].last
        within = node.n <= place.node <= node.last
        if said and said in meant and (within or beside) and 2 * len(said) > len(meant):
            return True
    return False


def _in_turn(
    pages: Sequence[Page], tried: Sequence[tuple[Offer, list[Found]]], examples: Sequence[Example], several: bool
) -> list[tuple[Offer, list[Found]]]:
    """Two ways of reading, the second where the first finds nothing, that agree with more examples than either."""
    made: list[tuple[Offer, list[Found]]] = []
    most = tried[0][0].agreed
    for first, found in tried[:IN_TURN]:
        missed = [one for one in examples if not _agrees(pages, one, found[one.page], several)]
        others = [
            (offer, read)
            for offer, read in tried
            if any(_agrees(pages, one, read[one.page], several) for one in missed)
        ]
        for second, read in others[:IN_TURN]:
            both = [a or b for a, b in zip(found, read, strict=True)]
            offer = _offer(pages, [*first.locators, *second.locators], both, examples, several)
            if offer.agreed > most:
                made.append((offer, both))
    return made


def _offered(page: Page, node: Node, type_: str) -> Iterator[Locator]:
    """The ways by which a place may be named; what would be no locator (elements that a selector cannot name) is left
    out."""
    for given in _ways(page, node, type_):
        try:
            yield Locator.model_validate(given)
        except ValidationError:
            continue


def _ways(page: Page, node: Node, type_: str) -> Iterator[dict[str, str]]:
    if type_ not in ("picture", "blocks"):
        yield from ({"label": label} for label in dict.fromkeys(_labels(page, node)))
        text = tidy(text_of(page, node))
        if text and len(text.split()) <= SAID:
            for meta in page.nodes:
                name = meta.get("property") or meta.get("name") or meta.get("itemprop") if meta.tag == "meta" else ""
                if name and tidy(meta.get("content")) == text:
                    yield {"meta": name}
            yield from ({"json_ld": path} for path in _declared(page, text))
    dated = type_ in ("line", "date") and bool(node.get("datetime"))
    for selector in dict.fromkeys(_selectors(page, node)):
        if dated:
            yield {"css": selector, "attribute": "datetime"}
        yield {"css": selector}


def _naming(node: Node) -> Iterator[str]:
    """The ways to name an element by itself: attributes that say what it is, its id and classes."""
    for name in _NAMING:
        if _VALUE.match(value := node.get(name)):
            yield f'{tag_of(node)}[{name}="{value}"]'
    yield from own_marks(node, any_name=True)


def _selectors(page: Page, node: Node) -> Iterator[str]:
    named = list(_naming(node))
    yield from named
    own = [*named, tag_of(node)]
    if node.tag in OUTER or node.tag in HEADINGS or node.tag == "time":
        yield node.tag
    before = _before(node)
    if before is not None:
        for mark in [*_naming(before), *([before.tag] if before.tag in HEADINGS else [])]:
            yield from (f"{mark} + {one}" for one in own)
    position = _position(node)
    below = ""  # the way down from what is looked at to the element's parent
    up, depth = node.parent, 0
    while up is not None and up.tag not in ("html", "body") and depth < REACH:
        for outer in [*_naming(up), *([up.tag] if up.tag in OUTER else [])]:
            yield from (f"{outer} {one}" for one in own)
            yield from (f"{outer} >{below} {one}" for one in dict.fromkeys([*own, position]))
            if position != tag_of(node):
                yield f"{outer} {position}"
        below = f" {tag_of(up)} >{below}"
        up, depth = up.parent, depth + 1
    yield selector_of(page, node.n)
    if node.parent is not None and node.parent.tag not in ("html", "body"):  # with those beside it
        yield from (f"{selector_of(page, node.parent.n)} > {one}" for one in own)
        path, up = [*([_position(node.parent)]), tag_of(node)], node.parent.parent
        while up is not None and up.tag != "html" and len(path) < 4 * REACH:
            path.insert(0, "body" if up.tag == "body" else _position(up))
            up = up.parent
        yield " > ".join(path)


def _position(node: Node) -> str:
    """An element by its tag, and its place among those of that tag where there are several."""
    same = [n for n in (node.parent.children if node.parent else []) if n.tag == node.tag]
    if len(same) < 2 or tag_of(node) == "*":
        return tag_of(node)
    at = same.index(node)
    return f"{node.tag}:last-of-type" if at == len(same) - 1 and at > 1 else f"{node.tag}:nth-of-type({at + 1})"


def _before(node: Node) -> Node | None:
    """The element before one, with no words between them."""
    siblings = node.parent.children if node.parent is not None else []
    for sibling in reversed(siblings[: siblings.index(node)] if node.parent is not None else []):
        if sibling.tag:
            return sibling
        if sibling.text.strip():
            return None
    return None


def _labels(page: Page, node: Node) -> Iterator[str]:
    """What may be the label of an element's text: what stands before it, in a cell, a term or a line of its own, or
    begins its own text."""
    first = next((n for n in page.inside(node) if not n.tag and n.text.strip()), None)
    if first is not None:
        label, colon, rest = first.text.partition(":")
        if colon and (rest.strip() or first.parent is not node):
            yield from _label(label)
    up: Node | None = node
    for _ in range(3):
        if up is None or up.parent is None:
            return
        before = _before(up)
        if before is not None:
            yield from _label(text_of(page, before))
        for sibling in reversed(up.parent.children[: up.parent.children.index(up)]):
            if not sibling.tag and sibling.text.strip():
                yield from _label(sibling.text)
                break
        up = up.parent


def _label(text: str) -> Iterator[str]:
    label = " ".join(text.split()).rstrip(" :*")
    if label and len(label.split()) <= LABEL and any(c.isalpha() for c in label):
        yield label


def _declared(page: Page, text: str) -> Iterator[str]:
    """The paths of names at which what a page declares (JSON-LD) says a text."""
    for node in page.nodes:
        if node.tag != "script" or node.get("type").lower() != "application/ld+json":
            continue
        for thing in declared("".join(child.text for child in node.children)):
            said = thing.get("@type")
            prefix = f"{said}." if isinstance(said, str) and "." not in said else ""
            yield from (prefix + path for path in _paths(thing, text, 0))


def _paths(value: dict[str, Any], text: str, depth: int) -> Iterator[str]:
    for name, inner in list(value.items())[:MOST_THINGS]:
        if name.startswith("@") or "." in name or not name.strip():
            continue
        for one in inner if isinstance(inner, list) else [inner]:
            if isinstance(one, dict) and depth < 4:
                yield from (f"{name}.{path}" for path in _paths(one, text, depth + 1))
            elif (
                isinstance(one, str | int | float)
                and tidy(str(one) if isinstance(one, str) else json.dumps(one)) == text
            ):
                yield name


def _groups(pages: Sequence[Page], examples: Sequence[Example]) -> list[Offer]:
    """Groups of repeated parts, of each of which a member, or something in it, was pointed at."""
    offers = []
    for plan, on in group_at(pages, [(one.page, _element(pages[one.page], one.node)) for one in examples]):
        agreed = sum(_holds(pages, one, plan) for one in examples)
        made = Offer(plan.locators, agreed, type="group", parts=[p.model_dump(exclude_none=True) for p in plan.parts])
        made.one = on
        made.none = [place for place in range(len(pages)) if place not in set(on)]
        made.value = len(on) / max(1, len(pages)) + 0.02 * len(plan.parts) - sum(map(_cost, plan.locators))
        offers.append(made)
    key: Callable[[Offer], Any] = lambda one: (-one.agreed, -one.value)  # noqa: E731
    return sorted(offers, key=key)[:KEPT]


def _holds(pages: Sequence[Page], example: Example, plan: FieldPlan) -> bool:
    page = pages[example.page]
    node = _element(page, example.node)
    return any(
        page.nodes[place.node].n <= node.n <= page.nodes[place.node].last
        for locator in plan.locators
        for place in locate(page, locator, "")
    )
