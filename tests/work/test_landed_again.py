"""A landing that is repeated: only real changes are sent, and what a target has lost is made anew."""

from __future__ import annotations

import sqlite3
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

from aiohttp import web

from grandferry.demo.newsystem import NewSystem
from grandferry.store.db import rows
from grandferry.work.land.run import PROBES
from tests.servers import apps, pages_app

Make = Callable[..., int]
Run = Callable[..., dict[str, Any]]
COUNT = 9
SITE = {
    "/": "".join(f"<a href=/log/{n}>{n}</a>" for n in range(COUNT)),
    **{f"/log/{n}": f"<title>Log {n}</title><h1>Log {n}</h1><div class=t><p>Entry {n}</p></div>" for n in range(COUNT)},
}
KINDS = [
    {
        "name": "log",
        "rules": [{"below": "/log"}],
        "address": "/log-book/{slug}",
        "fields": [
            {"name": "title", "type": "line", "locators": [{"css": "h1"}]},
            {"name": "body", "type": "blocks", "locators": [{"css": ".t"}]},
        ],
    }
]


def test_what_a_target_has_lost_is_made_anew_and_nothing_else_is_sent(cross: Make, work: Run, tmp_path: Path) -> None:
    asked: Counter[str] = Counter()
    closed: list[bool] = []

    def target() -> web.Application:
        app = NewSystem(tmp_path / "new.sqlite").app()

        @web.middleware
        async def counted(request: web.Request, handler: Any) -> web.StreamResponse:
            asked[request.method] += 1
            if closed and request.method == "GET" and request.path.count("/") > 2:
                return web.Response(status=403)
            return await handler(request)

        app.middlewares.append(counted)
        return app

    with apps(pages_app(SITE), target) as (old, new):
        land = {"target": "jsonapi", "base": f"http://127.0.0.1:{new}", "types": {"log": "pages"}}
        crossing = cross(
            {"old": {"start": f"http://127.0.0.1:{old}/"}, "survey": {"sitemaps": False}, "kinds": KINDS, "land": land}
        )
        for stage in ("survey", "sort", "lift", "refit", "route"):
            work(stage, crossing)
        assert work("land", crossing)["item"] == {"created": COUNT}

        def again(**params: Any) -> tuple[dict[str, int], int, int]:
            """(what was done with items and redirects, writes, questions about single things)."""
            asked.clear()
            done = work("land", crossing, **params)
            assert done["refused"] == []
            counts = Counter(done["item"]) + Counter(done["redirect"])
            return dict(counts), asked["POST"] + asked["PATCH"], asked["GET"] - 1

        things = 2 * COUNT
        assert again() == ({"same": things}, 0, 2 * PROBES)
        with sqlite3.connect(tmp_path / "new.sqlite") as db:
            db.execute("DELETE FROM thing WHERE type = 'pages'")
        told, writes, _ = again(dry=True)
        assert (told, writes) == ({"created": COUNT, "same": COUNT}, 0), "a dry run says so, and makes nothing"
        told, writes, questions = again()
        assert (told, writes, questions) == ({"created": COUNT, "same": COUNT}, COUNT, things)
        with sqlite3.connect(tmp_path / "new.sqlite") as db:
            assert db.execute("SELECT count(*) FROM thing").fetchone()[0] == things
        assert again() == ({"same": things}, 0, 2 * PROBES)
        closed.append(True)  # who may not be asked is believed, and it is said once
        assert again()[0] == {"same": things}
    warned = [text for (text,) in rows("SELECT text FROM event WHERE kind = 'warning'")]
    assert sum("does not hold all any more" in text for text in warned) == 2
    assert sum("cannot be told" in text for text in warned) == 1
