"""A crossing landed in a folder: the same bytes when nothing changed, only what changed otherwise, and nothing of a
person's lost."""

from __future__ import annotations

import errno
import json
import os
from collections.abc import Callable
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import jsonschema_rs
import pytest

from grandferry.core.plan import Edit, LandSettings
from grandferry.ports.targets import folder as folder_target
from grandferry.store import changes, crossings
from grandferry.store.db import workspace_folder
from grandferry.work.land.places import file_of_item, landed, packed
from tests.work.test_groups import Make, Run, surveyed

PNG = bytes.fromhex("89504e470d0a1a0a0000000d494844520000000100000001080600000" "01f15c4890000000d49444154789c6360000002000154a24f5d0000000049454e44ae426082")  # fmt: skip
PLAN: dict[str, Any] = {
    "kinds": [
        {
            "name": "page",
            "rules": [{"element": "main"}],
            "address": "/new/{slug}",
            "fields": [
                {"name": "title", "type": "line", "required": True, "locators": [{"css": "h1"}]},
                {"name": "body", "type": "blocks", "locators": [{"css": "main"}]},
            ],
        }
    ],
    "refit": {"steps": [{"name": "title", "remove": "h1"}]},
    "route": {"files": "/media/{name}"},
}


def site(text: str = "One.") -> dict[str, Any]:
    page = "<main><h1>{}</h1><p>{}</p></main>"
    return {
        "/": page.format("Home", "<a href=/a.html>a</a> <a href=/b.html#x>b</a> <img src=/p.png alt=P>"),
        "/a.html": page.format("A", text),
        "/b.html": page.format("B", "<b id=x>Two.</b>"),
        "/p.png": (200, {"Content-Type": "image/png"}, PNG),
    }


@pytest.fixture
def crossing(cross: Make, work: Run) -> int:
    number = surveyed(cross, work, site())
    plan = crossings.load_plan(number).model_dump() | PLAN | {"land": {"target": "markdown"}}
    changes.change_plan(number, type(crossings.load_plan(number)).model_validate(plan), 0, "me", "by hand")
    for job in ("sort", "lift", "refit", "route"):
        work(job, number)
    return number


def content(folder: Path) -> dict[str, bytes]:
    return {str(f.relative_to(folder)): f.read_bytes() for f in folder.rglob("*") if f.is_file()}


def edited(crossing: int, work: Run, key: str, title: str) -> None:
    """A title set by hand, as a person does."""
    changes.change_edits(crossing, [Edit(old=key, field="title", value=title)], [], "me", "title")
    for job in ("lift", "route"):
        work(job, crossing)


def test_it_holds_items_files_the_map_the_account_and_the_plan(crossing: int, work: Run, tmp_path: Path) -> None:
    told = work("land", crossing, out=str(tmp_path / "out"))
    assert told["item"] == {"created": 3} and told["file"] == {"created": 1} and not told["refused"]
    found = content(tmp_path / "out")
    assert set(found) == {
        "content/new/home.md", "content/new/a.md", "content/new/b.md", "static/media/p.png", "account.json",
        "files.csv", "ledger.json", "redirects.csv", "shared.jsonl", "plan/plan.yaml", "plan/pairs.csv",
    }  # fmt: skip
    assert found["static/media/p.png"] == PNG
    home = found["content/new/home.md"].decode()
    assert 'permalink: "/new/home/index.html"' in home and 'old_address: "/"' in home
    assert "[a](/new/a) [b](/new/b#x) ![P](/media/p.png)" in home
    assert b'<a id="x"></a>' in found["content/new/b.md"]
    assert b"/a.html,/new/a,301,exact" in found["redirects.csv"]
    account = json.loads(found["account.json"])
    assert account["files"] == {"carried": 1} and account["words"]["unaccounted"] == 0
    assert account["open"] == [{"what": "items of page", "count": 3, "why": "no template is named"}]


