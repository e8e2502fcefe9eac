"""A real documentation site of more than 500 pages, from survey to a redirect map that a real nginx answers by."""

from __future__ import annotations

import asyncio
import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from grandferry.core.address import normal
from grandferry.core.encoding import decode
from grandferry.core.page import parse
from grandferry.core.refit.write import to_markdown
from grandferry.net.check import follow
from grandferry.net.fetch import Fetcher
from grandferry.ports.servers import SERVERS, write_out
from grandferry.store import bodies, lift, refit
from grandferry.store.survey import surveyed
from grandferry.work.refit.content import stored_body
from grandferry.work.route.run import redirect_map
from tests.core.rendering import visible_text
from tests.servers import nginx

DOCS = Path("/usr/share/doc/python3.11/html")
pytestmark = pytest.mark.slow


def reachable(root: Path, base: str) -> set[str]:
    """The truth on disk: pages that links lead to from index.html, by a walk of its own."""
    found, queue = {"/index.html"}, ["/index.html"]
    while queue:
        key = queue.pop()
        page = parse(decode((root / key.lstrip("/")).read_bytes(), "text/html").text)
        for node in page.nodes:
            if node.tag in ("a", "link", "area") and node.get("href"):
                address = normal(node.get("href"), base + key)
                if address is None or str(address).partition("/")[0] + "//" + address.host != base:
                    continue
                target = address.path + ("index.html" if address.path.endswith("/") else "")
                path = root / target.lstrip("/")
                if target.endswith(".html") and path.is_file() and target not in found:
                    found.add(target)
                    queue.append(target)
    return found


@pytest.mark.timeout(900)  # every body is read again by another program, which takes its time
def test_documentation_site(tmp_path: Path, cross: Callable[..., int], work: Callable[..., dict[str, Any]]) -> None:
    assert (DOCS / "index.html").is_file(), "the Debian package python3.11-doc is needed"
    with nginx(tmp_path / "old", f"root {DOCS};", log=f"{tmp_path}/access.log") as port:
        base = f"http://127.0.0.1:{port}"
        crossing = cross(
            {
                "old": {"start": f"{base}/index.html"},
                "manners": {"delay": 0, "at_once": 16},
                "kinds": [
                    {
                        "name": "page",
                        "address": "/python/{slug}",
                        "slug_from": "path",
                        "rules": [{"element": "div.body[role=main]"}],
                        "fields": [
                            {
                                "name": "title",
                                "type": "line",
                                "locators": [{"css": "h1"}, {"meta": "title"}],
                                "treat": [{"replace": ["¶", ""]}, "trim"],
                            },
                            {"name": "path", "type": "line", "locators": [{"address": r"^/(.+)\.html$"}]},
                            {
                                "name": "body",
                                "type": "blocks",
                                "required": True,
                                "locators": [{"css": "div.body[role=main]"}],
                            },
                        ],
                    }
                ],
                "refit": {
                    "steps": [
                        {"name": "side bar and its contents list", "remove": ".sphinxsidebar"},
                        {"name": "bars to the page before and after", "remove": "div.related"},
                        {"name": "menu of small screens", "remove": ".mobile-nav"},
                    ]
                },
                "route": {"files": "/media/{name}"},
            }
        )
        found = work("survey", crossing)
        truth = reachable(DOCS, base)
    pages = {page.key for page in surveyed.pages(crossing)}
    assert found["pages"] >= 500
    assert {p + "index.html" if p.endswith("/") else p for p in pages} == truth
    asked = [line.split(b'"')[1].split(b" ")[1] for line in (tmp_path / "access.log").read_bytes().splitlines()]
    assert len(asked) == len(set(asked)), "an address was fetched twice"

    sorted_ = work("sort", crossing)
    lifted = work("lift", crossing)
    refitted = work("refit", crossing)
    assert sorted_["kinds"]["page"] >= 500
    bodies_ = lifted["coverage"]["page"]["body"]  # one page says the same sentence over and over: it wants a look
    assert sum(bodies_.values()) == lifted["items"] == bodies_["filled"] + bodies_.get("odd", 0)
    assert bodies_.get("odd", 0) <= 1
    assert refitted["in_islands"] <= 0.01 * refitted["words"]
    accounted = 1 - refitted["unaccounted"] / refitted["words"]
    assert accounted >= 0.9995

    # every word of every body, looked for again in the Markdown by another program
    lost: list[str] = []
    for field in refit.body_fields(crossing):
        page = parse(decode(bodies.get(field.content), "text/html").text)
        region = page.nodes[json.loads(field.lifted)["nodes"][0]]
        have = "".join("".join(n.text for n in page.inside(region) if not n.tag and n.visible).split())
        body = stored_body(refit.stored(crossing, field.item, field.field).body)
        if have != "".join(visible_text(to_markdown(body.content)).split()):
            lost.append(field.url)
    assert lost == []

    routed = work("route", crossing)
    assert routed["flaws"] == []
    table = redirect_map(crossing)
    assert len({r.new for r in table.exact.values()}) == len(table.exact), "two pages share a place"
    write_out(table, "nginx", tmp_path / "map")
    server = f"include {tmp_path}/map/redirects.server.conf; location / {{ return 404; }}"
    with nginx(tmp_path / "new", server, f"include {tmp_path}/map/redirects.http.conf;") as port:

        async def ask() -> list[tuple[str, int, str]]:
            async with Fetcher(agent="test", hosts=frozenset([f"127.0.0.1:{port}"]), at_once=8) as fetcher:
                answers = []
                for item in lift.items(crossing):
                    got = await fetcher.get(f"http://127.0.0.1:{port}{item.key}")
                    answers.append((item.key, got.status, got.header("location")))
                trail = await follow(fetcher, f"http://127.0.0.1:{port}", lift.items(crossing)[0].key)
                assert [hop.status for hop in trail.hops] == [301, 404]
                return answers

        for key, status, location in asyncio.run(ask()):
            expected = SERVERS["nginx"].answer(table, key)
            assert expected is not None, key
            assert (status, location) == (expected.status, expected.location), key
    print(
        json.dumps(
            {
                "survey": found,
                "kinds": sorted_["kinds"],
                "unsorted": sorted_["unsorted"],
                "items": lifted["items"],
                "title": lifted["coverage"]["page"]["title"],
                "accounted": round(100 * accounted, 3),
                "refit": {k: refitted[k] for k in ("words", "in_blocks", "in_islands", "unaccounted")},
                "worst": [(w["key"], w["unaccounted"], w["missing"][:2]) for w in refitted["worst"][:4]],
                "map_lines": routed["lines"],
                "account": routed["account"],
            }
        )
    )
