"""A file of a folder read back: what a person made of an item's header and bodies since it was written.

Both the file as it is and the file as it would be written now are read by the same reader, and held against each other,
so that what a form does not say, or says otherwise, is no difference.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator, Mapping, Sequence
from datetime import date, datetime
from enum import StrEnum
from typing import Any, NamedTuple

from selectolax.lexbor import LexborHTMLParser

from ..errors import FerryError
from ..lift.schema import ALWAYS, column_of
from ..mapping import Blocks
from ..refit.blocks import Block, Heading, walk
from ..refit.choices import DEFAULTS, Odd, WrittenAs
from ..refit.convert import refit_html
from ..refit.document import document, from_document
from ..refit.write import to_html, to_markdown
from ..refit.written import rendered
from .going import Going, header_fields, html_page, json_page, markdown_page
from .header import HeaderError, read_lines, read_yaml
from .profile import Profile

FORMS = ("markdown", "json", "jsonl", "html")  # what can be read back


class Why(StrEnum):
    """Why a difference cannot be taken in."""

    NO_FIELD = "no field"  # the file has a key that is no field of the kind
    ROUTE = "route"  # the new address is decided in Route
    KEPT = "kept"  # what says which item it is of
    PROFILE = "profile"  # the profile sets it
    SEVERAL = "several"  # the target's field is put together, or of another type
    SHORTENED = "shortened"  # the file has a shorter form of it
    VALUE = "value"  # it is none of the field's type
    NO_MARK = "no mark"  # the form of the file cannot say all that is there


_REASONS: dict[Why, str] = {
    Why.NO_FIELD: "no field is called so",
    Why.ROUTE: "where an item goes is decided in Route",
    Why.KEPT: "it says which item the file is of",
    Why.PROFILE: "the profile sets it",
    Why.SEVERAL: "the target has it of several fields, or in another type",
    Why.SHORTENED: "the file has it in a shorter form",
    Why.VALUE: "it does not fit the field: {}",
    Why.NO_MARK: "the file cannot say all of this block: {}; change it in Refit",
}


def reason(why: Why, about: Sequence[str]) -> str:
    """Why something cannot be taken in, as a sentence has it."""
    return _REASONS[why].format(", ".join(about))


class UnreadableFile(FerryError):
    """A file that cannot be read back."""


class Way(NamedTuple):
    """How a body stands in a file: ``read`` makes blocks of it, ``write`` what stands there of blocks."""

    read: Callable[[Any], tuple[Block, ...]]
    write: Callable[[tuple[Block, ...]], Any]

    def and_back(self, blocks: tuple[Block, ...]) -> tuple[Block, ...]:
        return self.read(self.write(blocks))


class Difference(NamedTuple):
    """``key``: as the file calls it; ``field``: of the target ("" where it is none); ``ours`` and ``theirs``: the
    values, of a body what stands in the file, with the ``way`` it does."""

    key: str
    field: str
    ours: Any
    theirs: Any
    form: str = "same"
    way: Way | None = None
    why: Why | None = None


class _Said(NamedTuple):
    """What a file says: by its own keys; and its body, "" where that is among the keys."""

    keys: dict[str, Any]
    body: Any = ""


def differences(
    going: Going, text: str, form: str, profile: Profile, choices: Mapping[Odd, WrittenAs]
) -> list[Difference]:
    """What a file (of JSON lines: a line) says otherwise than it would be written now. Raises UnreadableFile."""
    if form not in FORMS:
        raise UnreadableFile("Files of this form are not read back.", f"These are: {', '.join(FORMS)}.")
    if form in ("json", "jsonl"):
        return list(_of_json(going, text))
    if form == "html":
        return list(_of_html(going, text))
    return list(_of_markdown(going, text, profile, choices))


# --- Markdown ---------------------------------------------------------------------------------------------


def markdown_way(choices: Mapping[Odd, WrittenAs], older: bool) -> Way:
    return Way(
        lambda text: refit_html(rendered(str(text)), mask=False, places=True).blocks,
        lambda blocks: to_markdown(blocks, choices, older),
    )


def _of_markdown(going: Going, text: str, profile: Profile, choices: Mapping[Odd, WrittenAs]) -> Iterator[Difference]:
    way = markdown_way(choices, profile.reader == "older")
    ours = _markdown_said(markdown_page(going, profile, choices).text, profile)
    theirs = _markdown_said(text, profile)
    fields = header_fields(going, profile)
    for key in (*ours.keys, *(key for key in theirs.keys if key not in ours.keys)):
        mine, other = ours.keys.get(key), theirs.keys.get(key)
        if mine == other:
            continue
        name, form = fields.get(key, ("", "same"))
        why = _no_field(name, going) if name else Why.PROFILE if key in _of_profile(profile) else Why.NO_FIELD
        if why is None and form not in ("same", "source"):
            why = Why.SHORTENED
        body = way if isinstance(going.fields.get(name), Blocks) else None
        yield Difference(key, name, mine, other, form, body, why)
    if ours.body.strip() != theirs.body.strip():
        yield Difference(going.body, going.body, ours.body, theirs.body, way=way)


def _markdown_said(text: str, profile: Profile) -> _Said:
    text = text.removeprefix("\ufeff").replace("\r\n", "\n")
    try:
        header, body = (read_yaml if profile.header == "yaml" else read_lines)(text)
    except HeaderError as problem:
        raise UnreadableFile(str(problem)) from None
    return _Said({key: _plain(value) for key, value in header.items()}, body)


def _plain(value: Any) -> Any:
    """A value of YAML as it would have been quoted."""
    if isinstance(value, date | datetime):
        return value.isoformat()
    if isinstance(value, list):
        return [_plain(one) for one in value]
    return {key: _plain(one) for key, one in value.items()} if isinstance(value, dict) else value


def _of_profile(profile: Profile) -> set[str]:
    return {profile.template, *profile.always, *profile.unpublished}


def _no_field(name: str, going: Going) -> Why | None:
    """Why a name that a header speaks of is no field to set; None where it is one."""
    if name in going.fields:
        return None
    return Why.ROUTE if name in ("new", "slug") else Why.KEPT if name in ("old", "kind") else Why.NO_FIELD


# --- JSON -------------------------------------------------------------------------------------------------


def _blocks_of(data: Any) -> tuple[Block, ...]:
    try:
        return from_document(data)
    except (ValueError, KeyError, TypeError, AttributeError) as problem:
        raise UnreadableFile(f"A body in it is no document of blocks: {problem}.") from None


_HTML = Way(lambda text: refit_html(str(text), mask=False, places=True).blocks, to_html)
_DOCUMENT = Way(_blocks_of, document)
_MARKDOWN = markdown_way(DEFAULTS, False)


def _of_json(going: Going, text: str) -> Iterator[Difference]:
    ours = json.loads(json_page(going))
    try:
        theirs = json.loads(text)
    except ValueError as problem:
        raise UnreadableFile(f"It is no JSON: {problem}.") from None
    if not isinstance(theirs, dict):
        raise UnreadableFile("It is no object of JSON.")
    said = set()
    for name, value in going.fields.items():
        if isinstance(value, Blocks):
            columns = {name: _DOCUMENT, f"{name}_html": _HTML, f"{name}_markdown": _MARKDOWN}
            said |= set(columns)
            for column, way in columns.items():  # the first that was altered counts
                if theirs.get(column) != ours[column]:
                    yield Difference(column, name, ours[column], theirs.get(column), way=way)
                    break
            continue
        column = column_of(name)
        said.add(column)
        if theirs.get(column) != ours[column]:
            yield Difference(column, name, ours[column], theirs.get(column))
    for column in (*ours, *(column for column in theirs if column not in ours)):
        if column not in said and ours.get(column) != theirs.get(column):
            why = Why.ROUTE if column == "new" else Why.KEPT if column in ALWAYS else Why.NO_FIELD
            yield Difference(column, "", ours.get(column), theirs.get(column), why=why)


# --- HTML -------------------------------------------------------------------------------------------------


def _of_html(going: Going, text: str) -> Iterator[Difference]:
    titled = not any(isinstance(block, Heading) and block.level == 1 for block in walk(going.blocks))
    ours, theirs = _html_said(html_page(going), titled), _html_said(text, titled, going.title)
    for key in (*ours.keys, *(key for key in theirs.keys if key not in ours.keys)):
        mine, other = ours.keys.get(key), theirs.keys.get(key)
        if mine == other:
            continue
        value = going.fields.get(key)
        why = None if key in going.fields else Why.NO_FIELD
        if isinstance(value, dict) and "src" in value:
            yield Difference(key, key, mine, other, "source", why=why)
            continue
        if isinstance(value, list) and not all(isinstance(one, str) and "," not in one for one in value):
            why = Why.SHORTENED  # they stand there with commas between
        way = _HTML if isinstance(value, Blocks) else None
        yield Difference(key, key if key in going.fields else "", mine, other, way=way, why=why)
    if ours.body != theirs.body:
        yield Difference(going.body, going.body, ours.body, theirs.body, way=_HTML)


def _html_said(text: str, titled: bool, title: str = "") -> _Said:
    """``titled``: the title stands above the body; ``title``: what it was."""
    page = LexborHTMLParser(text)
    main = page.css_first("main")
    if main is None:
        raise UnreadableFile("There is no main element in it.")
    head, root = page.css_first("title"), page.css_first("html")
    keys: dict[str, Any] = {"title": head.text().strip() if head is not None else ""}
    if titled and (above := main.css_first("h1")) is not None:
        if (said := " ".join(above.text().split())) != " ".join(title.split()):
            keys["title"] = said if title else keys["title"]
        above.decompose()
    language = root.attributes.get("lang") if root is not None else None
    keys |= {"language": language} if language else {}
    for node in page.css("head meta[name]"):
        name = str(node.attributes["name"])
        if name != "viewport":
            keys[name] = node.attributes.get("content") or ""
    return _Said(keys, (main.inner_html or "").strip())
