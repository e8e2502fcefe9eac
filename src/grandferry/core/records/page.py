"""The page of a record: what a feed, an export file or a row of a table says, as an HTML document, so that a record of
which no page was captured (a draft above all) is sorted, lifted, refitted and accounted for like any page."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from html import escape
from itertools import count
from typing import Any

from selectolax.lexbor import LexborHTMLParser

from ..kinds import FieldPlan, KindPlan, Locator, PartPlan, SortRule
from ..patterns import escape as spelled
from ..route.slug import slug
from .record import PUBLIC, RECORD

SLUGS = frozenset(["slug", "post_name"])  # as files call the last part of an address
MOST_FIELDS = 12  # of those that a file gives by names of its own
_NAME = re.compile(r"[^_.\s][^.\s]*")  # what begins with a line is the machinery's own
_TAG = re.compile(r"</?[a-zA-Z][^<>]*>")
_PARAGRAPH = re.compile(r"(?i)<p[\s>]")
# elements that stand apart from the text around them
_APART = re.compile(
    r"(?i)<(/?)(?:div|table|ul|ol|dl|blockquote|pre|section|article|aside|figure|form|script|style|h[1-6]|hr)\b[^<>]*>"
)
_STYLE = (
    "body{font:16px/1.5 serif;margin:2em;max-width:44em}h1{line-height:1.2}ul.terms,ul.files{padding:0}"
    "ul.terms li{display:inline-block;margin-right:1em}.author::before{content:'by '}"
    ".comment{border-top:1px solid #ccc}"
)


def page_of_record(data: Mapping[str, Any]) -> str:
    """The page of a record (as ``Record.as_json`` gives it). Its words are those of the record and no others."""
    return "".join(_written(data))


def _written(data: Mapping[str, Any]) -> Iterator[str]:
    kind, state, title = (escape(str(data[name]), quote=True) for name in ("kind", "state", "title"))
    yield f'<!doctype html><html><head><meta charset="utf-8"><title>{title}</title>'
    yield f'<meta name="record-kind" content="{kind}"><meta name="record-state" content="{state}">'
    yield f"<style>{_STYLE}</style></head><body><article><h1>{title}</h1>"
    if data["author"]:
        yield f'<p class="author">{escape(data["author"])}</p>'
    for name in ("published", "modified"):
        if data[name]:
            yield f'<p><time class="{name}" datetime="{escape(data[name], quote=True)}">{escape(data[name])}</time></p>'
    for sort, names in data["terms"].items():
        yield f'<ul class="terms {_class(sort)}">{"".join(f"<li>{escape(name)}</li>" for name in names)}</ul>'
    if data["summary"]:
        yield f'<div class="summary">{_contained(data["summary"])}</div>'
    yield f'<div class="content">{_contained(data["content"])}</div>'
    if data["files"]:
        links = (f'<li><a href="{escape(url, quote=True)}">{escape(url)}</a></li>' for url in data["files"])
        yield f'<ul class="files">{"".join(links)}</ul>'
    yield "</article>"
    if data["comments"]:
        yield f'<section class="comments">{"".join(map(_comment, data["comments"]))}</section>'
    yield "</body></html>"


def _comment(one: Mapping[str, str]) -> str:
    at = escape(one["at"], quote=True)
    return (
        f'<article class="comment" data-state="{escape(one["state"], quote=True)}">'
        f'<p class="by">{escape(one["author"])}</p><p><time datetime="{at}">{at}</time></p>'
        f'<div class="said">{_contained(one["text"])}</div></article>'
    )


def _contained(text: str) -> str:
    """A text as HTML that ends where it ends: its open elements closed, its stray ends gone. A text without any markup
    is one; where it has no paragraphs, blank lines part them."""
    if not _TAG.search(text):
        text = escape(text, quote=False)
    if not _PARAGRAPH.search(text):
        text = "".join(_parted(text.replace("\r", "")))
    body = LexborHTMLParser(f"<!doctype html><html><body>{text}</body></html>").body
    html = (body.html or "") if body is not None else ""
    return html.removeprefix("<body>").removesuffix("</body>")


def _parted(text: str) -> Iterator[str]:
    """A text with its blank lines as ends of paragraphs, but for what stands in elements apart from it."""
    depth = last = begins = 0
    for tag in _APART.finditer(text):
        if depth == 0:
            yield from _paragraphs(text[last : tag.start()])
            begins = tag.start()
        ends = bool(tag[1])
        if not tag[0].lower().startswith("<hr"):
            depth = max(0, depth - 1) if ends else depth + 1
        if depth == 0:
            yield text[begins : tag.end()]
            last = tag.end()
    yield text[begins:] if depth else "".join(_paragraphs(text[last:]))


def _paragraphs(text: str) -> Iterator[str]:
    for part in re.split(r"\n\s*\n", text):
        if part.strip():
            yield f"<p>{part.strip().replace(chr(10), '<br>')}</p>"


def _class(sort: str) -> str:
    """A sort of terms as the name of a class."""
    return re.sub(r"[^\w-]+", "-", sort.lower()).strip("-") or "term"


def name_of_record(data: Mapping[str, Any]) -> str:
    """By what a record is known in its file: its number there, else its address, else its title and its day."""
    fields = data["fields"]
    number = next((str(fields[name]) for name in ("post_id", "id", "guid", "uuid") if fields.get(name)), "")
    return number or data["address"] or f"{data['title']} {data['published'][:10]}".strip()


def is_public(state: str) -> bool:
    """Whether what is in a state can be read by everybody, so that its address leads to something."""
    return state.strip().casefold() in PUBLIC


def kind_of_records(name: str, kind: str, states: list[str], records: list[Mapping[str, Any]]) -> KindPlan:
    """A content type for records of a kind that are in some states, with the fields that any of some of them fill."""
    rules = [SortRule(address=f"{RECORD}.*", record=spelled(f"{kind}/{state}")) for state in states]
    return KindPlan(name=name, label=kind, rules=rules, fields=list(_fields(records)), address=f"/{name}/{{slug}}")


def _fields(records: list[Mapping[str, Any]]) -> Iterator[FieldPlan]:
    def said(part: str) -> bool:
        return any(record[part] for record in records)

    def css(selector: str) -> list[Locator]:
        return [Locator(css=selector)]

    yield FieldPlan(name="title", type="line", locators=css("h1"))
    for name in ("published", "modified"):
        if said(name):
            yield FieldPlan(name=name, type="date", locators=css(f"time.{name}"))
    if said("author"):
        yield FieldPlan(name="author", type="line", locators=css(".author"))
    taken = {"title", "published", "modified", "author", "summary", "body", "files", "comments"}
    for sort in dict.fromkeys(sort for record in records for sort in record["terms"]):
        yield FieldPlan(name=_field_name(sort, taken), type="list", locators=css(f".terms.{_class(sort)} > li"))
    if said("summary"):
        yield FieldPlan(name="summary", type="passage", locators=css("article > .summary"))
    yield FieldPlan(name="body", type="blocks", locators=css("article > .content"))
    if said("files"):
        parts = [PartPlan(name="file", type="link")]
        yield FieldPlan(name="files", type="group", locators=css(".files > li > a"), parts=parts)
    if said("comments"):
        parts = [
            PartPlan(name="author", css=".by"),
            PartPlan(name="at", type="date", css="time"),
            PartPlan(name="text", type="blocks", css=".said"),
        ]
        yield FieldPlan(name="comments", type="group", locators=css(".comments > .comment"), parts=parts)
    yield from _named(records, taken)


def _named(records: list[Mapping[str, Any]], taken: set[str]) -> Iterator[FieldPlan]:
    """What a file says by names of its own, where it says it of most records, and not the same of all of them."""
    values: dict[str, list[str]] = {}
    for record in records:
        for name, value in record["fields"].items():
            if value not in ("", None) and _NAME.fullmatch(name):
                values.setdefault(name, []).append(str(value))
    made = 0
    for name, said in values.items():
        if 2 * len(said) < len(records) or (len(said) > 1 and len(set(said)) == 1) or made == MOST_FIELDS:
            continue
        made += 1
        named = "slug" if name in SLUGS and "slug" not in taken else name
        yield FieldPlan(name=_field_name(named, taken), type="line", locators=[Locator(record=f"fields.{name}")])


def _field_name(said: str, taken: set[str]) -> str:
    """A free name for a field, after what a file calls it."""
    plain = slug(said).replace("-", "_")[:36].strip("_")
    plain = plain if plain[:1].isalpha() and plain.isascii() else "terms"
    made = next(name for n in count(1) if (name := plain if n == 1 else f"{plain}_{n}") not in taken)
    taken.add(made)
    return made
