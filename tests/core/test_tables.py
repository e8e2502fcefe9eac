"""Tables: which number became which name."""

from __future__ import annotations

from grandferry.core.route.suggest.tables import Table, find_tables

NAMES = ("thrush", "wren", "harebell", "osmer")
LIKELY = {f"/loco.aspx?id={n}": (f"/engines/{name}/", 0.9) for n, name in enumerate(NAMES)}


def test_numbers_that_became_names_are_one_table() -> None:
    more = {
        "/loco.aspx?id=7": ("/shop/mug", 0.9),
        "/loco.aspx?id=8": ("/engines/lark/", 0.3),
        "/a.htm": ("/x/a", 0.9),
        "/b.htm": ("/x/b", 0.9),
    }
    (table,) = find_tables(LIKELY | more, [*LIKELY, *more, "/loco.aspx?id=9"])
    assert table == Table(
        "/loco.aspx?id=#",
        "/engines/",
        {key: new for key, (new, _) in LIKELY.items()},
        ["/loco.aspx?id=7", "/loco.aspx?id=8", "/loco.aspx?id=9"],
    )


def test_what_a_rule_says_or_most_say_nothing_of_is_no_table() -> None:
    assert find_tables(LIKELY, [*LIKELY], settled={"/loco.aspx?id=0", "/loco.aspx?id=1"}) == []
    assert find_tables(LIKELY, [*LIKELY, *(f"/loco.aspx?id={n}" for n in range(20, 30))]) == []
    assert find_tables({}, []) == []
