"""A redirect that leaves for another host is asked there, politely, and never proven without an answer."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

from grandferry.core.plan import Pair
from grandferry.store.db import rows
from grandferry.work.route.check import OTHERS_DELAY
from tests.servers import apps, free_port, pages_app

NAMES = ["good", "twin", "dead", "onward", "barred", "silent", "wrong"]


def hop(place: str) -> tuple[int, dict[str, str], bytes]:
    return 301, {"Location": place}, b""


def test_places_on_other_hosts_are_asked_and_judged_by_their_answer(
    cross: Callable[..., int], work: Callable[..., dict[str, Any]]
) -> None:
    asked: list[str] = []
    nobody = free_port()
    old = {"/": "".join(f"<a href=/{n}>{n}</a>" for n in NAMES), **{f"/{n}": f"<h1>{n}</h1>" for n in NAMES}}
    old["/twin"] = "<h1>Good</h1>"
    other = {
        "/good": "<h1>Good</h1>",
        "/onward": hop("/good"),
        "/barred": (403, {}, b"no"),
        "/not-planned": "<h1>Other</h1>",
    }
    with apps(pages_app(old), pages_app(other, asked)) as (old_port, other_port):
        there = f"http://127.0.0.1:{other_port}"
        targets = {name: f"{there}/{name}" for name in NAMES}
        targets |= {"twin": f"{there}/good", "silent": f"http://127.0.0.1:{nobody}/silent"}
        new = {f"/{name}": hop(target) for name, target in targets.items()}
        new |= {"/": old["/"], "/wrong": hop(f"{there}/not-planned")}
        with apps(pages_app(new)) as (new_port,):
            crossing = cross(
                {
                    "old": {"start": f"http://127.0.0.1:{old_port}/"},
                    "interim": f"http://127.0.0.1:{new_port}",
                    "survey": {"sitemaps": False},
                },
                [Pair(old="/", new="/"), *(Pair(old=f"/{name}", new=target) for name, target in targets.items())],
            )
            work("survey", crossing)
            work("route", crossing)
            began = time.monotonic()
            work("check", crossing)
            taken = time.monotonic() - began
    verdicts = dict(rows("SELECT key, verdict FROM address WHERE counted = 1"))
    assert verdicts == {
        "/": "same",
        "/good": "as planned",
        "/twin": "as planned",
        "/dead": "target missing",
        "/onward": "chain",
        "/barred": "elsewhere",
        "/silent": "elsewhere",
        "/wrong": "wrong place",
    }
    proven = {key for key, is_proven in rows("SELECT key, proven FROM address WHERE counted = 1") if is_proven}
    assert proven == {"/", "/good", "/twin"}
    assert sorted(set(asked)) == sorted(asked), "each place is asked once"
    assert "/silent" not in asked and taken >= OTHERS_DELAY * (len(asked) - 1), "one after the other, with a pause"
