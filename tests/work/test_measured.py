"""A body old against new: counted, and each run of words that is missing or was added with its text."""

from __future__ import annotations

import httpx

from grandferry.core.page import parse
from grandferry.core.plan import Edit
from grandferry.core.refit.convert import refit_nodes
from grandferry.core.refit.measure import measured
from grandferry.store import changes
from tests.api.test_api import client
from tests.work.test_folders import crossing
from tests.work.test_groups import Run

__all__ = ["client", "crossing"]

PAGE = (
    "<main><h2>Boats</h2><p>Three of them. <a href=/x>More</a> <img src=a.png></p><ul><li>One<li>Two</ul>"
    "<table><tr><th>Name<th>Built<tr><td>Wren<td>1901</table></main>"
)


def test_old_and_new_are_counted() -> None:
    page = parse(PAGE)
    blocks = refit_nodes(page, [page.body]).blocks
    assert [tuple(one) for one in measured(page, [page.body], blocks)] == [
        ("words", 11, 11), ("headings", 1, 1), ("pictures", 1, 1), ("links", 1, 1), ("lists", 1, 1), ("tables", 1, 1),
    ]  # fmt: skip
    assert [one.new for one in measured(page, [page.body], blocks[1:])] == [10, 0, 1, 1, 1, 1]


def test_a_lost_paragraph_and_an_added_box_are_both_shown(crossing: int, work: Run, client: httpx.Client) -> None:
    at = f"/api/crossings/{crossing}"
    item = next(row["item"] for row in client.get(f"{at}/bodies").json()["rows"] if row["key"] == "/b.html")
    (block,) = client.get(f"{at}/bodies/{item}/body/blocks").json()
    box = "<div class=note><p>From somewhere else.</p><ul><li>x</ul></div>"
    changes.change_edits(
        crossing,
        [
            Edit(old="/b.html", field="body", block=block["id"], act="drop", over=block["hash"]),
            Edit(old="/b.html", field="body", block=block["id"], act="after", value=box, over=block["hash"]),
        ],
        [],
        "me",
        "by hand",
    )
    body = client.get(f"{at}/bodies/{item}/body").json()
    assert "Two." in body["old_text"] and "Two." not in body["new_text"]
    assert "From somewhere else." in body["new_text"] and "From somewhere else." not in body["old_text"]
    counts = {one["name"]: (one["old"], one["new"]) for one in body["measures"]}
    assert counts["words"] == (2, 4) and counts["lists"] == (0, 1) and counts["headings"] == (1, 0)
