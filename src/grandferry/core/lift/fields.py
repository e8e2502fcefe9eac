"""Reading one field of one page: locators in order, treatments, and the type's own check."""

from __future__ import annotations

import functools
import re
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from ..address import Scope, fragment_of
from ..base import base_of
from ..kinds import ADDRESSES, FieldPlan, KindPlan
from ..page import Page
from ..refit.page import outermost, region_of
from ..survey.secrets import Masks
from .locators import Place, locate
from .members import members
from .treatments import TreatmentFailed, default_of, joins, treat
from .types import picture, typed
from .unlike import left_over, left_over_in
from .value import SAYS_ITS_WORDS, Value

_ATTRIBUTE = re.compile(r"@[\w:*-]+\s*$")  # at the end of an XPath
_WITHOUT_TEXT = ("picture", "blocks", "group", *ADDRESSES)  # types of what may be found where no text is


def _address(page: Page, field: FieldPlan, place: Place, base: str, scope: Scope) -> tuple[str | None, str]:
    """The address that an element leads to (of one that does not, the first link in it), or that was read as a text,
    and what is odd about it."""
    raw = place.text
    if place.node >= 0 and not (field.locators and any(one.attribute for one in field.locators)):
        node = page.nodes[place.node]
        names = (n.get("href") or n.get("src") or n.get("data") for n in page.inside(node) if n.tag)
        raw = next((name for name in names if name), raw)
    try:
        raw = str(treat(raw.strip(), field.treat))
    except TreatmentFailed as problem:
        return raw.strip() or None, str(problem)
    if not raw:
        return None, ""
    address = scope.normal(raw, base_of(page, base, scope))
    if address is None:
        return raw, "no address"
    if field.type == "reference" and not scope.is_ours(address.host):
        return str(address), "leads to no page of the old site"
    fragment = fragment_of(raw)
    return str(address) + (f"#{fragment}" if fragment else ""), ""


def lift_field(page: Page, field: FieldPlan, key: str, base: str, scope: Scope, masks: Masks | None = None) -> Value:
    """One field of one page. ``base``: the address pictures are joined to; ``masks``: of keys in the page's code."""
    value = _lifted(page, field, key, base, scope)
    if value.value is not None:
        why = left_over_in(page, value.value["nodes"]) if field.type == "blocks" else left_over(value.value)
        value = replace(value, unlike=why or "", beside=_beside(field, value.locator))
    if not masks or field.type == "blocks":
        return value
    return replace(value, value=masks.value(value.value), note=masks.text(value.note))


def _beside(field: FieldPlan, number: int) -> bool:
    """Whether a locator reads something else of an element than its words."""
    if field.type in ADDRESSES or number < 0:
        return True
    locator = field.locators[number]
    if locator.attribute:
        return locator.attribute not in SAYS_ITS_WORDS
    return bool(locator.xpath and _ATTRIBUTE.search(locator.xpath))


def _lifted(page: Page, field: FieldPlan, key: str, base: str, scope: Scope) -> Value:
    made = functools.partial(Value, field.name, field.type)
    for number, locator in enumerate(field.locators):
        places = [p for p in locate(page, locator, key) if field.type in _WITHOUT_TEXT or p.text.strip()]
        if not places:
            continue
        if field.type in ("blocks", "group", "picture"):
            places = [place for place in places if place.node >= 0]  # they stand on the page itself
            if not places:
                continue
        nodes = tuple(p.node for p in places)
        many = len(places) > 1 and field.type not in ("list", "blocks", "group")
        if field.type == "blocks":
            region = region_of(page, outermost([page.nodes[n] for n in nodes]))
            return made({"nodes": list(region.nodes), "words": region.words}, number, region.nodes, "filled")
        if field.type == "group":
            held, places_of = members(page, field.parts, nodes, base, scope)
            if not held:
                continue
            return made(held, number, places_of, "filled")
        if field.type == "picture":
            pictures = [v for v in (picture(page, p.node, base, scope) for p in places) if v]
            if not pictures:
                continue
            return made(pictures[0], number, nodes, "many" if _differ(pictures) else "filled")
        if field.type in ADDRESSES:
            led = [found for p in places if (found := _address(page, field, p, base, scope))[0] is not None]
            if not led:
                continue
            many = _differ([address for address, _ in led])
            note = led[0][1] or (f"{len(led)} places match; the first is taken" if many else "")
            return made(led[0][0], number, nodes, "odd" if led[0][1] else "many" if many else "filled", note)
        try:
            if joins(field.treat):
                values, many = [treat([p.text for p in places], field.treat)], False
            else:
                values = [treat(p.text, field.treat) for p in places]
                many = many and _differ(values)
        except TreatmentFailed as problem:
            return made(places[0].text.strip(), number, nodes, "odd", str(problem))
        value, odd = typed(field.type, values, field.choices)
        if value is None:
            continue
        note = odd or (f"{len(places)} places match; the first is taken" if many else "")
        return made(value, number, nodes, "odd" if odd else "many" if many else "filled", note)
    if (default := default_of(field.treat)) is not None:
        value, odd = typed(field.type, [default], field.choices)
        return made(value, -1, (), "odd" if odd else "filled", odd)
    return made(None, -1, (), "empty", "required" if field.required else "")


def _differ(values: Sequence[Any]) -> bool:
    """Whether several places say different things; one thing said twice is one value."""
    return any(value != values[0] for value in values[1:])


def treated(page: Page, field: FieldPlan, key: str) -> list[Any]:
    """What the first locator that finds anything reads on a page, and that after each of the field's treatments; what
    a treatment cannot be applied to ends it."""
    for locator in field.locators:
        places = [place for place in locate(page, locator, key) if place.text.strip()]
        if not places:
            continue
        all_ = field.type == "list" or joins(field.treat)
        value: Any = [place.text for place in places] if all_ else places[0].text
        values = [value]
        for one in field.treat:
            try:
                value = treat(value, [one])
            except TreatmentFailed:
                break
            values.append(value)
        return values
    return []


def lift_page(page: Page, kind: KindPlan, key: str, base: str, scope: Scope, masks: Masks | None = None) -> list[Value]:
    """All fields of a kind off one page, in the kind's order."""
    return [lift_field(page, field, key, base, scope, masks) for field in kind.fields]
