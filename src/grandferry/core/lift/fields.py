"""Reading one field of one page: locators in order, treatments, and the type's own check."""

from __future__ import annotations

import functools
import re
from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime
from typing import Any

from ..address import Scope, fragment_of
from ..kinds import ADDRESSES, FieldPlan, KindPlan, PartPlan
from ..page import Node, Page, text_of
from ..references import background_source, picture_source
from ..refit.page import outermost, region_of
from ..survey.secrets import Masks
from .locators import Place, locate
from .treatments import TreatmentFailed, default_of, joins, treat
from .unlike import left_over, left_over_in
from .value import Value

_WITHOUT_TEXT = ("picture", "blocks", "group", *ADDRESSES)  # types of what may be found where no text is
_YES = frozenset("yes y true on 1 x ✓ ✔ ja oui si sí sì sim tak ano да checked available".split())
_NO = frozenset("no n false off 0 - ✗ ✘ nein non não nie ne нет none".split())


def _caption(page: Page, node: Node) -> str:
    holder = node.parent
    while holder is not None and holder.tag not in ("figure", "body"):
        holder = holder.parent
    if holder is None or holder.tag != "figure":
        return ""
    return " ".join(text_of(page, c) for c in holder.children if c.tag == "figcaption")


def _source(node: Node) -> str:
    """The address of the picture that an element is, or names, as ``meta``, ``a`` and ``link`` do."""
    named = node.get("content") if node.tag == "meta" else node.get("href") if node.tag in ("a", "link") else ""
    return named or picture_source(node.tag, node.attrs)


def _picture(page: Page, place: Place, base: str, scope: Scope) -> dict[str, str] | None:
    if place.node < 0:
        return None
    node = page.nodes[place.node]
    image, source = node, _source(node)
    if not source:  # the first picture in it, else one that stands behind it
        image = next((n for n in page.inside(node) if n.tag and picture_source(n.tag, n.attrs)), node)
        source = picture_source(image.tag, image.attrs) or background_source(node.tag, node.attrs)
    address = scope.normal(source, base) if source else None
    if address is None:
        return None
    return {"src": str(address), "alt": image.get("alt"), "caption": _caption(page, image)}


def typed(field: FieldPlan, values: list[Any]) -> tuple[Any, str]:
    """The value in the field's type, and what is odd about it."""
    if field.type == "list":
        flat = [m for v in values for m in (v if isinstance(v, list) else [v])]
        return [" ".join(str(m).split()) for m in flat if str(m).strip()] or None, ""
    value = values[0]
    if isinstance(value, list):
        value = ", ".join(str(m) for m in value)
    if field.type == "line":
        return " ".join(str(value).split()) or None, ""
    if field.type == "passage":
        return str(value).strip() or None, ""
    if field.type == "number":
        if isinstance(value, int | float):
            return value, ""
        try:
            number = float(str(value).strip())
        except ValueError:
            return str(value).strip() or None, "not a number"
        return int(number) if number.is_integer() else number, ""
    if field.type == "date":
        text = str(value).strip()
        try:
            datetime.fromisoformat(re.sub(r"Z$", "+00:00", text))
        except ValueError:
            return text or None, "not a date (ISO 8601)" if text else ""
        return text, ""
    if field.type == "yes_no":
        text = " ".join(str(value).split()).casefold()
        if not text or text in _YES or text in _NO:
            return (text in _YES if text else None), ""
        return text, "neither yes nor no"
    if field.type in ADDRESSES:
        return str(value).strip() or None, ""
    if field.type == "choice":
        text = " ".join(str(value).split())
        for choice in field.choices:
            if choice.casefold() == text.casefold():
                return choice, ""
        return text or None, f"not one of {', '.join(field.choices)}" if text else ""
    return value, ""


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
    address = scope.normal(raw, base)
    if address is None:
        return raw, "no address"
    if field.type == "reference" and not scope.is_ours(address.host):
        return str(address), "leads to no page of the old site"
    fragment = fragment_of(raw)
    return str(address) + (f"#{fragment}" if fragment else ""), ""


