"""Items as files: names that every file system takes, headers that say what was meant, profiles that fit."""

from __future__ import annotations

import json
from typing import Any

import pytest
import yaml
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from grandferry.core.kinds import KindPlan
from grandferry.core.land.going import Going, header_fields, header_pairs, html_page, json_row, markdown_page
from grandferry.core.land.header import line_header, yaml_header
from grandferry.core.land.names import PART, Taken, file_part, filled, served_file, without_ending
from grandferry.core.land.profile import PROFILES, Profile
from grandferry.core.mapping import Blocks
from grandferry.core.plan import LandSettings
from grandferry.core.refit.choices import DEFAULTS, Odd, WrittenAs
from grandferry.core.refit.convert import refit_html

KIND = KindPlan.model_validate(
    {
        "name": "story",
        "rules": [{"address": "/.*"}],
        "fields": [
            {"name": name, "type": type_, "locators": [{"css": "p"}]}
            for name, type_ in (("title", "line"), ("published", "date"), ("body", "blocks"), ("more", "blocks"))
        ],
    }
)


def going(path: str = "/news/a", html: str = "<p>Text.", key: str = "/old.htm", **fields: Any) -> Going:
    body = Blocks(refit_html(html).blocks)
    return Going(key, path, str(fields.get("title", "A title")), KIND, {"title": "A title", "body": body, **fields})


@pytest.mark.parametrize(
    ("address", "stem", "served"),
    [
        ("/", "", "/index.html"),
        ("/docs/", "docs", "/docs/index.html"),
        ("/a/b", "a/b", "/a/b/index.html"),
        ("/a/b.html?x=1#y", "a/b", "/a/b.html"),
        ("/caf%C3%A9/%E8%B7%AF", "café/路", "/café/路/index.html"),
        ("/paper.pdf", "paper.pdf", "/paper.pdf"),
    ],
)
def test_an_address_and_the_file_that_a_server_gives_for_it(address: str, stem: str, served: str) -> None:
    assert without_ending(address) == stem and served_file(address, "folder") == served
    assert served_file("/a", "file") == "/a.html"


@pytest.mark.parametrize(
    ("path", "name"),
    [
        ("", "content/index.md"),
        ("news/2021/a", "content/news/2021/a.md"),
        ("../../etc/passwd", "content/etc/passwd.md"),
        ("a\x00b/c:d*?|<e>", "content/a-b/c-d-e-.md"),
        ("con/aux.txt", "content/con-/aux.txt-.md"),
        ("trailing. / dots...", "content/trailing/dots.md"),
        ("\u202egpj.exe", "content/-gpj.exe.md"),
        ("//a///b", "content/a/b.md"),
    ],
)
def test_a_name_is_taken_by_every_file_system(path: str, name: str) -> None:
    assert filled("content/{path}.md", {"path": path}) == name


@given(st.lists(st.text(), min_size=1, max_size=6))
def test_no_name_leaves_its_folder_or_is_too_long(parts: list[str]) -> None:
    name = filled("content/{path}.md", {"path": "/".join(parts)})
    assert name.startswith("content/") and name.endswith(".md") and "//" not in name
    assert all(part not in ("", ".", "..") and len(part.encode()) <= PART + 5 for part in name.split("/"))
    assert file_part(parts[0]) == file_part(file_part(parts[0])), "a name that is one stays"


def test_two_of_one_name_are_told_apart_also_by_letter_case() -> None:
    taken = Taken()
    assert [taken.one(name) for name in ("a/B.md", "a/b.md", "A/b.md", "a/b-2.md")] == [
        "a/B.md",
        "a/b-2.md",
        "A/b-3.md",
        "a/b-2-2.md",
    ]
    assert taken.one("a") == "a-2", "it is a folder"
    assert taken.one("a/b.md/c.md") == "a-b.md-c.md" or "/b.md/" not in taken.one("a/b.md/d.md")
    assert taken.one("cafe\u0301.md") == "cafe\u0301.md" and taken.one("caf\u00e9.md") == "caf\u00e9-2.md"


HARD = ["yes", "1e3", "2021-05-06", "a: b", "# no", "- x", "{{ x }}", "'\"\\", "line\nline", "\x85\u2028", "", "~", "[a]", "&x", "%y"]  # fmt: skip


@pytest.mark.parametrize("text", HARD)
def test_a_text_in_yaml_is_that_text(text: str) -> None:
    said = yaml_header([("title", text), ("list", [text, "b"]), ("deep", {"a b": text})])
    assert said.startswith("---\n") and said.endswith("---\n")
    assert yaml.safe_load(said.removeprefix("---\n").removesuffix("---\n")) == {
        "title": text,
        "list": [text, "b"],
        "deep": {"a b": text},
    }


def test_a_header_of_lines_says_each_key_in_one() -> None:
    said = line_header(
        [("Title", "a:\n b"), ("Tags", ["x", "y z"]), ("More", ["a, b", "c"]), ("One", ["a, b"]), ("No", None)]
    )
    assert said == "Title: a: b\nTags: x, y z\nMore: a, b; c\nOne: a, b;\n"


