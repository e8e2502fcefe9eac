"""What to do next, told from figures alone."""

from __future__ import annotations

import pytest

from grandferry.core.because import Why, because
from grandferry.core.standing import Carried, Figures, Placeless, Todo, evidence, next_steps, said, waiting

SURVEYED = {"addresses": 9, "pages": 8}
SORTED = SURVEYED | {"kinds": 1, "sorted": 8}
REFITTED = SORTED | {"items": 8, "bodies": 8}


@pytest.mark.parametrize(
    ("figures", "todos"),
    [
        ({}, [Todo.SURVEY]),
        (SURVEYED | {"waiting": 1}, [Todo.FETCH, Todo.FIRST_KIND]),
        (SURVEYED | {"kinds": 1}, [Todo.SORT]),
        (SORTED | {"unsorted": 1}, [Todo.UNSORTED, Todo.LIFT]),
        (SORTED | {"items": 8, "lift_open": 1, "target": True, "landed": 8}, [Todo.FIELDS, Todo.REFIT]),
        (REFITTED | {"words_lost": 1, "unaccounted": 1}, [Todo.WORDS, Todo.DECIDE, Todo.TARGET]),
        (REFITTED | {"target": True, "landed": 7, "unsent": True, "refused": 1}, [Todo.LAND, Todo.REFUSED]),
        (REFITTED | {"target": True, "landed": 8, "unsent": True}, [Todo.LAND_AGAIN]),
        (REFITTED | {"target": True, "landed": 8, "planned": 2}, [Todo.INTERIM]),
        (REFITTED | {"target": True, "landed": 8, "planned": 2, "interim": True}, [Todo.CHECK]),
        (REFITTED | {"target": True, "landed": 8, "proven": 9}, []),
    ],
)
def test_what_is_next_follows_the_work(figures: dict[str, int], todos: list[Todo]) -> None:
    found = Figures(**figures)
    steps = next_steps(found)
    assert [step.todo for step in steps] == todos
    assert all(step.settles > 0 and said(step, found) for step in steps)


def test_one_is_one_and_two_are_two() -> None:
    for count, says in ((1, "1 page is in no kind"), (2, "2 pages are in no kind")):
        found = Figures(addresses=count, pages=count)
        assert said(next_steps(found)[0], found).startswith(says)


def test_items_without_a_place_are_named_with_the_reason() -> None:
    placeless = (
        Placeless("news", because(Why.NO_VALUE, "day"), 3, "/a"),
        Placeless("shop", because(Why.NO_PATTERN), 1, "/b"),
    )
    found = Figures(**REFITTED, target=True, landed=8, placeless=placeless)
    assert [said(step, found) for step in next_steps(found)] == [
        "3 items of the kind news get no new address: “day” has no value to make an address from.",
        "1 item of the kind shop gets no new address: its kind names no pattern for new addresses",
    ]


def test_things_lost_are_told_apart_from_those_that_steps_took() -> None:
    things = (Carried("pictures", 10, 4, 1, 1), Carried("links", 7, 7, 0, 0), Carried("backgrounds", 2, 0, 2, 1))
    found = Figures(**REFITTED, target=True, landed=8, things=things, bodies_lossy=1)
    (step,) = next_steps(found)
    assert (step.settles, said(step, found)) == (1, "1 picture of 1 body not in its blocks")
    shown = evidence(found)
    assert (shown.pictures_carried, shown.links_carried, shown.frames_carried) == ((5, 6), (0, 0), (0, 0))
    assert waiting(found)["refit"] == 1