def _members(page: Page, field: FieldPlan, nodes: Sequence[int], base: str, scope: Scope) -> list[dict[str, Any]]:
    """What each member of a group holds, part by part; None where it holds nothing."""
    members = [page.nodes[n] for n in nodes]
    found: list[dict[str, Any]] = [{} for _ in members]
    for part in field.parts:
        inner = page.select(part.css) if part.css else members
        at = 0
        for member, values in zip(members, found, strict=True):  # both in the order of the page
            while at < len(inner) and inner[at].n < member.n:
                at += 1
            node = inner[at] if at < len(inner) and inner[at].n <= member.last else None
            values[part.name] = None if node is None else _part(page, part, node, base, scope)
    return found


def _part(page: Page, part: PartPlan, node: Node, base: str, scope: Scope) -> Any:
    """A part's value, in its type where it can be read as that, else as it stands."""
    if part.type == "picture":
        return _picture(page, Place(node.n, ""), base, scope)
    raw = node.get(part.attribute) if part.attribute else text_of(page, node)
    if not raw.strip():
        return None
    if part.type == "link":
        address = scope.normal(raw, base)
        return str(address) if address is not None else raw.strip()
    try:
        return typed(FieldPlan.model_construct(name=part.name, type=part.type), [treat(raw, part.treat)])[0]
    except TreatmentFailed:
        return raw.strip()


def lift_field(page: Page, field: FieldPlan, key: str, base: str, scope: Scope, masks: Masks | None = None) -> Value:
    """One field of one page. ``base``: the address pictures are joined to; ``masks``: of keys in the page's code."""
    value = _lifted(page, field, key, base, scope)
    if value.value is not None:
        why = left_over_in(page, value.value["nodes"]) if field.type == "blocks" else left_over(value.value)
        value = replace(value, unlike=why or "")
    if not masks or field.type == "blocks":
        return value
    return replace(value, value=masks.value(value.value), note=masks.text(value.note))


def _lifted(page: Page, field: FieldPlan, key: str, base: str, scope: Scope) -> Value:
    made = functools.partial(Value, field.name, field.type)
    for number, locator in enumerate(field.locators):
        places = [p for p in locate(page, locator, key) if p.text.strip() or field.type in _WITHOUT_TEXT]
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
            members = [
                one for one in _members(page, field, nodes, base, scope) if any(v is not None for v in one.values())
            ]
            if not members:
                continue
            return made(members, number, nodes, "filled")
        if field.type == "picture":
            pictures = [v for v in (_picture(page, p, base, scope) for p in places) if v]
            if not pictures:
                continue
            return made(pictures[0], number, nodes, "many" if len(pictures) > 1 else "filled")
        if field.type in ADDRESSES:
            led = [found for p in places if (found := _address(page, field, p, base, scope))[0] is not None]
            if not led:
                continue
            note = led[0][1] or (f"{len(led)} places match; the first is taken" if len(led) > 1 else "")
            return made(led[0][0], number, nodes, "odd" if led[0][1] else "many" if len(led) > 1 else "filled", note)
        try:
            if joins(field.treat):
                values, many = [treat([p.text for p in places], field.treat)], False
            else:
                values = [treat(p.text, field.treat) for p in places]
        except TreatmentFailed as problem:
            return made(places[0].text.strip(), number, nodes, "odd", str(problem))
        value, odd = typed(field, values)
        if value is None:
            continue
        note = odd or (f"{len(places)} places match; the first is taken" if many else "")
        return made(value, number, nodes, "odd" if odd else "many" if many else "filled", note)
    if (default := default_of(field.treat)) is not None:
        value, odd = typed(field, [default])
        return made(value, -1, (), "odd" if odd else "filled", odd)
    return made(None, -1, (), "empty", "required" if field.required else "")


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