def test_what_a_header_says_and_in_which_order() -> None:
    item = going("/news/a", title="A", published="2021-05-06", author="", topics=["x"], price=3, more=Blocks(()))
    assert header_pairs(item, PROFILES["eleventy"], DEFAULTS) == [
        ("title", "A"),
        ("date", "2021-05-06"),
        ("permalink", "/news/a/index.html"),
        ("tags", ["x"]),
        ("old_address", "/old.htm"),
        ("kind", "story"),
        ("price", 3),
    ]
    page = markdown_page(item, PROFILES["pelican"], DEFAULTS).text
    assert page.startswith("Title: A\nDate: 2021-05-06 00:00\nSlug: news/a\nUrl: news/a\nSave_as: news/a/index.html\n")
    assert page.endswith("price: 3\n\nText.\n")


def test_two_fields_for_one_key_and_one_that_is_called_like_a_key_are_both_kept() -> None:
    pairs = dict(header_pairs(going(tags=["a"], topics=["b"], kind="new", Date="x"), PROFILES["eleventy"], DEFAULTS))
    assert pairs["tags"] == ["a"] and pairs["topics"] == ["b"]
    assert pairs["kind"] == "new" and pairs["Date"] == "x"


def test_a_key_is_of_the_field_that_has_it_whatever_is_empty() -> None:
    item = going(**{"a b": "", "a-b": "", "a_b": "x", "Date": "y"})
    said, fields = dict(header_pairs(item, PROFILES["eleventy"], DEFAULTS)), header_fields(item, PROFILES["eleventy"])
    assert said["a_b"] == "x" and fields["a_b"] == ("a_b", "same")
    assert said["Date"] == "y" and fields["Date"] == ("Date", "same")
    assert "a b" in {name for name, _ in fields.values()}, "what has no value has a key of its own"


def test_what_nobody_could_see_is_said_to_be_a_draft() -> None:
    hidden = going(key="record:17", state="pending")
    assert dict(header_pairs(hidden, PROFILES["eleventy"], DEFAULTS))["draft"] is True
    assert dict(header_pairs(hidden, PROFILES["pelican"], DEFAULTS))["Status"] == "draft"
    for seen in (going(key="record:17", state="publish"), going(state="Under repair")):
        assert "draft" not in dict(header_pairs(seen, PROFILES["eleventy"], DEFAULTS))


def test_without_raw_html_nothing_stands_in_tags() -> None:
    html = "<p>a <sub>b</sub></p><details><summary>S</summary><p>in</p></details><iframe src=/f></iframe>"
    bare = PROFILES["eleventy"].model_copy(update={"raw_html": False})
    choices = bare.choices({})
    assert choices[Odd.FOLDING] is WrittenAs.PLAIN
    text = markdown_page(going(html=html), bare, choices).markdown
    assert "<" not in text and "in" in text and "S" in text


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"file": "content/all.md"}, "all items would go to one file"),
        ({"media": "m.png"}, "name {path} or {name}"),
        ({"file": "/etc/{path}"}, "does not stay within the folder"),
        ({"file": "../{path}"}, "does not stay within the folder"),
        ({"file": "{title}.md"}, "is no part of a file's name"),
        ({"dates": "yyyy"}, "says nothing of a date"),
        ({"keys": [{"key": "a", "value": "x"}, {"key": "A", "value": "y"}]}, "stands there twice"),
        ({"keys": [{"key": "a: b\n", "value": "x"}]}, "pattern"),
        ({"markdown": {"tabs": "marked"}}, "tabs can be written as"),
    ],
)
def test_a_profile_that_cannot_be_is_refused(change: dict[str, Any], says: str) -> None:
    with pytest.raises(ValidationError, match=says):
        Profile.model_validate(PROFILES["eleventy"].model_dump() | change)


@pytest.mark.parametrize("folder", ["/etc", "../x", "a/b", "~", ".hidden"])
def test_a_plan_names_no_place_outside_of_the_workspace(folder: str) -> None:
    with pytest.raises(ValidationError):
        LandSettings(target="markdown", folder=folder)


def test_a_system_needs_an_address() -> None:
    with pytest.raises(ValidationError, match="address"):
        LandSettings(target="jsonapi")


def test_a_page_of_html_says_its_fields_in_its_head() -> None:
    page = html_page(going(html="<p>Text", description='"q" <b>', tags=["a", "b"], language="de"))
    assert '<html lang="de">' in page and '<meta name="description" content="&quot;q&quot; ' in page
    assert '<meta name="tags" content="a, b">' in page and "<h1>A title</h1>\n<p>Text</p>" in page
    assert page == html_page(going(html="<p>Text", description='"q" <b>', tags=["a", "b"], language="de"))
    assert "<h1>A title" not in html_page(going(html="<h1>Its own</h1>"))


def test_a_row_of_json_holds_the_blocks_and_what_they_say() -> None:
    row = json.loads(json.dumps(json_row(going(html="<p>a <b>b</b>", kind="x"))))
    assert (
        row["body"]["format"] == 1
        and row["body_markdown"] == "a **b**\n"
        and row["body_html"] == "<p>a <strong>b</strong></p>\n"
    )
    assert row["kind"] == "story" and row["kind_"] == "x"