def test_nothing_is_written_when_nothing_changed_and_only_what_did_otherwise(
    crossing: int, work: Run, tmp_path: Path
) -> None:
    out = tmp_path / "out"
    work("land", crossing, out=str(out))
    before = content(out)
    times = {name: (out / name).stat().st_mtime_ns for name in before}
    told = work("land", crossing, out=str(out))
    assert told["item"] == {"same": 3} and told["documents"] == 0
    assert content(out) == before and times == {name: (out / name).stat().st_mtime_ns for name in before}
    assert work("land", crossing, out=str(tmp_path / "other"))["created"] == 4
    assert content(tmp_path / "other") == before, "the same bytes in another folder"
    edited(crossing, work, "/a.html", "Another")
    told = work("land", crossing, out=str(out))
    assert told["item"] == {"changed": 2, "same": 1}, "the page that links to it says its new address"
    after = content(out)
    assert "content/new/a.md" not in after and b'title: "Another"' in after["content/new/another.md"]
    assert after["content/new/b.md"] == before["content/new/b.md"]


def test_what_a_person_changed_stays_until_it_may_be_written_over(crossing: int, work: Run, tmp_path: Path) -> None:
    out = tmp_path / "out"
    work("land", crossing, out=str(out))
    mine = out / "content" / "new" / "home.md"
    mine.write_text("mine", "utf-8")
    (out / "notes.txt").write_text("mine as well", "utf-8")
    told = work("land", crossing, out=str(out))
    assert not told["refused"] and mine.read_text() == "mine", "there is nothing new to say of it"
    edited(crossing, work, "/", "Welcome")
    edited(crossing, work, "/a.html", "Another")
    mine = out / "content" / "new" / "b.md"
    mine.write_text("mine", "utf-8")
    edited(crossing, work, "/b.html", "B")
    changes.change_edits(crossing, [Edit(old="/b.html", field="body", value="<p>New.</p>")], [], "me", "body")
    work("refit", crossing, all=True)
    told = work("land", crossing, out=str(out))
    assert [row["key"] for row in told["refused"]] == ["/b.html"] and "was changed there since" in told["refused"][0][
        "reason"
    ]
    assert mine.read_text() == "mine" and (out / "content" / "new" / "welcome.md").is_file()
    assert (out / "content" / "new" / "home.md").read_text() == "mine", "what it was called before, changed, stays"
    told = work("land", crossing, out=str(out), over=True)
    assert not told["refused"] and "New." in mine.read_text()
    assert (out / "notes.txt").read_text() == "mine as well"


def test_names_change_hands_and_a_changed_file_of_before_is_named(crossing: int, work: Run, tmp_path: Path) -> None:
    out = tmp_path / "out"
    work("land", crossing, out=str(out))
    titles = [Edit(old="/a.html", field="title", value="B"), Edit(old="/b.html", field="title", value="A")]
    changes.change_edits(crossing, titles, [], "me", "titles")
    for job in ("lift", "route"):
        work(job, crossing)
    told = work("land", crossing, out=str(out))
    assert not told["refused"] and not told["kept"] and told["removed"] == 0
    assert 'old_address: "/a.html"' in (out / "content" / "new" / "b.md").read_text()
    assert 'old_address: "/b.html"' in (out / "content" / "new" / "a.md").read_text()
    assert work("land", crossing, out=str(out), over=True)["item"] == {"same": 3}
    (out / "content" / "new" / "a.md").write_text("mine")
    edited(crossing, work, "/b.html", "Other")
    told = work("land", crossing, out=str(out))
    assert [name for name, _ in told["kept"]] == ["content/new/a.md"]
    assert (out / "content" / "new" / "other.md").is_file() and (out / "content" / "new" / "a.md").read_text() == "mine"


