"""An item on its way out, and the file that a folder has of it: Markdown with a header, JSON, or an HTML page."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping
from datetime import datetime
from typing import Any, NamedTuple

from ..kinds import KindPlan
from ..lift.schema import column_of
from ..mapping import Blocks
from ..records.record import PUBLIC, RECORD
from ..refit.blocks import Block, Heading, walk
from ..refit.choices import Odd, WrittenAs
from ..refit.document import document
from ..refit.serialise import escape_attribute, escape_text
from ..refit.write import to_html, to_markdown, write_markdown
from ..route.places import readable_path
from .header import line_header, yaml_header
from .names import filled, served_file, without_ending
from .profile import Key, Profile

FACTS = ("old", "new", "kind", "title", "slug")  # what can be said of every item
NOTHING: tuple[Any, ...] = (None, "", [], {})


class Going(NamedTuple):
    """An item as it goes over: its old key, its new path ("" when it has none), the fields under the names that the
    target has for them, bodies as ``Blocks``."""

    key: str
    path: str
    title: str
    kind: KindPlan
    fields: Mapping[str, Any]

    @property
    def body(self) -> str:
        """The field that is the text of the item: ``body``, or the first that holds blocks; "" for none."""
        held = [name for name, value in self.fields.items() if isinstance(value, Blocks)]
        return "body" if "body" in held else next(iter(held), "")

    @property
    def blocks(self) -> tuple[Block, ...]:
        value = self.fields.get(self.body)
        return value.blocks if isinstance(value, Blocks) else ()

    @property
    def hidden(self) -> bool:
        """Whether not everybody could see it, as records say by their state."""
        state = self.fields.get("state")
        return self.key.startswith(RECORD) and isinstance(state, str) and state.lower() not in PUBLIC

    @property
    def readable(self) -> str:
        """Its new path without an ending, the old one where it has none."""
        return without_ending(self.path) if self.path else readable_path(self.key)

    def place(self, pattern: str) -> str:
        """The file of a pattern."""
        path = self.readable
        return filled(pattern, {"path": path, "kind": self.kind.name, "name": path.rpartition("/")[2]})


class Page(NamedTuple):
    """A file as text; the Markdown in it alone; and which constructs were left out of it by choice."""

    text: str
    markdown: str
    left_out: Mapping[Odd, int]


def markdown_page(going: Going, profile: Profile, choices: Mapping[Odd, WrittenAs]) -> Page:
    """An item as Markdown below its header, as a profile wants it."""
    older = profile.reader == "older"
    written = write_markdown(going.blocks, choices, older)
    pairs = header_pairs(going, profile, choices)
    header = yaml_header(pairs) if profile.header == "yaml" else line_header(pairs)
    return Page(f"{header}\n{written.text}" if written.text else header, written.text, written.left_out)


def header_pairs(going: Going, profile: Profile, choices: Mapping[Odd, WrittenAs]) -> list[tuple[str, Any]]:
    """The keys of an item's header in their order, those without a value left out."""
    made: dict[str, Any] = {}
    for key, name, form in _spoken_of(going, profile):
        value = _value(going, name, form, profile, choices)
        if value not in NOTHING:
            made[key or _key(name, made)] = value
    if profile.template and (template := profile.templates.get(going.kind.name)):
        made[profile.template] = template
    made |= profile.always
    if going.hidden:
        made |= profile.unpublished
    return list(made.items())


def header_fields(going: Going, profile: Profile) -> dict[str, tuple[str, str]]:
    """What each key of an item's header speaks of: key -> (the name of a field, or of what can be said of every item;
    the form it is said in). Those without a value come after those that have one, which have their names first."""
    made: dict[str, tuple[str, str]] = {}
    spoken = list(_spoken_of(going, profile))
    for has in (True, False):
        for key, name, form in spoken:
            if has == (name in FACTS or going.fields.get(name) not in NOTHING):
                made.setdefault(key or _key(name, made), (name, form))
    return made


def _spoken_of(going: Going, profile: Profile) -> Iterator[tuple[str, str, str]]:
    """(key, "" where it is called as its field; name of the field or fact; form) of all that a header can say."""
    said = {going.body, *profile.left_out}
    for key in profile.keys:
        name = _source(going, key)
        if name not in going.fields and name not in FACTS:
            name = next((one for one in (key.value, *key.also) if one in going.fields), name)
        said.add(name)
        yield key.key, name, key.form
    for name in going.fields if profile.others else ():
        if name not in said:
            yield "", name, "same"


