"""Many addresses at once: each with its verdict, good ones made into crossings."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from grandferry.core.errors import AddressError
from grandferry.core.side import Side
from grandferry.net.start import verdicts
from grandferry.store import crossings
from grandferry.store.survey import given
from grandferry.work.survey.opening import many_crossings
from tests.servers import apps, pages_app

Run = Callable[..., dict[str, Any]]


def test_six_lines_get_six_verdicts() -> None:
    site: dict[str, Any] = {
        "/": "<title>Home</title><p>welcome to the line",
        "/shop/": "<title>Shop</title><p>mugs and tea towels",
        "/moved": (301, {"Location": "/shop/"}, b""),
        "/staff/login": "<title>Log in</title><h1>Log in</h1><form><input type=password></form>",
    }
    with apps(pages_app(site)) as (port,):
        base = f"http://127.0.0.1:{port}"
        lines = [
            f"{base}/",
            f"{base}/shop/",
            f"127.0.0.1:{port}/shop/",
            f"  {base}/ ",
            "http://no-such-host.invalid/",
            f"{base}/none",
        ]
        lines += ["", f"{base}/moved", f"{base}/staff/login", "mailto:x@y.test"]
        found = asyncio.run(verdicts(lines, "FerryTest/1"))
    told = [(v.kind, v.good) for v in found]
    assert told == [
        ("good", True),
        ("good", True),
        ("a repeat", False),
        ("a repeat", False),
        ("unreachable", False),
        ("not there", False),
        ("a repeat", False),
        ("wants a login", False),
        ("unreadable", False),
    ]
    assert all(v.says for v in found) and found[1].title == "Shop" and "404" in found[5].says
    with apps(pages_app(site), ports=[port]):
        alone = asyncio.run(verdicts([f" 127.0.0.1:{port}/shop/"], "FerryTest/1"))
        alone += asyncio.run(verdicts([f"{base}/moved"], "FerryTest/1"))
    assert [(v.kind, v.address) for v in alone] == [("repaired", f"{base}/shop/"), ("redirected", f"{base}/shop/")]


def test_forty_eight_of_fifty_two_are_queued(workspace: Path, work: Run) -> None:
    site: dict[str, Any] = {f"/p{n}": f"<title>P{n}</title><p>page {n}" for n in range(52)}
    with apps(pages_app(site)) as (port,):
        found = asyncio.run(verdicts([f"127.0.0.1:{port}/p{n}" for n in range(52)], "FerryTest/1"))
        assert all(v.kind == "repaired" for v in found)
        (made,) = many_crossings(
            [(v.address, v.title) for v in found if v.title not in ("P3", "P9", "P20", "P51")], "Ann"
        )
        assert given.lists(Side(made.id))[0].addresses == 48
        plan = crossings.load_plan(made.id)
        plan.manners.delay = 0
        crossings.save_plan(made.id, plan, [])
        assert work("survey", made.id)["pages"] == 48


def test_a_crossing_for_each_site_and_none_when_one_cannot_be_read(workspace: Path) -> None:
    made = many_crossings([("http://a.test/", "Line"), ("http://b.test/x", "Line"), ("http://www.a.test/y", "")], "")
    assert [c.name for c in made] == ["Line", "Line (b.test)"]
    assert len(given.lists(Side(made[0].id))) == 1 and given.lists(Side(made[1].id)) == []
    with pytest.raises(AddressError):
        many_crossings([("http://c.test/", ""), ("nonsense:", "")], "")
    assert len(crossings.crossings()) == 2