def test_a_run_that_is_killed_in_the_middle_is_gone_on_with(
    crossing: int, work: Run, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    real, done = folder_target.write_whole, [0]

    def killed(place: Path, what: bytes) -> None:
        done[0] += 1
        if done[0] > 3:
            raise SystemExit  # as a kill: nothing is kept after it
        real(place, what)

    out = tmp_path / "out"
    monkeypatch.setattr(folder_target, "write_whole", killed)
    with monkeypatch.context() as nothing_kept, pytest.raises(SystemExit):
        nothing_kept.setattr(folder_target.Folder, "__aexit__", _nothing)
        work("land", crossing, out=str(out))
    monkeypatch.undo()
    assert (out / "ledger.json").is_file(), "the folder is known for ours"


async def _nothing(*_: object) -> None:
    pass


def test_what_is_no_more_of_the_crossing_goes(crossing: int, work: Run, tmp_path: Path) -> None:
    out = tmp_path / "out"
    work("land", crossing, out=str(out))
    plan = crossings.load_plan(crossing)
    plan.kinds[0].rules[0].address = "/a.*"
    changes.change_plan(crossing, plan, changes.revision(crossing), "me", "rule")
    for job in ("sort", "lift", "refit", "route"):
        work(job, crossing)
    told = work("land", crossing, out=str(out))
    assert told["removed"] == 2 and not (out / "content" / "new" / "b.md").exists()
    told = work("land", crossing, out=str(out), take_back=True)
    assert not told["refused"] and set(content(out)) == {"ledger.json"}


def test_a_dry_run_and_a_trial(crossing: int, work: Run, tmp_path: Path) -> None:
    out = tmp_path / "out"
    assert work("land", crossing, out=str(out), dry=True)["created"] == 4
    assert not out.exists(), "a dry run makes nothing"
    work("land", crossing, out=str(out), trial="/a.html")
    assert {"content/new/a.md", "static/media/p.png"} == set(content(out)) - {"ledger.json"}
    assert file_of_item(crossing, "/b.html").file == "content/new/b.md"
    assert landed(crossing).place == str(workspace_folder() / "landed" / "test") and landed(crossing).files == 0
    work("land", crossing)
    assert landed(crossing).files == 10
    archive = packed(crossing)
    assert archive.stat().st_size > 1000
    archive.unlink()


@pytest.mark.parametrize("form", ["json", "jsonl", "html", "feed"])
def test_the_other_forms(crossing: int, work: Run, tmp_path: Path, form: str) -> None:
    out, target = tmp_path / "out", LandSettings(target=form).model_dump(mode="json")  # type: ignore[arg-type]
    assert work("land", crossing, out=str(out), target=target)["item"] == {"created": 3}
    before = content(out)
    assert work("land", crossing, out=str(out), target=target)["item"] == {"same": 3} and content(out) == before
    if form == "html":
        assert b"<main>\n<h1>B</h1>\n" in before["pages/new/b/index.html"] and before["pages/media/p.png"] == PNG
        return
    if form == "feed":
        assert before["items/page.xml"].count(b"<item>") == 3 and before["files/media/p.png"] == PNG
        edited(crossing, work, "/a.html", "Another\x07 ]]> & <b>")
        assert work("land", crossing, out=str(out), target=target)["item"] == {"changed": 2, "same": 1}
        ElementTree.fromstring(content(out)["items/page.xml"])
        return
    texts = (
        [before[f"items/new/{n}.json"].decode() for n in "ab"]
        if form == "json"
        else before["items/page.jsonl"].decode().splitlines()
    )
    schema = json.loads(before["schemas/page.json"])
    for text in texts:
        row = json.loads(text)
        jsonschema_rs.validator_for(schema).validate(row)
        assert not jsonschema_rs.is_valid(schema, row | {"body": {"format": 1, "blocks": [{"type": "Nonsense"}]}})
    edited(crossing, work, "/a.html", "Another")
    if form == "jsonl":
        assert (
            "none can be landed alone"
            in work("land", crossing, fails=True, out=str(out), target=target, trial="/")["error"]
        )
    told = work("land", crossing, out=str(out), target=target)
    assert told["item"] == {"changed": 2, "same": 1}


def test_a_folder_that_holds_other_things_or_cannot_be_written(crossing: int, work: Run, tmp_path: Path) -> None:
    (tmp_path / "full").mkdir()
    (tmp_path / "full" / "notes.txt").write_text("mine")
    assert "holds other things" in work("land", crossing, fails=True, out=str(tmp_path / "full"))["error"]
    assert "is a file" in work("land", crossing, fails=True, out=str(tmp_path / "full" / "notes.txt"))["error"]
    assert (tmp_path / "full" / "notes.txt").read_text() == "mine"
    work("land", crossing, out=str(tmp_path / "out"))
    (tmp_path / "out" / "ledger.json").write_text("{")
    assert "cannot be read" in work("land", crossing, fails=True, out=str(tmp_path / "out"))["error"]


def test_a_disk_that_is_full_says_so_and_what_was_written_is_gone_on_with(
    crossing: int, work: Run, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    real: Callable[..., None] = folder_target.write_whole
    left = {"n": 2}

    def full(place: Path, what: bytes) -> None:
        if place.suffix == ".md":
            left["n"] -= 1
            if left["n"] < 0:
                raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))
        real(place, what)

    out = tmp_path / "out"
    monkeypatch.setattr(folder_target, "write_whole", full)
    assert "No space left on device" in work("land", crossing, fails=True, out=str(out))["error"]
    monkeypatch.undo()
    told = work("land", crossing, out=str(out))
    assert told["item"] == {"same": 2, "created": 1} and not told["refused"]


