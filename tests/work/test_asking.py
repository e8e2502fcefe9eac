"""Questions to the owner: what leads on only for now, counted as such, until a sheet or a word brings the answer."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable
from pathlib import Path
from typing import Any

import openpyxl
import pytest

from grandferry.core.because import sentence
from grandferry.core.errors import FerryError
from grandferry.core.plan import Pair
from grandferry.store import changes, crossings, route
from grandferry.store.db import rows
from grandferry.store.lists.windows import Selection
from grandferry.work.route import asking
from grandferry.work.route.opened import decide_shape
from grandferry.work.route.run import redirect_map
from grandferry.work.survey import ownerlists, sheets
from tests.servers import apps, pages_app

PAGES = ("/shop/", "/shop/rope.htm", "/shop/tar.htm", "/shop/old/oakum.htm", "/crew.htm")
SITE: dict[str, Any] = (
    {"/sale.htm": (301, {"Location": "/shop/rope.htm"}, b"")}
    | {"/": "".join(f"<a href={key}>{key}</a>" for key in (*PAGES, "/sale.htm"))}
    | {key: f"<h1>{key}</h1>" for key in PAGES}
)


@pytest.fixture
def crossing(cross: Callable[..., int], work: Callable[..., Any]) -> int:
    """A small site; its shop moves by a pair, the rest is open."""
    with apps(pages_app(SITE)) as (port,):
        number = cross(
            {"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}},
            [Pair(old="/shop/", new="/stores/")],
        )
        work("survey", number)
    work("route", number)
    return number


def ids(crossing: int, *keys: str) -> Selection:
    known = dict(rows("SELECT key, id FROM address WHERE crossing_id = ? AND counted = 1", crossing))
    return Selection(ids=tuple(known[key] for key in keys))


def told(crossing: int, key: str) -> tuple[str, str, str, int]:
    made = route.decisions(crossing)[key]
    return made.fate or "", made.target, made.origin, made.status


def test_asked_addresses_lead_for_now_to_the_page_above(crossing: int, work: Callable[..., Any]) -> None:
    number, text = asking.ask(
        crossing, ids(crossing, "/shop/rope.htm", "/shop/old/oakum.htm"), "Still sold?", "parent", "Ann"
    )
    assert (number, text) == (2, "the owner is asked about 2 addresses: Still sold?")
    work("route", crossing)
    assert told(crossing, "/shop/rope.htm") == ("merged", "/stores/", "question", 302)
    assert told(crossing, "/shop/old/oakum.htm")[:2] == ("merged", "/stores/")  # nothing nearer goes anywhere
    assert sentence(route.decisions(crossing)["/shop/rope.htm"].reason).endswith("until the owner answers: Still sold?")
    assert route.provisional(crossing) == 2
    assert told(crossing, "/sale.htm") == ("merged", "/stores/", "old redirect", 302), "and so what led there"
    line = redirect_map(crossing).exact["/shop/rope.htm"]
    assert (line.status, line.new) == (302, "/stores/")  # no browser keeps it once there is an answer
    # the shop itself goes elsewhere now: so does what leads there for now
    changes.change_pairs(crossing, [Pair(old="/shop/", new="/buy/")], [], "Ann", "moved again")
    work("route", crossing)
    assert told(crossing, "/shop/rope.htm")[:2] == ("merged", "/buy/")


def test_without_a_page_above_it_is_unaccounted_and_says_so(crossing: int, work: Callable[..., Any]) -> None:
    asking.ask(crossing, ids(crossing, "/crew.htm"), "Who keeps this?", "parent", "Ann")
    asking.ask(crossing, ids(crossing, "/shop/tar.htm"), "Still made?", "", "Ann")
    work("route", crossing)
    for key, words in (("/crew.htm", "Who keeps this?"), ("/shop/tar.htm", "Still made?")):
        assert told(crossing, key)[0] == ""
        assert sentence(route.decisions(crossing)[key].reason) == (
            f"the owner is asked, and until then it leads nowhere: {words}"
        )
    assert route.provisional(crossing) == 0 and len(asking.questions(crossing)) == 2


def test_an_answer_makes_it_final_and_is_kept(crossing: int, work: Callable[..., Any]) -> None:
    asking.ask(crossing, ids(crossing, "/shop/rope.htm", "/shop/tar.htm"), "Still sold?", "parent", "Ann")
    asking.answer(crossing, [asking.Answer("/shop/rope.htm", "retired", why="dropped in May", who="Bea")], "Ann")
    work("route", crossing)
    assert told(crossing, "/shop/rope.htm")[0] == "retired"
    assert "Bea" in route.decisions(crossing)["/shop/rope.htm"].reason
    assert told(crossing, "/shop/tar.htm")[2] == "question" and route.provisional(crossing) == 1
    left, done = asking.questions(crossing)
    assert (left.key, left.answer) == ("/shop/tar.htm", "")
    assert (done.key, done.answer, done.by) == ("/shop/rope.htm", "retired: dropped in May", "Bea")
    changes.undo(crossing, "Ann")
    work("route", crossing)
    assert told(crossing, "/shop/rope.htm")[2] == "question" and route.provisional(crossing) == 2


def test_answers_that_cannot_be_taken_change_nothing(crossing: int) -> None:
    asking.ask(crossing, ids(crossing, "/shop/rope.htm"), "Still sold?", "/stores/", "Ann")
    known = changes.revision(crossing)
    for bad, says in (
        (asking.Answer("/crew.htm", "retired"), "no open question is about it"),
        (asking.Answer("/shop/rope.htm", "perhaps"), "“perhaps” is none of stays, moved, retired, set aside"),
        (asking.Answer("/shop/rope.htm", "moved"), "moved needs a new address"),
        (asking.Answer("/shop/rope.htm", "moved", "ftp:x"), "is neither a path nor an http address"),
    ):
        with pytest.raises(FerryError, match=says):
            asking.answer(crossing, [bad], "Ann")
    with pytest.raises(FerryError, match="is no place to lead to for now"):
        asking.ask(crossing, ids(crossing, "/crew.htm"), "Where?", "somewhere", "Ann")
    with pytest.raises(FerryError, match="No question is written"):
        asking.ask(crossing, ids(crossing, "/crew.htm"), " ", "", "Ann")
    with pytest.raises(FerryError, match="None of these addresses is asked about"):
        asking.withdraw(crossing, ["/crew.htm"], "Ann")
    assert changes.revision(crossing) == known


@pytest.mark.parametrize("form", ["csv", "xlsx"])
def test_the_sheet_goes_out_and_its_answers_come_back(
    crossing: int, work: Callable[..., Any], tmp_path: Path, form: str
) -> None:
    keys = ("/shop/rope.htm", "/shop/tar.htm", "/shop/old/oakum.htm", "/crew.htm")
    asking.ask(crossing, ids(crossing, *keys), "=What becomes of it?", "parent", "Ann")
    work("route", crossing)
    out = tmp_path / f"q.{form}"
    assert asking.write_questions(crossing, out) == 4
    if form == "xlsx":
        table = [[cell or "" for cell in line] for line in openpyxl.load_workbook(out).active.values]  # type: ignore[union-attr]
    else:
        table = list(csv.reader(io.StringIO(out.read_text("utf-8-sig"))))
    at = {name: table[0].index(name) for name in asking.COLUMNS}
    lines = {str(line[at["address"]]): line for line in table[1:]}
    assert lines["/shop/rope.htm"][at["leads for now to"]] == "/stores/"
    assert lines["/crew.htm"][at["question"]] == "'=What becomes of it?"  # no formula
    lines["/shop/rope.htm"][at["answer"]] = "Retired"
    lines["/shop/rope.htm"][at["answered by"]] = "Bea"
    lines["/shop/tar.htm"][at["new address"]] = "/stores/tar"
    lines["/crew.htm"][at["answer"]] = "keep it!"
    text = io.StringIO()
    csv.writer(text).writerows([*table, list(lines["/shop/tar.htm"]), ["/none"] + ["retired"] * 8, [""] * 9])
    back = ownerlists.new_place()
    back.write_text(text.getvalue(), "utf-8", newline="")
    read = asking.read_questions(crossing, back, "Ann")
    assert (read.answered, read.empty) == (2, 1)
    assert {(key, why.split(",")[0]) for _, key, why in read.bad} == {
        ("/crew.htm", "“keep it!” is none of stays"),
        ("/shop/tar.htm", "stands in an earlier row as well"),
        ("/none", "no open question is about it"),
    }
    work("route", crossing)
    assert told(crossing, "/shop/rope.htm")[0] == "retired"
    assert told(crossing, "/shop/tar.htm")[:2] == ("moved", "/stores/tar")
    assert route.provisional(crossing) == 1
    again = asking.read_questions(crossing, back, "Ann")  # a second time: nothing is open there any more
    assert again.answered == 0 and {why for _, key, why in again.bad if key == "/shop/rope.htm"} == {
        "no open question is about it"
    }
    other = ownerlists.new_place()
    sheets.write_decisions(crossing, tmp_path / "d.csv")
    other.write_bytes((tmp_path / "d.csv").read_bytes())
    with pytest.raises(FerryError, match="no sheet of questions"):
        asking.read_questions(crossing, other, "Ann")


def test_a_shape_is_asked_about_and_asked_anew_after_an_answer(crossing: int, work: Callable[..., Any]) -> None:
    assert decide_shape(crossing, "/shop/*.htm", "ask", "parent", "Are these sold?", "Ann")[0] == 2
    work("route", crossing)
    asking.answer(crossing, [asking.Answer("/shop/rope.htm", "stays")], "Ann")
    assert [pair.old for pair in crossings.load_pairs(crossing)] == ["/shop/", "/shop/rope.htm"]
    asking.ask(crossing, ids(crossing, "/shop/rope.htm"), "Really?", "/help", "Ann")
    work("route", crossing)
    assert told(crossing, "/shop/rope.htm")[:3] == ("moved", "/help", "question")
    assert [(one.asked, one.answer) for one in asking.questions(crossing) if one.key == "/shop/rope.htm"] == [
        ("Really?", ""),
        ("Are these sold?", "stays"),
    ]
    asking.withdraw(crossing, ["/shop/rope.htm", "/shop/tar.htm"], "Ann")
    work("route", crossing)
    assert asking.questions(crossing) == [] and told(crossing, "/shop/rope.htm")[0] == ""
