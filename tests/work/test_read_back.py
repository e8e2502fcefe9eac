"""What a person altered in a folder is read back: every field and block of it, as one change that can be undone."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from grandferry.core.errors import FerryError
from grandferry.core.land.back import Why
from grandferry.core.land.profile import PROFILES
from grandferry.core.plan import Edit, LandSettings
from grandferry.store import changes, edits, lift
from grandferry.work.land.back import look, take_in
from tests.servers import apps, pages_app
from tests.work.test_folders import PNG, content
from tests.work.test_groups import Make, Run

BODY = (
    "<h2 id=tides>Tides</h2><p>The first of <b>three</b> texts, to <a href=/other.html#x>another</a>.</p>"
    "<ul><li>one<li>two</ul><p>The last text.</p><img src=/p.png alt=Pier>"
)
SITE: dict[str, Any] = {
    "/": "<h1>Home</h1><a href=/boats.html>b</a><a href=/other.html>o</a>",
    "/boats.html": "<main><h1>Boats</h1><p class=date>2021-05-06</p><ul class=tags><li>harbour<li>boats</ul>"
    f"<figure class=lead><img src=/p.png alt=''></figure><b class=n>3</b><div class=text>{BODY}</div></main>",
    "/other.html": "<main><h1>Other</h1><div class=text><p>Words.&#8232;More.</p><h2 id=x>X</h2></div></main>",
    "/p.png": (200, {"Content-Type": "image/png"}, PNG),
}
FIELDS = [
    {"name": "title", "type": "line", "required": True, "locators": [{"css": "h1"}]},
    {"name": "published", "type": "date", "locators": [{"css": ".date"}]},
    {"name": "tags", "type": "list", "locators": [{"css": ".tags li"}]},
    {"name": "lead", "type": "picture", "locators": [{"css": ".lead img"}]},
    {"name": "berths", "type": "number", "locators": [{"css": ".n"}]},
    {"name": "body", "type": "blocks", "locators": [{"css": ".text"}]},
]


@pytest.fixture
def crossing(cross: Make, work: Run) -> int:
    with apps(pages_app(SITE)) as (port,):
        kind = {"name": "page", "rules": [{"element": "main"}], "fields": FIELDS, "address": "/new/{slug}"}
        plan = {"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}, "kinds": [kind]}
        number = cross(plan | {"route": {"files": "/media/{name}"}, "land": {"target": "markdown"}})
        for job in ("survey", "sort", "lift", "refit", "route"):
            work(job, number)
    return number


def altered(path: Path, *pairs: tuple[str, str]) -> None:
    text = path.read_text("utf-8")
    for old, new in pairs:
        assert text.count(old) == 1, (old, text)
        text = text.replace(old, new)
    path.write_text(text, "utf-8")


def as_edit(name: str, value: Any) -> Edit:
    return Edit.model_validate({"old": "/boats.html", "field": name, "value": value})


Form = tuple[dict[str, Any], str, Callable[[Path], None]]


def in_markdown(path: Path) -> None:
    altered(
        path,
        ('title: "Boats"', 'title: "Boats: all of them"'),
        ("date: \"2021-05-06\"", "date: 2022-01-02"),
        ('- "harbour"\n', '- harbour\n- "new, with a comma"\n'),
        ("berths: 3", "berths: 4.5"),
        ("The first of **three** texts, to [another](/new/other#x).",
         "The *only* one, to [another](/new/other#x), and [more](/new/other).\n\nA text that is new."),
        ("- one\n- two\n", ""),
    )  # fmt: skip


def in_lines(path: Path) -> None:
    altered(
        path,
        ("Title: Boats", "Title: Boats: all of them"),
        ("Date: 2021-05-06 00:00", "Date: 2022-01-02 00:00"),
        ("Tags: harbour, boats", "Tags: harbour; new, with a comma; boats"),
        ("berths: 3", "berths: 4.5"),
        ("The first of **three** texts, to [another](/new/other#x).",
         "The *only* one, to [another](/new/other#x), and [more](/new/other).\n\nA text that is new."),
        ("- one\n- two\n", ""),
    )  # fmt: skip


def in_html(path: Path) -> None:
    altered(
        path,
        ("<h1>Boats</h1>", "<h1>Boats: all of them</h1>"),
        ('content="2021-05-06"', 'content="2022-01-02"'),
        ('content="harbour, boats"', 'content="harbour, new, boats"'),
        ('name="berths" content="3"', 'name="berths" content="4.5"'),
        ("The first of <strong>three</strong> texts, to ", "The <em>only</em> one, to "),
        (">another</a>.</p>", '>another</a>, and <a href="/new/other">more</a>.</p>\n<p>A text that is new.</p>'),
        ("<ul>\n<li>one</li>\n<li>two</li>\n</ul>", ""),
    )


def in_json(path: Path) -> None:
    rows = (
        [json.loads(line) for line in path.read_text("utf-8").split("\n") if line] if path.suffix == ".jsonl" else None
    )
    row = next(row for row in rows if row["old"] == "/boats.html") if rows else json.loads(path.read_text("utf-8"))
    row |= {"title": "Boats: all of them", "published": "2022-01-02", "berths": 4.5}
    row["tags"].insert(1, "new, with a comma")
    row["body_markdown"] = (
        row["body_markdown"]
        .replace("first of **three** texts", "*only* one")
        .replace("x).", "x), and [more](/new/other).\n\nA text that is new.")
        .replace("- one\n- two\n", "")
    )
    text = (
        json.dumps(row, ensure_ascii=False)
        if rows is None
        else "\n".join(json.dumps(one, ensure_ascii=False) for one in rows) + "\n"
    )
    path.write_text(text, "utf-8")


PELICAN = {"target": "markdown", "profile": PROFILES["pelican"].model_dump(mode="json")}
FORMS: dict[str, Form] = {
    "markdown": ({"target": "markdown"}, "content/new/boats.md", in_markdown),
    "lines": (PELICAN, "content/new/boats.md", in_lines),
    "html": ({"target": "html"}, "pages/new/boats/index.html", in_html),
    "json": ({"target": "json"}, "items/new/boats.json", in_json),
    "jsonl": ({"target": "jsonl"}, "items/page.jsonl", in_json),
}


@pytest.mark.parametrize("form", FORMS)
def test_what_was_altered_is_taken_in(crossing: int, work: Run, tmp_path: Path, form: str) -> None:
    said, name, alter = FORMS[form]
    target = LandSettings.model_validate(said)
    out, told = tmp_path / "out", target.model_dump(mode="json")
    work("land", crossing, out=str(out), target=told)
    before = content(out)
    assert look(crossing, out, target).altered == 0
    alter(out / name)
    looked = look(crossing, out, target)
    assert (looked.altered, looked.faults, [one for one in looked.found if one.why]) == (1, [], [])
    assert {one.name for one in looked.found} == {"title", "published", "tags", "berths", "body"}
    assert all(one.file == name and not one.newer for one in looked.found)
    revision = changes.revision(crossing)
    taken = take_in(crossing, "me", look(crossing, out, target))
    assert (taken.taken, taken.items, taken.left) == (len(looked.found), 1, 0)
    assert taken.revision == revision + 1, "one change for all of it"
    item = next(item for item in lift.items(crossing) if item.key == "/boats.html")
    tags = ["harbour", "new" if form == "html" else "new, with a comma", "boats"]
    assert (item.fields["title"], item.fields["published"]) == ("Boats: all of them", "2022-01-02")
    assert (item.fields["tags"], item.fields["berths"]) == (tags, 4.5)
    mine = {(edit.act, edit.value) for edit in edits.edits(crossing, "/boats.html", "body")}
    assert any("The <em>only</em> one" in str(value) and "/other.html#x" in str(value) for _, value in mine), mine
    assert all("/new/" not in str(value) for _, value in mine), mine
    told_again = work("land", crossing, out=str(out), target=told)
    assert told_again["refused"] == [] and told_again["item"].get("refused", 0) == 0
    after = content(out)[name].decode()
    assert "A text that is new." in after and "4.5" in after and "three" not in after and "two" not in after
    assert "/new/other#x" in after and "The last text." in after
    assert look(crossing, out, target).altered == 0
    changes.undo(crossing, "me")
    work("land", crossing, out=str(out), target=told)
    assert content(out)[name] == before[name]


def test_what_cannot_be_taken_in_says_why(crossing: int, work: Run, tmp_path: Path) -> None:
    out = tmp_path / "out"
    work("land", crossing, out=str(out))
    page = out / "content" / "new" / "boats.md"
    altered(
        page,
        ("berths: 3", "berths: many\nnobody: knows"),
        ('permalink: "/new/boats/index.html"', 'permalink: "/elsewhere/"'),
        ('kind: "page"', 'kind: "other"'),
        ("The last text.", "The very last text."),
    )
    (out / "content" / "new" / "other.md").write_text("no header")
    looked = look(crossing, out)
    whys = {one.name: one.why for one in looked.found}
    assert whys == {
        "berths": Why.VALUE, "nobody": Why.NO_FIELD, "permalink": Why.ROUTE, "kind": Why.KEPT, "body": None,
    }  # fmt: skip
    assert looked.faults == [("content/new/other.md", "There is no header between two lines of ---.")]
    taken = take_in(crossing, "me", look(crossing, out))
    assert (taken.taken, taken.left) == (1, 4)
    refused = work("land", crossing, out=str(out))["refused"]
    assert {row["key"] for row in refused} >= {"/boats.html"}, "what was not taken is not written over"
    assert "berths: many" in page.read_text("utf-8")


def test_what_was_changed_here_as_well_is_taken_only_where_it_is_named(
    crossing: int, work: Run, tmp_path: Path
) -> None:
    out = tmp_path / "out"
    work("land", crossing, out=str(out))
    altered(out / "content" / "new" / "boats.md", ("The last text.", "The very last text."))
    with pytest.raises(FerryError, match="Nothing has landed"):
        look(crossing, tmp_path / "none")
    changes.change_edits(crossing, [as_edit("berths", 9)], [], "me", "nine")
    assert all(one.newer for one in look(crossing, out).found)
    assert take_in(crossing, "me", look(crossing, out)).taken == 0
    taken = take_in(crossing, "me", look(crossing, out), ["/boats.html"])
    assert taken.taken == 2, "also the older number, which is what the file says"


def test_nothing_outside_of_the_folder_is_read(crossing: int, work: Run, tmp_path: Path) -> None:
    out = tmp_path / "out"
    work("land", crossing, out=str(out))
    page = out / "content" / "new" / "boats.md"
    (tmp_path / "secret").write_text("mine")
    page.unlink()
    page.symlink_to(tmp_path / "secret")
    looked = look(crossing, out)
    assert looked.faults == [("content/new/boats.md", "It lies outside of the folder.")] and not looked.found
    page.unlink()
    assert look(crossing, out).gone == ["content/new/boats.md"]


def test_only_another_way_of_writing_is_no_difference(crossing: int, work: Run, tmp_path: Path) -> None:
    out = tmp_path / "out"
    work("land", crossing, out=str(out))
    page = out / "content" / "new" / "boats.md"
    altered(page, ("- one\n- two\n", "* one\n* two\n"), ('title: "Boats"', "title: Boats"), ("**three**", "__three__"))
    looked = look(crossing, out)
    assert (looked.found, looked.same) == ([], ["content/new/boats.md"])
    assert take_in(crossing, "me", look(crossing, out)).taken == 0
    assert work("land", crossing, out=str(out))["item"] == {"same": 2}
    assert "* one" in page.read_text("utf-8"), "it stays as a person wrote it, while there is nothing new to say"
    changes.change_edits(crossing, [as_edit("berths", 9)], [], "me", "nine")
    assert work("land", crossing, out=str(out))["item"] == {"same": 1, "changed": 1}
    assert "* one" not in page.read_text("utf-8")
