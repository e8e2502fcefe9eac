"""A first draft of a whole crossing: proposals alone, marked as such; what a person decided stays; one undo."""

from __future__ import annotations

import csv
import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import jsonschema_rs
import pytest

from grandferry.core.errors import FerryError
from grandferry.core.kinds import Proposed
from grandferry.store import changes, crossings, lift, sort
from grandferry.work.land.account import account_of
from grandferry.work.land.items import write_items
from tests.core.test_grouping import around, boat, text, written
from tests.work.test_groups import Make, Run, fleet, surveyed, together

Write = Callable[[str], None]


def site() -> dict[str, Any]:
    """Reports with a share box, boats, and two pages that are like nothing else."""
    made = fleet()
    for key in list(made):
        if key[1:2] == "r":
            made[key] = made[key].replace("</main>", "<div class=share>Share this page with others</div></main>")
    made["/"] = made["/"].replace("</main>", "<a href=/odd.html>odd</a><a href=/docs/>docs</a></main>")
    return made | {"/odd.html": "<center><h1>Odd</h1><p>One of its own.</p></center>", "/docs/": "<h1>Docs</h1><p>Few."}


def test_a_draft_makes_a_whole_crossing(cross: Make, work: Run, tmp_path: Path) -> None:
    crossing = surveyed(cross, work, site())
    told = work("draft", crossing)
    plan = crossings.load_plan(crossing)
    assert told["kinds"] == len(plan.kinds) == 3 and told["steps"] == len(plan.refit.steps)
    assert all(kind.proposed and all(field.proposed for field in kind.fields) for kind in plan.kinds)
    assert sorted(sort.kind_counts(crossing).values()) == [3, 9, 14], "every page is in a kind"
    assert len(lift.made(crossing)) == 26
    share = next(step for step in plan.refit.steps if step.remove == "div.share")
    assert share.proposed == Proposed(right=14)

    out = tmp_path / "out"
    work("land", crossing, out=str(out), target={"target": "json"})
    account = json.loads((out / "account.json").read_text())
    assert account["addresses"]["stays"] == 25 and account["addresses"]["moved"] == 1
    assert account["addresses"]["unaccounted"] == account["words"]["unaccounted"] == 0
    words = account["words"]
    assert words["removed"] >= 14 * 5 and sum(n for name, n in words.items() if name != "have") == words["have"]
    rows = [json.loads(file.read_text()) for file in (out / "items").rglob("*.json")]
    schemas = {path.stem: json.loads(path.read_text()) for path in (out / "schemas").iterdir()}
    assert len(rows) == 26 and set(schemas) == {kind.name for kind in plan.kinds}
    required = {kind.name: [f.name for f in kind.fields if f.required and f.type != "blocks"] for kind in plan.kinds}
    for row in rows:
        lacks = any(row[name] is None for name in required[row["kind"]])
        assert jsonschema_rs.is_valid(schemas[row["kind"]], row) is not lacks
    odd = next(row for row in rows if row["old"] == "/odd.html")
    assert odd["new"] == "/odd" and odd["title"] == "Odd"
    assert "One of its own." in odd["body_markdown"]
    with (out / "redirects.csv").open() as handle:
        assert ["/odd.html", "/odd", "301", "exact"] in list(csv.reader(handle))
    assert (out / "plan" / "plan.yaml").is_file()
    assert changes.undo(crossing, "x").startswith("draft: 3 kinds")
    assert crossings.load_plan(crossing).kinds == [], "one undo takes all of it back"


def test_what_a_person_decided_stays_and_a_second_draft_changes_nothing(cross: Make, work: Run) -> None:
    crossing = surveyed(cross, work, site())
    plan = crossings.load_plan(crossing).model_dump()
    mine = {"name": "boat", "rules": [{"address": "/b[0-9]+"}], "address": "/boats/{slug}"}
    step = {"name": "mine", "remove": ".share"}
    plan |= {"kinds": [mine], "refit": {"steps": [step]}, "route": {"files": "/media/{name}"}}
    changes.change_plan(crossing, type(crossings.load_plan(crossing)).model_validate(plan), 0, "me", "by hand")
    work("draft", crossing)  # sorts by that kind first
    drafted = crossings.load_plan(crossing)
    assert drafted.kinds[0].name == "boat" and drafted.kinds[0].proposed is None
    assert "b1" not in "".join(kind.name for kind in drafted.kinds[1:]) and len(drafted.kinds) == 3
    assert drafted.refit.steps[0].name == "mine" and drafted.route.files == "/media/{name}"
    assert sort.kind_counts(crossing)["boat"] == 9
    revision = changes.revision(crossing)
    told = work("draft", crossing)
    assert changes.revision(crossing) == revision and told["sort"]["done"] == told["lift"]["done"] == 0


def test_a_site_of_one_page_and_none(cross: Make, work: Run, tmp_path: Path) -> None:
    crossing = surveyed(cross, work, {"/": "<h1>Alone</h1><p>All there is."})
    told = work("draft", crossing)
    assert told["kinds"] == 1 and crossings.load_plan(crossing).kinds[0].name == "page"
    account = account_of(crossing)
    assert [kind["items"] for kind in account["kinds"]] == [1] and account["addresses"]["stays"] == 1
    empty = cross({"name": "empty", "old": {"start": "http://b.test/"}})
    assert work("draft", empty)["kinds"] == 0
    assert account_of(empty)["kinds"] == []