def test_a_link_in_the_folder_leads_nothing_out_of_it(crossing: int, work: Run, tmp_path: Path) -> None:
    out, away = tmp_path / "out", tmp_path / "away"
    work("land", crossing, out=str(out), trial="/a.html")
    away.mkdir()
    (out / "content" / "new" / "b.md").symlink_to(away / "b.md")
    told = work("land", crossing, out=str(out))
    assert [row["key"] for row in told["refused"]] == ["/b.html"] and "outside" in told["refused"][0]["reason"]
    assert list(away.iterdir()) == []


def test_files_beside_the_items_that_show_them(crossing: int, work: Run, tmp_path: Path) -> None:
    plan = crossings.load_plan(crossing)
    plan.route.files = "{item}/{name}"
    assert plan.land is not None
    plan.land.profile = plan.land.as_markdown.model_copy(
        update={"file": "content/{path}/index.md", "media": "content/{path}"}
    )
    changes.change_plan(crossing, plan, changes.revision(crossing), "me", "beside")
    work("route", crossing)
    work("land", crossing, out=str(tmp_path / "out"))
    found = content(tmp_path / "out")
    assert found["content/new/home/p.png"] == PNG
    assert b"![P](/new/home/p.png)" in found["content/new/home/index.md"]


def test_what_waits_for_a_person_goes_along(cross: Make, work: Run, tmp_path: Path) -> None:
    form = (
        "<form action=/send method=post><label>Name <input name=n required></label><textarea name=t></textarea></form>"
    )
    said = "".join(f"<div class=comment><b>B{n}</b><p>Word {n}</p></div>" for n in range(5))
    pages = site() | {
        "/c.html": f"<main><h1>C</h1><a href=/left.html>l</a>{form}</main><section>{said}</section>",
        "/left.html": "<h1>Left</h1>",
    }
    pages["/"] = pages["/"].replace("</main>", "<a href=/c.html>c</a> <a href=/left.html>l</a></main>")
    number = surveyed(cross, work, pages)
    parts = [{"name": "author", "css": "b"}, {"name": "text", "css": "p"}]
    comments = {"name": "comments", "type": "group", "locators": [{"css": ".comment"}], "parts": parts}
    plan = crossings.load_plan(number).model_dump() | PLAN | {"land": {"target": "markdown"}}
    plan["kinds"] = [{**PLAN["kinds"][0], "fields": [*PLAN["kinds"][0]["fields"], comments]}]
    changes.change_plan(number, type(crossings.load_plan(number)).model_validate(plan), 0, "me", "by hand")
    for job in ("sort", "lift", "refit", "route"):
        work(job, number)
    out = tmp_path / "out"
    work("land", number, out=str(out))
    (asked,) = json.loads((out / "forms.json").read_text())
    assert (asked["old"], asked["method"], [f["name"] for f in asked["fields"]]) == ("/c.html", "post", ["n", "t"])
    lines = [json.loads(line) for line in (out / "comments" / "new" / "c.jsonl").read_text().splitlines()]
    assert lines == [{"author": f"B{n}", "text": f"Word {n}"} for n in range(5)]
    links = (out / "links.csv").read_text().splitlines()
    assert links[0] == "page,leads_to,times" and {"/,/left.html,1", "/c.html,/left.html,1"} <= set(links)
    account = json.loads((out / "account.json").read_text())
    assert account["comments"] == {"items": 1, "comments": 5, "left_out": 0}
    assert {row["what"]: row["count"] for row in account["open"] if row["what"] in ("forms", "links")} == {
        "forms": 1,
        "links": 2,  # where the form posts to is the form's
    }
    files = (out / "files.csv").read_text().splitlines()
    assert files[1].startswith(f"/media/p.png,image/png,{len(PNG)},1,1,1,P,http://")
    plan = crossings.load_plan(number)
    plan.leave_out.append("comments")
    changes.change_plan(number, plan, changes.revision(number), "me", "no comments")
    work("land", number, out=str(out))
    account = json.loads((out / "account.json").read_text())
    assert account["comments"] == {"items": 0, "comments": 0, "left_out": 5} and not (out / "comments").exists()
