"""Live checks: every verdict over HTTP, the host swapped exactly, and a real nginx in front of the staging pages."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from grandferry.core.plan import Pair
from grandferry.ports.servers import write_out
from grandferry.store import changes, crossings
from grandferry.store.db import rows
from grandferry.work.route.run import redirect_map
from tests.demo import running_demo
from tests.servers import apps, nginx, pages_app

Run = Callable[..., dict[str, Any]]
Make = Callable[..., int]


def test_a_real_nginx_with_the_written_map_answers_every_old_address(tmp_path: Path) -> None:
    """The staging pages behind nginx, their own redirect table emptied: only the written file redirects."""
    with running_demo(tmp_path / "demo") as demo:
        write_out(redirect_map(demo.crossing), "nginx", tmp_path / "map")
        system = demo.target[0]
        import sqlite3

        with sqlite3.connect(tmp_path / "demo" / "new.sqlite") as db:
            db.execute("DELETE FROM thing WHERE type = 'redirects'")
        assert system is not None
        broken = demo.run("check")
        assert broken["counts"]["missing"] > 80, "without any map nothing is redirected"
        assert crossings.account_of(demo.crossing)["unaccounted"]["planned"] > 80
        server = (
            f"include {tmp_path}/map/redirects.server.conf; location / {{ proxy_pass http://127.0.0.1:{demo.new_port}; "
            "proxy_set_header Host new.quillmere.localhost; }"
        )
        http = f"include {tmp_path}/map/redirects.http.conf;"
        with nginx(tmp_path / "run", server, http, log=f"{tmp_path}/access.log") as port:
            plan = crossings.load_plan(demo.crossing).model_copy(update={"interim": f"http://127.0.0.1:{port}/"})
            changes.change_plan(demo.crossing, plan, changes.revision(demo.crossing), "Ann", "checks go to nginx")
            checked = demo.run("check")
        truth = demo.site.truth["fate_counts"]
        assert checked["open"] == []
        counts = checked["counts"]
        pages = truth["moved"] + truth["merged"] + truth["stays"]
        assert counts["as planned"] + counts["same"] + counts["doubtful"] == pages
        assert counts["doubtful"] == 6, "the front page and lists, which the plan accepts"
        assert (counts["gone"], counts["left out"], len(counts)) == (truth["retired"], truth["set aside"], 5)
        asked = {
            line.split(b'"')[1].split(b" ")[1].decode() for line in (tmp_path / "access.log").read_bytes().splitlines()
        }
        account = {key for key, (fate, _) in demo.site.truth["fates"].items() if fate != "set aside"}
        assert account <= asked, "every old path is tried on the new host"
        rounds = rows("SELECT base FROM round ORDER BY id")
        assert len(rounds) == 3 and rounds[2][0].endswith(str(port)), "earlier rounds are kept"


def test_two_deliveries_of_the_same_crossing_are_the_same_bytes(tmp_path: Path) -> None:
    from grandferry.demo.newsystem import NewSystem

    with running_demo(tmp_path / "demo") as demo:
        second: list[NewSystem] = []

        def fresh() -> Any:
            second.append(NewSystem(tmp_path / "second.sqlite"))
            return second[0].app()

        with apps(fresh) as (port,):
            plan = crossings.load_plan(demo.crossing)
            assert plan.land is not None
            plan.land.base = f"http://127.0.0.1:{port}/"
            crossings.save_plan(demo.crossing, plan, crossings.load_pairs(demo.crossing))
            landed = demo.run("land")
            again = demo.run("land")
        assert landed["created"] > 150 and (again["created"], again["changed"]) == (0, 0)
    import sqlite3

    contents = []
    for name in ("demo/new.sqlite", "second.sqlite"):
        with sqlite3.connect(tmp_path / name) as db:
            contents.append(
                db.execute("SELECT type, id, path, attributes, data, revision FROM thing ORDER BY type, id").fetchall()
            )
    assert contents[0] == contents[1]


NAMES = "ok chain temp loop lost elsewhere soft swapped gone notgone stay dead-target".split()


def own(name: str) -> str:
    """Words that no other page has."""
    return "<p>" + " ".join(f"{name}{n}" for n in range(20)) + "</p>"


OLD = {
    "/": "<title>Home</title>"
    + "".join(f"<a href=/{n}>{n}</a>" for n in NAMES)
    + "<a href=http://shop.old.localhost/x>shop</a>",
    **{f"/{n}": f"<title>{n}</title><h1>{n}</h1>{own(n)}" for n in NAMES},
}


def hop(place: str, status: int = 301) -> tuple[int, dict[str, str], bytes]:
    return status, {"Location": place, "Content-Type": "text/html"}, b""


@pytest.mark.parametrize("soft_errors", [False, True])
def test_where_each_redirect_lands(cross: Make, work: Run, soft_errors: bool) -> None:
    """A 404 behind a redirect, a chain, a loop, a temporary one, another page's content: each reported as such."""
    new: dict[str, Any] = {f"/n/{n}": f"<title>{n}</title><h1>{n}</h1>{own(n)}" for n in NAMES}
    new |= {
        "/": OLD["/"],
        "/ok": hop("/n/ok"),
        "/chain": hop("/middle"),
        "/middle": hop("/n/chain"),
        "/temp": hop("/n/temp", 302),
        "/loop": hop("/loop2"),
        "/loop2": hop("/loop"),
        "/elsewhere": hop("/n/ok"),
        "/swapped": hop("/n/swapped"),
        "/n/swapped": f"<h1>Quite another page</h1>{own('another')}",
        "/gone": (410, {}, b""),
        "/notgone": "<h1>notgone</h1>",
        "/stay": f"<h1>stay</h1>{own('stay')}",
        "/dead-target": hop("/n/dead-target"),
        "/soft": hop("/n/soft"),
    }
    del new["/n/dead-target"], new["/n/soft"]
    seen: list[str] = []
    with apps(pages_app(OLD), pages_app(new, seen)) as (old_port, new_port):
        if soft_errors:
            from aiohttp import web

            async def always(request: web.Request) -> web.Response:
                found = new.get(request.path)
                if isinstance(found, tuple):
                    return web.Response(status=found[0], headers=found[1], body=found[2])
                return web.Response(text=found or "<h1>Oops</h1><p>Nothing to see</p>", content_type="text/html")

            app = web.Application()
            app.router.add_route("*", "/{rest:.*}", always)
        else:
            app = pages_app({})
        with apps(app) as (soft_port,):
            kind = {
                "name": "k",
                "rules": [{"address": "/.+"}],
                "address": "/n/{slug}",
                "fields": [{"name": "title", "type": "line", "locators": [{"css": "h1"}]}],
            }
            pairs = [
                Pair(old="/", new="/"),
                Pair(old="/gone", status=410),
                Pair(old="/notgone", status=410),
                Pair(old="/stay", new="/stay"),
            ]
            port = soft_port if soft_errors else new_port
            crossing = cross(
                {
                    "old": {"start": f"http://127.0.0.1:{old_port}/"},
                    "interim": f"http://127.0.0.1:{port}",
                    "kinds": [kind],
                    "survey": {"sitemaps": False},
                },
                pairs,
            )
            for stage in ("survey", "sort", "lift", "route"):
                work(stage, crossing)
            result = work("check", crossing)
            fates = dict(rows("SELECT key, fate FROM address WHERE counted = 1"))
            # the interim host changes nothing but where checks go
            before = redirect_map(crossing).redirects
            cross(
                {"old": {"start": f"http://127.0.0.1:{old_port}/"}, "interim": "http://127.0.0.1:1", "kinds": [kind]},
                pairs,
            )
            work("route", crossing)
            assert redirect_map(crossing).redirects == before
            assert "gives no answer" in work("check", crossing, fails=True)["error"]
    verdicts = dict(
        rows("SELECT a.key, v.verdict FROM round_verdict v JOIN address a ON a.id = v.address_id WHERE v.round_id = 1")
    )
    common = {
        "/": "same",
        "/ok": "as planned",
        "/chain": "chain",
        "/temp": "temporary",
        "/loop": "loop",
        "/elsewhere": "wrong place",
        "/swapped": "wrong page",
        "/gone": "gone",
        "/notgone": "not gone",
        "/stay": "same",
    }
    if soft_errors:
        assert verdicts == {**common, "/lost": "soft error", "/dead-target": "soft error", "/soft": "soft error"}
    else:
        assert verdicts == {**common, "/lost": "missing", "/dead-target": "target missing", "/soft": "target missing"}
        assert all("shop" not in key and key != "/x" for key in seen), "another host's path is never tried"
    assert rows("SELECT count(*) FROM address WHERE proven") == [(0,)], "that host has proven nothing"
    assert {k for k, f in fates.items() if f != "unaccounted"} == {"/", "/ok", "/gone", "/stay"}
    assert sum(result["counts"].values()) == len(fates) == 13
