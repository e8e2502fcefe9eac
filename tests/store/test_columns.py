"""Lists of large crossings: what lies on disk answers as the database does, and goes when its data changes."""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from grandferry.core.side import Side
from grandferry.store import jobs
from grandferry.store.db import one, rows, transaction
from grandferry.store.lists import columns, windows
from grandferry.store.survey.met import NewAddress, add_addresses

Make = Callable[..., int]
FOLDERS = ("", "news/", "news/2019/", "news-sheet/", "Engines/", "é/", "list.aspx?", "list.aspx?a=1/b&")


@pytest.fixture
def many(cross: Make, monkeypatch: pytest.MonkeyPatch) -> int:
    """Six hundred addresses on two hosts, enough to count as a large crossing here."""
    monkeypatch.setattr(columns, "LARGE", 100)
    crossing = cross({"old": {"start": "http://old.test/"}})
    dice = random.Random(3)
    keys = sorted({f"/{dice.choice(FOLDERS)}{dice.choice(('page', 'Page', 'ref'))}-{n}" for n in range(600)})
    dice.shuffle(keys)
    with transaction():
        add_addresses(
            Side(crossing),
            [
                NewAddress(n + 1, f"http://{host}{key}", host, key, 0, n % 5, 1)
                for n, key in enumerate(keys)
                for host in ("files.test" if n % 7 == 0 else "old.test",)
            ],
        )
        rows("UPDATE address SET title = 'Title ' || (id % 50), visits = (id * 37) % 101, counted = id % 3 > 0")
        rows("UPDATE address SET fate = 'moved' WHERE id % 4 = 0")
    finished(crossing, "survey")
    return crossing


def finished(crossing: int, kind: str) -> None:
    number = jobs.add_job(kind, crossing)
    claimed = jobs.claim()
    assert claimed is not None and claimed.id == number
    jobs.finish(number, claimed.lease, "done")


SELECTIONS = [
    (windows.Selection(), "-visits"),
    (windows.Selection({"fate": ["moved"]}), "title"),
    (windows.Selection({"site": ["own"], "account": ["in"]}), "key"),
    (windows.Selection(search="PAGE-1"), "-key"),
    (windows.Selection(search="title 7"), "depth"),
    (windows.Selection({"fate": ["unaccounted"]}, below="/news/"), "-words"),
]


def answers(crossing: int) -> list[Any]:
    lists = [[row.id for row in windows.window(Side(crossing), s, order, 0, 700)[1]] for s, order in SELECTIONS]
    return [*lists, windows.branches(Side(crossing), "", "/"), windows.branches(Side(crossing), "old.test", "/")]


def test_what_lies_on_disk_answers_as_the_database_does(many: int, workspace: Path) -> None:
    fresh = answers(many)
    columns._made.clear()
    windows.prepare(Side(many))
    home = next((workspace / "lists" / f"{many}-old").iterdir())
    assert (home / "column-visits.npy").exists() and not (home / "codes-fate.npy").exists(), "what was found alone"
    assert answers(many) == fresh
    wanted, order = SELECTIONS[1]
    by_sql = rows("SELECT id FROM address WHERE fate = 'moved' AND counted = 1 ORDER BY title, id")
    assert windows.ordered(Side(many), wanted, order).tolist() == [row[0] for row in by_sql]


def test_a_decision_leaves_what_was_found_and_a_survey_does_not(many: int, workspace: Path) -> None:
    windows.prepare(Side(many))
    before = windows.window(Side(many), windows.Selection({"fate": ["moved"]}), "key", 0, 1)[0]
    with transaction():
        rows("UPDATE address SET fate = 'retired' WHERE id <= 60")
    finished(many, "route")
    homes = list((workspace / "lists" / f"{many}-old").iterdir())
    assert windows.window(Side(many), windows.Selection({"fate": ["moved"]}), "key", 0, 1)[0] == before - 10, (
        "of fifteen that were moved, five are in no account"
    )
    windows.prepare(Side(many))
    assert list((workspace / "lists" / f"{many}-old").iterdir()) == homes, "nothing to make anew"
    with transaction():
        rows("UPDATE address SET visits = 5000 WHERE id = 77")
    finished(many, "survey")
    assert windows.window(Side(many), windows.Selection(), "-visits", 0, 1)[1][0].id == 77
    windows.prepare(Side(many))
    assert [home for home in (workspace / "lists" / f"{many}-old").iterdir() if home in homes] == [], (
        "older ones are gone"
    )


