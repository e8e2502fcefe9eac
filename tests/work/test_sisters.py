"""Files of other hosts: an account of their own that adds up, and says what breaks when those hosts go."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from grandferry.core.because import sentence
from grandferry.core.route.sisters import SisterFate, sister_sentence
from grandferry.core.standing import next_steps, said
from grandferry.store import carried, crossings, route, sisters
from grandferry.store.db import many, rows
from grandferry.store.manifest import figures
from tests.servers import apps, pages_app

PDF = (200, {"Content-Type": "application/pdf"}, b"%PDF-1.4 price list")


def test_files_of_other_hosts_are_an_account_of_their_own(
    cross: Callable[..., int], work: Callable[..., dict[str, Any]]
) -> None:
    there = pages_app(
        {
            "/prices.pdf": PDF,
            "/same.pdf": PDF,
            "/hen.png": (200, {"Content-Type": "image/png"}, b"\x89PNG\r\n\x1a\nhen"),
            "/looks.css": (200, {"Content-Type": "text/css"}, b"p { color: red }"),
            "/old/away.pdf": (200, {"Content-Type": "application/pdf"}, b"%PDF-1.4 away"),
        }
    )
    with apps(there) as (port,):
        host = f"files.farm.localhost:{port}"
        base = f"http://{host}"
        old = {
            "/": f"<link rel=stylesheet href={base}/looks.css><h1>Farm</h1><div id=b><p>Prices <a href={base}/prices.pdf>"
            f"list</a> and <a href={base}/lost.pdf>lost</a><img src={base}/hen.png alt=Hen></p></div><a href=/more>more</a>",
            "/more": f"<h1>More</h1><div id=b><p><a href={base}/same.pdf>same</a> <a href={base}/old/away.pdf>x</a></div>",
            "/own.pdf": PDF,
        }
        with apps(pages_app(old)) as (home,):
            crossing = cross(
                {
                    "old": {"start": f"http://127.0.0.1:{home}/", "file_hosts": [host]},
                    "kinds": [
                        {
                            "name": "page",
                            "rules": [{"element": "#b"}],
                            "address": "/{slug}",
                            "fields": [
                                {"name": "title", "type": "line", "locators": [{"css": "h1"}]},
                                {"name": "body", "type": "blocks", "locators": [{"css": "#b"}]},
                            ],
                        }
                    ],
                    "route": {"files": "/media/{name}"},
                }
            )
            for stage in ("survey", "sort", "lift", "refit", "route"):
                work(stage, crossing)
    own = crossings.load_plan(crossing).side("old").host
    assert host not in own and rows("SELECT count(*) FROM address WHERE counted = 1 AND host != ?", own) == [(0,)]

    def account() -> dict[str, SisterFate]:
        total, found = sisters.window(crossing, own, "", "", "", 0, 100)
        assert total == len(found) == sum(line.count for line in sisters.hosts(crossing, own))
        return {row.key: row.fate for row in found}

    assert account() == {
        "/prices.pdf": SisterFate.PLANNED,
        "/same.pdf": SisterFate.PLANNED,
        "/hen.png": SisterFate.PLANNED,
        "/old/away.pdf": SisterFate.PLANNED,
        "/looks.css": SisterFate.ASIDE,
        "/lost.pdf": SisterFate.NOT_HAD,
    }
    many("UPDATE file SET fate = 'carried' WHERE name = ?", [("prices.pdf",)])
    assert account()["/prices.pdf"] == account()["/same.pdf"] == SisterFate.CARRIED, "one file under two addresses"
    _, (looks,) = sisters.window(crossing, own, "", SisterFate.ASIDE, "", 0, 10)
    assert sentence(looks.aside), "why it is left out"
    many("UPDATE file SET new_path = '' WHERE name = ?", [("away.pdf",)])
    assert account()["/old/away.pdf"] == SisterFate.BREAKS
    _, (lost,) = sisters.window(crossing, own, host, SisterFate.NOT_HAD, "lost", 0, 10)
    says = sister_sentence(lost.fate, lost.host, lost.new_path, lost.problem)
    assert says == "it could not be had (answers 404): nothing can carry it"
    told = figures(crossing)
    assert (told.sisters, told.sisters_carried, told.sisters_aside, told.sisters_breaking) == (6, 2, 1, 2)
    (step,) = [step for step in next_steps(told) if step.to == "route?tab=elsewhere"]
    assert said(step, told) == "2 files of other hosts would break with their hosts: nothing carries them"
    counts = route.family_counts(crossing)
    assert (counts["documents"], counts["pictures"]) == (3, 1), "those of other hosts are there to carry, too"
    plan = crossings.load_plan(crossing)
    crossings.save_plan(crossing, plan.model_copy(update={"leave_out": ["documents"]}), [])
    work("route", crossing)
    left = {row.key: sentence(row.aside) for row in sisters.window(crossing, own, "", SisterFate.ASIDE, "", 0, 10)[1]}
    assert left.keys() == {"/prices.pdf", "/same.pdf", "/old/away.pdf", "/looks.css"}
    assert left["/same.pdf"] == "left out on purpose: documents"
    assert not [place for place in carried.places(crossing).values() if place.endswith(".pdf")], "nor delivered"
    assert account()["/hen.png"] == SisterFate.PLANNED