def test_items_in_every_form(cross: Make, work: Run, tmp_path: Path) -> None:
    crossing = surveyed(cross, work, site())
    work("draft", crossing)
    for form in ("jsonl", "csv", "xlsx"):
        assert write_items(crossing, tmp_path / f"items.{form}") == 26
    kind = crossings.load_plan(crossing).kinds[0].name
    assert write_items(crossing, tmp_path / "some.csv", kind) < 26
    with (tmp_path / "items.csv").open(encoding="utf-8-sig", newline="") as handle:
        rows = list(csv.DictReader(handle))
    assert {"old", "new", "kind", "title", "body_text", "body_markdown"} <= rows[0].keys() and len(rows) == 26
    with pytest.raises(FerryError, match="no kind “what”"):
        write_items(crossing, tmp_path / "x.csv", "what")
    with pytest.raises(FerryError, match="ends in a form"):
        write_items(crossing, tmp_path / "x.doc")


def test_kinds_that_come_out_the_same_are_taken_together(cross: Make, work: Run) -> None:
    form = "<form class=order><fieldset><label>a<select><option>1</select></label></fieldset><button>b</button></form>"

    def page(n: int, more: str) -> str:
        box = (
            f"<div class=outer><div class=inner><div class=page><h1>{text(n, 2)}</h1><div class=text>{written(n)}</div>"
        )
        return around(f"<main>{box}<ul class=marks><li><i>x</i></ul>{more}</div></div></div></main>")

    plain = {f"/p{n}": page(n, "<div class=near><ol class=way><li><b>x</b></li></ol></div>") for n in range(9)}
    tickets = {f"/t{n}": page(n + 40, form) for n in range(8)}
    boats = {f"/b{n}": boat(n + 80) for n in range(8)}
    pages = {**plain, **tickets, **boats}
    links = "".join(f"<a href={key}>{key}</a>" for key in pages)
    crossing = surveyed(cross, work, {"/": around(f"<main><h1>All</h1>{links}</main>"), **pages})
    work("draft", crossing)
    apart = [{key[:2] for key in some} for some in together(crossing)]
    assert {"/p"} in apart and {"/t"} in apart, "pages with a form and those without are groups of their own"
    kinds = {kind.name: kind for kind in crossings.load_plan(crossing).kinds}
    kind_of = {key: name for name in kinds for key in (page.key for page in sort.pages_of_kind(crossing, name))}
    assert len({kind_of[key] for key in (*plain, *tickets)}) == 1, "but of one kind: they have the same fields"
    assert not {kind_of[key] for key in boats} & {kind_of[key] for key in plain}
    assert {field.name for field in kinds[kind_of["/p0"]].fields} == {"title", "body"}


def test_pages_of_one_make_are_parted_where_they_have_labels_of_their_own(cross: Make, work: Run) -> None:
    def old(body: str) -> str:
        menu = (
            "".join(f"<a href=/{way}>{way}</a><br>" for way in ("", "w1", "b/01", "w2")) + "<img src=/n.gif> visitors"
        )
        page = f"<table><tr><td>{menu}</td><td><font>{body}</font></td></tr></table>"
        return f"<center><img src=/l.gif></center>{page}<hr><center><font>Updated. <a href=/w1>us</a></font></center>"

    def walk(n: int) -> str:
        said = f"<b>Leader:</b> {text(n, 2)}<br><b>Length:</b> {n + 2} miles<br>"
        return old(f"<h2>{text(n + 7, 2)}</h2>{said}<p>{text(n, 30)}<img src=/m{n}.gif><p>{text(n + 1, 20)}")

    def bird(n: int) -> str:
        said = f"<tr><td><b>Size</b></td><td>{n + 9} cm</td></tr><tr><td><b>Seen</b></td><td>{text(n, 1)}</td></tr>"
        return old(f"<h2>{text(n + 9, 2)}</h2><table border=1>{said}</table><p>{text(n, 30)}<p>{text(n + 1, 20)}")

    pages = {f"/w{n}": walk(n) for n in range(22)} | {f"/b/{n:02}": bird(n) for n in range(18)}
    for n in range(16):  # and others that are quite different
        pages[f"/nl{n}.html"] = (
            f"<h1>Letter {n}</h1><h3>{n}</h3><p>{text(n)}<h4>x</h4><p>{text(n)}<p><a href=/>back</a>"
        )
    links = "".join(f"<li><a href={key}>{key}</a>" for key in pages)
    crossing = surveyed(cross, work, {"/": old(f"<h2>All</h2><ul>{links}</ul>"), **pages})
    work("draft", crossing)
    whole = next(some for some in together(crossing) if "/w1" in some)
    assert "/b/01" in whole, "made alike, by the cut that is taken where nobody says otherwise"
    fields = {
        page.key: {field.name for field in kind.fields}
        for kind in crossings.load_plan(crossing).kinds
        for page in sort.pages_of_kind(crossing, kind.name)
    }
    assert {"leader", "length"} <= fields["/w3"] and not {"size", "seen"} & fields["/w3"]
    assert {"size", "seen"} <= fields["/b/03"] and not {"leader", "length"} & fields["/b/03"]
