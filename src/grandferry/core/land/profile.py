"""A profile: how a folder of Markdown wants its files called, their headers written and their text marked up.

Ready ones are in ``PROFILES``; a plan holds the one it goes by, which may be a changed copy of one of them.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from datetime import datetime
from typing import Annotated, Literal, Self

from pydantic import AfterValidator, Field, model_validator

from ..refit.choices import CHOICES, Odd, WrittenAs
from ..strict import Strict

_PLACE = re.compile(r"\{([^{}]*)\}")
_PLACES = ("path", "kind", "name")

# fields that say the same wherever they come from
TAGS = ("tags", "topics", "terms", "categories", "subjects", "keywords", "post_tag")
AUTHORS = ("author", "authors", "creator")
ABOUT = ("description", "summary", "abstract")


def good_choices(value: dict[str, str]) -> dict[str, str]:
    """The choices as they are. Raises ValueError for one that there is not."""
    for name, choice in value.items():
        known = CHOICES.get(name)  # type: ignore[call-overload]
        if known is None:
            raise ValueError(f"“{name}” is nothing that Markdown has no mark for; there are: {', '.join(CHOICES)}")
        if choice not in known:
            raise ValueError(f"{name} can be written as: {', '.join(known)}; not as “{choice}”")
    return value


def _good_file(value: str) -> str:
    for name in _PLACE.findall(value):
        if name not in _PLACES:
            raise ValueError(f"“{{{name}}}” is no part of a file's name; there are: {', '.join(_PLACES)}")
    if value.startswith(("/", "~")) or "\\" in value or ".." in value.split("/") or ":" in value:
        raise ValueError(f"“{value}” does not stay within the folder")
    return value


def _good_dates(value: str) -> str:
    if value and datetime(2021, 5, 6, 7, 8, 9).strftime(value) == datetime(1999, 12, 31, 23, 59).strftime(value):
        raise ValueError(f"“{value}” says nothing of a date; it is written with %Y, %m, %d, %H, %M …")
    return value


FilePattern = Annotated[str, AfterValidator(_good_file), Field(min_length=1, max_length=300)]
HeaderKey = Annotated[str, Field(pattern=r"^[A-Za-z_][\w.-]*$", max_length=80)]


class Key(Strict):
    """A key of a header. ``value``: a field of ours, or old, new (address), kind, slug; ``also``: fields that it comes
    from where an item has nothing in the first. ``form``: as the field's type has it; of a picture its source alone; of
    an address as it is (percent-encoded), without its first slash, or the file that a server would give for it
    (decoded; with the first slash or without)."""

    key: HeaderKey
    value: str = Field(min_length=1, max_length=120)
    also: Annotated[list[str], Field(max_length=20)] = []
    form: Literal["same", "source", "address", "relative", "file", "relative_file"] = "same"


class Profile(Strict):
    """``header``: YAML between fences, or lines of ``Key: value``. ``keys``: what is said first, in this order; fields
    that no key speaks of follow under their own names with ``others``. ``left_out``: fields that stay away. ``dates``:
    as strftime has them, "" as they are kept. ``file``: of an item, with {path} (its new address without an ending; the
    old one where it has none) and {kind}; ``undated``: of items without a date. ``media``: of a file, with {path} (its
    new address) or {name}. ``ends``: what an address without an ending is, where a file is named for it.
    ``reader``: CommonMark, or the older rules (blanks for a line's end, four for what stands in an item, no mark for
    struck out text). ``markdown``: choices that lie over those of the plan; without ``raw_html`` nothing is written in
    tags. ``always``: keys of every item; ``unpublished``: of those that not everybody could see.
    ``template``: the key that names the template of an item ("" where none does), ``templates``: kind -> its name."""

    name: str = Field(min_length=1, max_length=60)
    header: Literal["yaml", "lines"] = "yaml"
    keys: Annotated[list[Key], Field(max_length=100)] = []
    others: bool = True
    left_out: Annotated[list[str], Field(max_length=200)] = []
    dates: Annotated[str, AfterValidator(_good_dates), Field(max_length=40)] = ""
    date: Annotated[str, Field(max_length=120, description="the field that says whether an item is dated")] = (
        "published"
    )
    file: FilePattern = "content/{path}.md"
    undated: FilePattern | Literal[""] = ""
    media: FilePattern = "content/{path}"
    ends: Literal["folder", "file"] = "folder"
    reader: Literal["commonmark", "older"] = "commonmark"
    raw_html: bool = True
    markdown: Annotated[dict[str, str], AfterValidator(good_choices)] = {}
    always: dict[HeaderKey, str | bool] = {}
    unpublished: dict[HeaderKey, str | bool] = {}
    template: HeaderKey | Literal[""] = ""
    templates: Annotated[dict[str, Annotated[str, Field(min_length=1, max_length=200)]], Field(max_length=1000)] = {}

    @model_validator(mode="after")
    def _whole(self) -> Self:
        if _PLACE.search(self.file) is None or (self.undated and _PLACE.search(self.undated) is None):
            raise ValueError("all items would go to one file: name {path} in it")
        if _PLACE.search(self.media) is None:
            raise ValueError("all files would go to one: name {path} or {name} in it")
        keys = [one.key.lower() for one in self.keys]
        twice = {key for key in keys if keys.count(key) > 1}
        if twice:
            raise ValueError(f"the key “{sorted(twice)[0]}” stands there twice")
        return self

    def choices(self, of_plan: Mapping[Odd, WrittenAs]) -> dict[Odd, WrittenAs]:
        """How constructs without a mark are written in this folder."""
        made = dict(of_plan) | {Odd(name): WrittenAs(choice) for name, choice in self.markdown.items()}
        if self.raw_html:
            return made
        for odd, choices in CHOICES.items():
            if made.get(odd, choices[0]) is WrittenAs.HTML:
                made[odd] = next(one for one in choices if one is not WrittenAs.HTML)
        return made


def _keys(*lines: str) -> list[Key]:
    """Keys from lines of ``key value|also|also form``."""
    made = []
    for line in lines:
        key, values, *form = line.split()
        value, *also = values.split("|")
        said = {"key": key, "value": value, "also": also}
        made.append(Key.model_validate(said | ({"form": form[0]} if form else {})))
    return made


_TAGS, _AUTHOR, _ABOUT = map("|".join, (TAGS, AUTHORS, ABOUT))

_ELEVENTY = Profile(
    name="eleventy",
    keys=_keys(
        "title title",
        f"description {_ABOUT}",
        "date published",
        "modified modified",
        "permalink new file",
        f"tags {_TAGS}",
        f"author {_AUTHOR}",
        "language language",
        "old_address old",
        "kind kind",
    ),
    media="static/{path}",
    unpublished={"draft": True},
    template="layout",
)
_PELICAN = Profile(
    name="pelican",
    header="lines",
    keys=_keys(
        "Title title",
        "Date published",
        "Modified modified",
        "Slug new relative",
        "Url new relative",
        "Save_as new relative_file",
        f"Tags {_TAGS}",
        f"Authors {_AUTHOR}",
        f"Summary {_ABOUT}",
        "Old_address old",
        "Kind kind",
    ),
    left_out=["language"],  # it would make translations of each other of pages that share a name
    dates="%Y-%m-%d %H:%M",
    undated="content/pages/{path}.md",
    file="content/{path}.md",
    reader="older",
    unpublished={"Status": "draft"},  # it has templates of its own for items and for pages
)
PROFILES: Mapping[str, Profile] = {one.name: one for one in (_ELEVENTY, _PELICAN)}
