"""Forms: their place in the text, with an inventory of what they ask, since each has to be wired up anew.

Labels are found as browsers find them (HTML standard 4.10.4): by ``for``, or around the field; else what names the
field to those who cannot see it, or the text before it. What hidden fields hold stands in the markup alone.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from ...page import Node, Page, text_of
from ..blocks import Block, Form, FormField
from ..serialise import serialise
from .base import Reader

TAGS = frozenset(["form"])
_FIELDS = frozenset(["input", "select", "textarea", "button"])
_SILENT = frozenset(["submit", "reset", "button", "image"])
_OPTIONS = 100


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    inside = reader.page.inside(node)
    if not any(n.tag in _FIELDS and n.get("type").lower() != "hidden" for n in inside) or _wraps_page(inside):
        return None  # a form without a field a visitor sees is a box (whole pages stand in such forms)
    action = node.get("action").strip()
    return [
        Form(
            fields_of(node, reader.page),
            serialise(node, reader.link),
            reader.words(node),
            reader.link(action) if action else "",
            node.get("method").lower() or "get",
            node.n,
        )
    ]


def _wraps_page(inside: Sequence[Node]) -> bool:
    """Whether a form is put around the content of a whole page, as some old systems do."""
    return any(n.tag in ("h1", "article", "main") for n in inside) and sum(1 for n in inside if n.tag == "p") >= 3


def fields_of(form: Node, page: Page) -> tuple[FormField, ...]:
    """What a form asks, in order; radio buttons of one name as one field with their labels as options."""
    labels = {n.get("for"): _words(n, page) for n in page.inside(form) if n.tag == "label" and n.get("for")}
    found: list[FormField] = []
    groups: dict[str, int] = {}
    before: list[str] = []
    for node in page.inside(form):
        if not node.tag and node.visible and node.text.strip():
            before.append(" ".join(node.text.split()))
        if node.tag not in _FIELDS:
            continue
        sort = (node.get("type").lower() or "text") if node.tag == "input" else node.tag
        if sort in _SILENT:
            continue
        label = labels.get(node.get("id"), "") or _around(node, form, page) or _named(node)
        if not label and sort != "hidden" and before:
            label = before[-1]
        name = node.get("name") or node.get("id")
        required = "required" in node.attrs or node.get("aria-required").lower() == "true"
        if sort in ("radio", "checkbox") and name and name in groups and found[groups[name]].sort == sort:
            had = found[groups[name]]
            found[groups[name]] = FormField(name, had.label, sort, had.required or required, (*had.options, label))
            continue
        options: tuple[str, ...] = ()
        if node.tag == "select":
            options = tuple(_words(n, page) for n in page.inside(node) if n.tag == "option")[:_OPTIONS]
        elif sort == "radio":
            options, label = (label,), name
        if name:
            groups[name] = len(found)
        found.append(FormField(name, label, sort, required, options))
        before.clear()
    return tuple(found)


def _words(node: Node, page: Page) -> str:
    return " ".join(text_of(page, node).split())


def _around(node: Node, form: Node, page: Page) -> str:
    """The text of the label that a field stands in."""
    up = node.parent
    while up is not None and up is not form:
        if up.tag == "label":
            return _words(up, page)
        up = up.parent
    return ""


def _named(node: Node) -> str:
    names: tuple[Callable[[], str], ...] = (
        lambda: node.get("aria-label"),
        lambda: node.get("title"),
        lambda: node.get("placeholder"),
    )
    return next((" ".join(said.split()) for name in names if (said := name())), "")
