"""The new shore as a tree, and what moving a part of it does to addresses and patterns."""

from __future__ import annotations

import pytest

from grandferry.core.errors import PlanError
from grandferry.core.route.tree import Branch, Move, branches, move_of, taken

PATHS = sorted(["/", "/x", "/x/a", "/x/b/", "/x?page=2", "/x-ray", "/y/", "/y/c/d"])


def test_the_tree_counts_what_stands_at_a_place_and_below_it() -> None:
    assert branches(PATHS, "") == [
        Branch("/", "/", 0),
        Branch("/x", "/x", 3),
        Branch("/x-ray", "/x-ray", 0),
        Branch("/y", "/y/", 1),
    ]
    assert branches(PATHS, "/x") == [Branch("/x/a", "/x/a", 0), Branch("/x/b", "/x/b/", 0)]
    assert branches(PATHS, "/y/") == branches(PATHS, "/y") == [Branch("/y/c", "", 1)]
    assert branches(PATHS, "/nowhere") == []


def test_a_place_moves_with_what_lies_below_it_and_nothing_that_looks_like_it() -> None:
    move = move_of("/x/", "/y/x/")
    assert move == Move("/x", "/y/x")
    assert [move.of(path) for path in PATHS] == ["", "/y/x", "", "/y/x/a", "/y/x/b/", "/y/x?page=2", "", ""]
    assert move.of("/x/{slug}") == "/y/x/{slug}"
    assert move.of("/x-ray/{slug}") == move.of("/{folder}/{slug}") == move.of("/x{slug}") == move.of("") == ""


def test_a_new_address_that_something_else_has_is_told() -> None:
    move = Move("/x", "/y")
    assert taken(move, {"/x": "/y", "/x/c": "/y/c"}, ["/x", "/x/c", "/y/c", "/z"]) == ["/y/c"]
    assert taken(move, {"/x/y": "/y/y"}, ["/x/y"]) == []


@pytest.mark.parametrize(
    ("was", "to", "says"),
    [
        ("/", "/y", "The home page stays"),
        ("/x", "y", "no place"),
        ("/x", "//host.test/y", "no place"),
        ("/x", "/y z", "no place"),
        ("/x", "/", "no place"),
        ("/x", "/x/", "there already"),
        ("/x", "/x/deeper", "below itself"),
    ],
)
def test_what_is_no_move_is_told(was: str, to: str, says: str) -> None:
    with pytest.raises(PlanError, match=says):
        move_of(was, to)