def test_one_cut_off_in_the_middle_is_not_believed(many: int, workspace: Path) -> None:
    windows.prepare(Side(many))
    home = next((workspace / "lists" / f"{many}-old").iterdir())
    (home / "whole").unlink()
    np.save(home / "column-visits.npy", np.zeros(3))
    columns._made.clear()
    top = one("SELECT id FROM address ORDER BY visits DESC, id DESC LIMIT 1")
    assert windows.window(Side(many), windows.Selection(), "-visits", 0, 1)[1][0].id == top


@pytest.mark.parametrize("below", ["/", "/news/", "/news/2019/", "/list.aspx?a=1/", "/none/"])
def test_the_tree_counts_as_one_would_by_hand(many: int, below: str) -> None:
    expected: Counter[str] = Counter()
    open_: Counter[str] = Counter()
    for key, counted, fate in rows("SELECT key, counted, fate FROM address WHERE host = 'old.test'"):
        if not key.startswith(below):
            continue
        rest = key[len(below) :]
        ends = [place for place in (rest.find("/"), rest.find("?")) if place >= 0]
        name = rest[: min(ends) + 1] if ends else ""
        expected[name] += 1
        open_[name] += counted and fate == "unaccounted"
    found = windows.branches(Side(many), "old.test", below)
    assert {row.name: (row.addresses, row.unaccounted) for row in found} == {
        name: (number, open_[name]) for name, number in expected.items()
    }


def _added(crossing: int, id_: int) -> None:
    """An address met by a job that goes on, and the event that tells of it."""
    with transaction():
        add_addresses(
            Side(crossing), [NewAddress(id_, f"http://old.test/new-{id_}", "old.test", f"/new-{id_}", 0, 1, 1)]
        )
        jobs.add_event(crossing, None, "note", "met")


def test_a_list_asked_for_while_a_survey_writes_is_of_one_moment(many: int, monkeypatch: pytest.MonkeyPatch) -> None:
    """Whatever comes between two of its arrays, they are equally long; the next question sees what came."""
    before = len(windows.ordered(Side(many), windows.Selection(), "key"))
    numbers, added = columns.numbers, []

    def meanwhile(expression: str, rest: str, *values: Any) -> Any:
        made = numbers(expression, rest, *values)
        added.append(10_000 + len(added))
        _added(many, added[-1])
        return made

    monkeypatch.setattr(columns, "numbers", meanwhile)
    _added(many, 9_999)
    asked = windows.Selection({"fate": ["unaccounted", "moved", windows.OUT]}, search="-", below="/")
    total, _ = windows.window(Side(many), asked, "-visits", 0, 10)
    assert total == before + 1
    assert len(added) > 1
    monkeypatch.undo()
    assert len(windows.ordered(Side(many), windows.Selection(), "key")) == before + 1 + len(added)


def test_a_small_crossing_beside_a_large_one_is_shown_as_it_is(many: int, cross: Make, monkeypatch: Any) -> None:
    monkeypatch.setattr(columns, "LARGE", 100)
    small = cross({"name": "Small", "old": {"start": "http://old.test/"}})
    _added(small, 5_000)
    for crossing in (small, many):
        jobs.add_job("survey", crossing)
        assert jobs.claim() is not None
    counts = [[], []]  # type: list[list[int]]
    for step in range(2):
        for found, crossing in zip(counts, (small, many), strict=True):
            found.append(len(windows.ordered(Side(crossing), windows.Selection(), "key")))
            _added(crossing, 6_000 + 10 * step + crossing)
    assert counts[0] == [1, 2], "a small one is read anew"
    assert counts[1][0] == counts[1][1], "a large one stands still for some seconds while a job writes"