def _source(going: Going, key: Key) -> str:
    """Which field a key comes from: the first that has something."""
    return next((name for name in (key.value, *key.also) if going.fields.get(name) not in NOTHING), key.value)


def _key(name: str, taken: Mapping[str, Any]) -> str:
    """A field's name as a key that is not there yet."""
    made = "".join(c if c.isascii() and (c.isalnum() or c in "_.-") else "_" for c in name)[:80]
    made = made if made[:1].isalpha() or made[:1] == "_" else f"_{made}"
    known = {one.lower() for one in taken}
    while made.lower() in known:
        made += "_"
    return made


def _value(going: Going, name: str, form: str, profile: Profile, choices: Mapping[Odd, WrittenAs]) -> Any:
    """What a header says of a field, or of what can be said of every item."""
    said = going.key, going.path, going.kind.name, going.title, going.readable.rpartition("/")[2]
    facts = dict(zip(FACTS, said, strict=True))
    value = going.fields.get(name)
    value = facts.get(name) if value in NOTHING else value
    if isinstance(value, Blocks):
        return to_markdown(value.blocks, choices, profile.reader == "older").strip()
    if form == "source" and isinstance(value, dict):
        return value.get("src")
    if not isinstance(value, str) or not value:
        return value
    if form in ("file", "relative_file"):
        value = served_file(value, profile.ends)
    if form in ("relative", "relative_file"):
        return value.lstrip("/")
    types = {field.name: field.type for field in going.kind.fields}
    return _dated(value, profile.dates) if profile.dates and types.get(name) == "date" else value


def _dated(value: str, form: str) -> str:
    try:
        return datetime.fromisoformat(value).strftime(form)
    except ValueError:
        return value  # what is no date stays what it is


def json_row(going: Going) -> dict[str, Any]:
    """An item as JSON: ``old``, ``new``, ``kind``, every field by its name; a body as a document of blocks, with its
    HTML and Markdown beside it."""
    row: dict[str, Any] = {"old": going.key, "new": going.path, "kind": going.kind.name}
    for name, value in going.fields.items():
        if isinstance(value, Blocks):
            row[name] = document(value.blocks)
            row |= {f"{name}_html": to_html(value.blocks), f"{name}_markdown": to_markdown(value.blocks)}
        else:
            row[column_of(name)] = value
    return row


def json_line(going: Going) -> str:
    return json.dumps(json_row(going), ensure_ascii=False)


def json_page(going: Going) -> str:
    return json.dumps(json_row(going), ensure_ascii=False, indent=1) + "\n"


def html_page(going: Going) -> str:
    """An item as an HTML page with no site around it: its fields in the head, its body below its title."""
    language = going.fields.get("language")
    said = f' lang="{escape_attribute(language)}"' if isinstance(language, str) and language else ""
    lines = [
        "<!doctype html>",
        f"<html{said}>",
        "<head>",
        '<meta charset="utf-8">',
        '<meta name="viewport" content="width=device-width, initial-scale=1">',
        f"<title>{escape_text(going.title)}</title>",
    ]
    for name, value in going.fields.items():
        if name not in (going.body, "title", "language") and value not in NOTHING:
            lines.append(f'<meta name="{escape_attribute(name)}" content="{escape_attribute(_in_head(value))}">')
    lines += ["</head>", "<body>", "<main>"]
    headed = any(isinstance(block, Heading) and block.level == 1 for block in walk(going.blocks))
    if going.title and not headed:
        lines.append(f"<h1>{escape_text(going.title)}</h1>")
    lines += [to_html(going.blocks).rstrip("\n"), "</main>", "</body>", "</html>"]
    return "\n".join(line for line in lines if line) + "\n"


def _in_head(value: Any) -> str:
    if isinstance(value, Blocks):
        return to_html(value.blocks).strip()
    if isinstance(value, list) and all(isinstance(one, str) for one in value):
        return ", ".join(value)
    if isinstance(value, dict) and "src" in value:
        return str(value["src"])
    return json.dumps(value, ensure_ascii=False) if isinstance(value, dict | list | bool) else str(value)
