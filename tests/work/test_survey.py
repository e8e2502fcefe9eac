"""The survey against real sockets: what it finds, where it stops, how it behaves, what it survives."""

from __future__ import annotations

import gzip
import json
import socket
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from grandferry.core.side import Side
from grandferry.store import crossings, sort
from grandferry.store.db import rows
from grandferry.store.lists import details, waits, windows
from grandferry.store.survey import given, keptout, runs, sounded, surveyed
from grandferry.work.survey import bounds
from tests.servers import RawServer, apps, free_port, pages_app

Run = Callable[..., dict[str, Any]]
Make = Callable[..., int]


def linked(count: int) -> dict[str, Any]:
    """A site of ``count`` pages, each but the last linking to the next two."""
    return {
        ("/" if n == 0 else f"/p{n}"): f"<title>Page {n}</title>"
        + "".join(f"<a href=/p{m}>{m}</a>" for m in (n + 1, n + 2) if m < count)
        for n in range(count)
    }


def keys(crossing: int, **filters: Any) -> set[str]:
    total, found = windows.window(Side(crossing), windows.Selection(filters), "key", 0, 500)
    assert total == len(found)
    return {row.key for row in found}


def test_thirty_linked_pages(cross: Make, work: Run) -> None:
    with apps(pages_app(linked(30))) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}})
        result = work("survey", crossing)
    assert (result["pages"], result["failed"], result["not_visited"]) == (30, 0, 0)
    for row in surveyed.address_rows(Side(crossing)):
        assert row["status"] == 200 and row["title"].startswith("Page")
        assert row["linked_from"] or row["depth"] == 0
    detail = details.address(crossing, rows("SELECT id FROM address WHERE key = '/p5'")[0][0])
    assert {link.url.rpartition("/")[2] for link in detail.links_in} == {"p3", "p4"} and detail.ways == ["link"]


def test_folder_bound(cross: Make, work: Run) -> None:
    seen: list[str] = []
    site = {
        "/en/": "<a href=/en/a>a</a><a href=/fr/b>b</a><a href=/fr/c>c</a><img src=/pic.png>",
        "/en/a": "<a href=/engine>x</a>",
        "/pic.png": (200, {"Content-Type": "image/png"}, b"png"),
    }
    with apps(pages_app(site, seen)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/en/"}, "survey": {"below": ["/en"]}})
        result = work("survey", crossing)
    assert not any(key.startswith("/fr") or key == "/engine" for key in seen)
    assert result["shut_out"]["outside the folder"] == 3 and result["pages"] == 2 and "/pic.png" in seen
    assert {row.reason: row.count for row in keptout.groups(Side(crossing))} == {"outside the folder": 3}


def test_depth_patterns_and_cap_are_said(cross: Make, work: Run) -> None:
    with apps(pages_app(linked(30))) as (port,):
        start = {"old": {"start": f"http://127.0.0.1:{port}/"}}
        capped = work(
            "survey",
            cross({**start, "name": "cap", "survey": {"max_pages": 10}, "manners": {"delay": 0, "at_once": 1}}),
        )
        deep = work("survey", cross({**start, "name": "deep", "survey": {"depth": 2}}))
        picked = work("survey", cross({**start, "name": "picked", "survey": {"exclude": [r"p[3-9]"]}}))
    assert capped["not_visited"] > 0 and 10 <= capped["pages"] < 20
    assert deep["pages"] == 5 and deep["shut_out"] == {"deeper than allowed": 2}
    assert picked["shut_out"]["excluded by pattern"] == 2 and picked["pages"] == 3


def test_files_from_another_host_but_no_pages(cross: Make, work: Run) -> None:
    other_seen: list[str] = []
    other = pages_app({"/a.png": (200, {"Content-Type": "image/png"}, b"png"), "/page": "<p>no"}, other_seen)
    ports: list[int] = []

    def first() -> Any:
        base = f"http://files.test.localhost:{ports[1]}"
        return pages_app(
            {"/": f"<img src={base}/a.png alt=Ay><a href={base}/page>x</a><a href=http://sub.elsewhere.test/>y</a>"}
        )

    ports[:] = [0, free_port()]
    with apps(other) as (real,):
        ports[1] = real
        with apps(first) as (port,):
            crossing = cross(
                {"old": {"start": f"http://127.0.0.1:{port}/", "file_hosts": [f"files.test.localhost:{real}"]}}
            )
            result = work("survey", crossing)
    assert [key for key in other_seen if key != "/robots.txt"] == ["/a.png"]
    assert result["shut_out"] == {"other host": 1, "other host: files only": 1}


def test_robots_manners_and_agent(cross: Make, work: Run) -> None:
    seen: list[tuple[str, float, str]] = []
    from aiohttp import web

    async def answer(request: web.Request) -> web.Response:
        seen.append((request.path, time.monotonic(), request.headers["User-Agent"]))
        if request.path == "/robots.txt":
            return web.Response(text="User-agent: *\nDisallow: /private\nCrawl-delay: 0.5")
        return web.Response(text="<a href=/a>a</a><a href=/private/x>x</a><a href=/b>b</a>", content_type="text/html")

    app = web.Application()
    app.router.add_route("*", "/{rest:.*}", answer)
    with apps(app) as (port,):
        plan = {
            "old": {"start": f"http://127.0.0.1:{port}/"},
            "manners": {"delay": 0.1, "at_once": 4, "agent": "OurName/2"},
        }
        result = work("survey", cross(plan))
        asked = [path for path, _, _ in seen]
        assert "/private/x" not in asked and result["shut_out"] == {"robots.txt": 1}
        times = [moment for path, moment, _ in seen if path != "/robots.txt"]
        assert len(times) > 2 and (times[-1] - times[0]) / (len(times) - 1) > 0.35, "the site's own crawl delay holds"
        assert min(b - a for a, b in zip(times, times[1:], strict=False)) > 0.2, "by this server's clock, which may lag"
        assert {agent for _, _, agent in seen} == {"OurName/2"}
        seen.clear()
        owner = {**plan, "name": "owner", "manners": {**plan["manners"], "delay": 0, "robots": "owner confirmed"}}
        work("survey", cross(owner))
        assert "/private/x" in [path for path, _, _ in seen]


def test_sitemaps_feeds_logs_and_soundings(cross: Make, work: Run) -> None:
    site: dict[str, Any] = {
        "/": "<link rel=alternate type=application/rss+xml href=/feed.rss>",
        "/only-map": "<p>m",
        "/only-feed": "<p>f",
        "/only-log": "<p>l",
        "/zipped": "<p>z",
    }
    with apps(pages_app(site)) as (port,):
        base = f"http://127.0.0.1:{port}"
        xml = {"Content-Type": "application/xml"}
        site["/robots.txt"] = (200, {}, f"Sitemap: {base}/index.xml\nSitemap: {base}/broken.xml".encode())
        site["/index.xml"] = (
            200,
            xml,
            f"<sitemapindex><sitemap><loc>{base}/one.xml</loc></sitemap><sitemap><loc>{base}/two.xml.gz</loc></sitemap></sitemapindex>".encode(),
        )
        site["/one.xml"] = (
            200,
            xml,
            f'<!DOCTYPE x [<!ENTITY e SYSTEM "file:///etc/passwd">]><urlset><url><loc>{base}/only-map</loc></url><url><loc>&e;</loc></url></urlset>'.encode(),
        )
        site["/two.xml.gz"] = (
            200,
            {"Content-Type": "application/gzip"},
            gzip.compress(f"<urlset><url><loc>{base}/zipped</loc></url></urlset>".encode()),
        )
        site["/broken.xml"] = (200, xml, b"<html>no map</html>")
        site["/feed.rss"] = (
            200,
            {"Content-Type": "application/rss+xml"},
            f"<rss><channel><item><link>{base}/only-feed</link></item></channel></rss>".encode(),
        )
        crossing = cross({"old": {"start": base}})
        given.add_visits(
            given.add(Side(crossing), "access.log", "log"),
            [
                given.Visits(f"127.0.0.1:{port}", t, n)
                for t, n in (("/only-log", 7), ("/lost-log", 3), ("/?utm_source=x", 2))
            ],
        )
        work("survey", crossing)
    by_key = {row["address"].removeprefix(base): row for row in surveyed.address_rows(Side(crossing))}
    assert by_key["/only-map"]["found_by"] == "sitemap" and by_key["/zipped"]["status"] == 200
    assert by_key["/only-feed"]["found_by"] == "feed" and by_key["/only-log"]["found_by"] == "log"
    assert (by_key["/only-log"]["visits"], by_key["/"]["visits"]) == (7, 2)
    said = sounded.soundings(Side(crossing))
    assert said["start"]["status"] == 200 and said["start"]["encoding"] == "utf-8"
    assert said["made-up address"]["status"] == 404 and any("not a sitemap" in row["fault"] for row in said["sitemaps"])
    counted = keys(crossing, account=["in"])
    assert "/lost-log" in counted, "asked for by visitors, so it needs a decision"


def test_one_site_under_many_spellings(cross: Make, work: Run) -> None:
    site: dict[str, Any] = {"/x": "<p>x"}
    with apps(pages_app(site)) as (port,):
        host, alias = f"127.0.0.1:{port}", f"alias.test.localhost:{port}"
        written = [
            f"http://{host}/x",
            f"http://{host}/x?PHPSESSID=9",
            f"http://{alias}/x",
            f"http://{host}/x#part",
            f"https://{host}/x",
        ]
        site["/"] = "".join(f"<a href={url}>x</a>" for url in written)
        written += [f"http://www.{alias}/x", f"http://second.test.localhost:{port}/x"]
        site["/"] = "".join(f"<a href={url}>x</a>" for url in written)
        aliases = [alias, f"www.second.test.localhost:{port}"]  # with www or without: the other one is meant as well
        crossing = cross({"old": {"start": f"http://{host}/", "aliases": aliases}})
        result = work("survey", crossing)
    assert result["pages"] == 2
    (address,) = rows("SELECT id FROM address WHERE crossing_id = ? AND key = '/x'", crossing)
    detail = details.address(crossing, address[0])
    assert detail.spellings == sorted([written[1], written[2], *written[4:]]) and detail.row.in_links == 7
    told = bounds.lines(Side(crossing, "old"), crossings.load_plan(crossing))
    assert told.hosts == {alias: 2, aliases[1]: 1}, "beside a name of the host: what is written under it"


def test_redirects_are_followed_as_addresses_and_loops_end(cross: Make, work: Run) -> None:
    def to(place: str, status: int = 302) -> tuple[int, dict[str, str], bytes]:
        return status, {"Location": place, "Content-Type": "text/html"}, b""

    seen: list[str] = []
    site = {
        "/": "<a href=/a>a</a><a href=/loop1>l</a><a href=/out>o</a>",
        "/a": to("/b", 301),
        "/b": to("/c"),
        "/c": "<p>end",
        "/loop1": to("/loop2"),
        "/loop2": to("/loop1"),
        "/out": to("http://169.254.169.254/secret"),
    }
    with apps(pages_app(site, seen)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}})
        result = work("survey", crossing)
    assert result["redirects"] == 5 and result["shut_out"] == {"other host": 1}
    asked = [key for key in seen if not key.startswith("/ferry-made-up") and key not in ("/robots.txt", "/sitemap.xml")]
    assert sorted(asked) == sorted(site), "each once, and a loop ends"
    targets = {row["address"].rpartition("/")[2]: row["target"] for row in surveyed.address_rows(Side(crossing))}
    assert targets["a"].endswith("/b") and targets["out"] == "http://169.254.169.254/secret"


def hostile(path: str, connection: socket.socket) -> None:
    head = b"HTTP/1.1 200 OK\r\nConnection: close\r\nContent-Type: text/html\r\n"
    if path == "/":
        names = [
            "huge",
            "endless",
            "broken-gzip",
            "bomb",
            "short",
            "latin",
            "header",
            "drop",
            "deep",
            "notype",
            "lying",
            "utf",
            "brotli",
            "good",
        ]
        body = "".join(f"<a href=/{n}>{n}</a>" for n in names).encode()
        connection.sendall(head + b"Content-Length: %d\r\n\r\n" % len(body) + body)
    elif path == "/huge":
        connection.sendall(head + b"Content-Length: 314572800\r\n\r\n" + b"x" * 100_000)
    elif path == "/endless":
        connection.sendall(head + b"\r\n")
        for _ in range(4000):
            connection.sendall(b"<p>" + b"y" * 8000)
    elif path == "/broken-gzip":
        connection.sendall(head + b"Content-Encoding: gzip\r\n\r\n\x1f\x8b\x08\x00garbage-here")
    elif path == "/bomb":
        connection.sendall(head + b"Content-Encoding: gzip\r\n\r\n" + gzip.compress(b"\0" * 60_000_000))
    elif path == "/short":
        connection.sendall(head + b"Content-Length: 5000\r\n\r\n<p>cut")
    elif path == "/latin":
        connection.sendall(head + b"\r\n<title>caf\xe9</title><p>na\xefve")
    elif path == "/header":
        connection.sendall(b"HTTP/1.1 200 OK\r\nX: " + b"h" * 1_000_000 + b"\r\n\r\n")
    elif path == "/deep":
        connection.sendall(head + b"\r\n" + b"<div>" * 50_000 + b"deep")
    elif path == "/notype":
        connection.sendall(b"HTTP/1.1 200 OK\r\nConnection: close\r\n\r\n<!DOCTYPE html><title>Untyped</title>")
    elif path == "/lying":
        connection.sendall(head.replace(b"text/html", b"text/html; charset=utf-8") + b"\r\n\x89PNG\r\n\x1a\n\x00\xff")
    elif path == "/utf":
        connection.sendall(
            head.replace(b"text/html", b"text/html; charset=utf-8") + "\r\n<title>caf\xe9</title>".encode("latin-1")
        )
    elif path == "/brotli":
        connection.sendall(head + b"Content-Encoding: br\r\n\r\nzzz")
    elif path == "/good":
        connection.sendall(head + b"\r\n<title>Good</title>")
    elif path == "/robots.txt":
        connection.sendall(b"HTTP/1.1 404 No\r\nConnection: close\r\nContent-Length: 0\r\n\r\n")


def test_hostile_answers_each_have_their_state_and_the_rest_goes_on(cross: Make, work: Run) -> None:
    with RawServer(hostile) as server:
        base = f"http://127.0.0.1:{server.port}"
        crossing = cross({"old": {"start": base + "/"}, "survey": {"max_page_bytes": 16_000_000, "sitemaps": False}})
        started = time.monotonic()
        work("survey", crossing)
    assert time.monotonic() - started < 60
    found = {row["address"].rpartition("/")[2]: row for row in surveyed.address_rows(Side(crossing))}
    for name, said in {
        "huge": "Larger than the cap of 16 MB",
        "endless": "Larger than the cap",
        "bomb": "Larger than the cap",
        "broken-gzip": "compression is broken",
        "short": "ended before",
        "header": "cannot be read",
        "brotli": "unasked-for coding",
        "drop": ".",
    }.items():
        assert found[name]["type"] == "failed" and said in found[name]["note"], (name, found[name])
    assert (
        found["latin"]["title"] == "café" and found["utf"]["title"] == "café" and found["notype"]["title"] == "Untyped"
    )
    assert "nests" in found["deep"]["note"] and found["deep"]["status"] == 200
    assert found["good"]["title"] == "Good" and found["lying"]["status"] == 200
    doubtful = rows("SELECT findings FROM page_facts f JOIN address a ON a.id = f.address_id WHERE a.key = '/utf'")[0][
        0
    ]
    assert any("encoding doubtful" in finding for finding in json.loads(doubtful))


def test_a_hundred_thousand_links_and_a_sitemap_with_entities(cross: Make, work: Run) -> None:
    entities = (
        '<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;">'
        '<!ENTITY c "&b;&b;&b;&b;&b;&b;&b;&b;"><!ENTITY f SYSTEM "file:///etc/hostname">]>'
        "<urlset><url><loc>{base}/named</loc></url><url><loc>&c;&c;&f;</loc></url><url>"
    )
    site: dict[str, Any] = {
        "/": "<p>home</p><a href=/many>m</a><a href=/inside>i</a><a href=/secret-place>p</a>",
        "/many": "<p>many</p>" + "".join(f'<a href="http://else.test/{n}">{n}</a>' for n in range(100_000)),
        "/inside": (302, {"Location": "http://169.254.169.254/latest/"}, b""),
        "/secret-place": (302, {"Location": "http://10.0.0.8/admin"}, b""),
        "/named": "<p>named by the sitemap</p>",
    }
    with apps(pages_app(site)) as (port,):
        base = f"http://127.0.0.1:{port}"
        site["/sitemap.xml"] = (200, {"Content-Type": "text/xml"}, entities.format(base=base).encode())
        crossing = cross({"old": {"start": base + "/", "hosts": ["169.254.169.254"], "file_hosts": ["10.0.0.8"]}})
        result = work("survey", crossing)
    assert result["pages"] == 3 and result["shut_out"]["other host"] == 100_000
    table = {row["address"]: row for row in surveyed.address_rows(Side(crossing))}
    assert "never asked" in table["http://169.254.169.254/latest/"]["note"], "link-local, even when named"
    assert table[base + "/named"]["status"] == 200
    assert not any("hostname" in url or "aaaa" in url for url in table), "no entity was filled in"


def test_refusals_are_never_content(cross: Make, work: Run) -> None:
    count = {"n": 0}
    from aiohttp import web

    async def answer(request: web.Request) -> web.Response:
        if request.path == "/busy":
            count["n"] += 1
            if count["n"] < 3:
                return web.Response(status=429, text="REFUSED", headers={"Retry-After": "0"})
            return web.Response(text="<title>At last</title>", content_type="text/html")
        if request.path in ("/secret", "/login"):
            return web.Response(
                status=401 if request.path == "/secret" else 403, text="<p>REFUSED", content_type="text/html"
            )
        if request.path == "/":
            return web.Response(
                text="<a href=/busy>1</a><a href=/secret>2</a><a href=/login>3</a>", content_type="text/html"
            )
        return web.Response(status=404)

    app = web.Application()
    app.router.add_route("*", "/{rest:.*}", answer)
    with apps(app) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        work("survey", crossing)
    assert keys(crossing, state=["done"], answer=["4xx", "5xx", "none"]) == {"/secret", "/login"}
    assert "At last" in {row["title"] for row in surveyed.address_rows(Side(crossing))}
    stored = rows(
        "SELECT count(*) FROM capture c JOIN address a ON a.id = c.address_id WHERE a.type = 'refused' AND c.body != ''"
    )
    assert stored[0][0] == 0
    assert rows("SELECT count(*) FROM event WHERE text LIKE '%going slower%'")[0][0] >= 1


def test_a_start_that_gives_no_answer(cross: Make, work: Run) -> None:
    port = free_port()
    crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}})
    failed = work("survey", crossing, fails=True)
    assert f"http://127.0.0.1:{port}/ gives no answer. No connection" in failed["error"]
    with apps(pages_app({"/": "<title>Here now</title><p>words"}), ports=[port]):
        work("survey", crossing)  # goes on, and is no second survey
    assert {row["title"] for row in surveyed.address_rows(Side(crossing))} == {"Here now"}
    assert [run.number for run in runs.runs(Side(crossing))] == [1]


def test_a_start_that_wants_a_key_which_nobody_gave(cross: Make, work: Run) -> None:
    site: dict[str, Any] = {"/": (401, {"WWW-Authenticate": 'Basic realm="staging"'}, b"")}
    with apps(pages_app(site)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        failed = work("survey", crossing, fails=True)
        assert "holds no content: answers 401" in failed["error"] and "Give access" in failed["error"]
        assert waits.waiting(Side(crossing)) == 1
        site["/"] = "<title>Open</title><p>words"
        work("survey", crossing)
    assert {row["title"] for row in surveyed.address_rows(Side(crossing))} == {"Open"} and waits.waiting(
        Side(crossing)
    ) == 0


def test_large_files_lie_beside_the_database(cross: Make, work: Run, workspace: Path) -> None:
    big = bytes(range(256)) * 20_000
    site = {"/": "<a href=/big.zip>b</a>", "/big.zip": (200, {"Content-Type": "application/zip"}, big)}
    with apps(pages_app(site)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}})
        work("survey", crossing)
    from grandferry.store import bodies

    (digest,) = rows("SELECT c.body FROM capture c JOIN address a ON a.id = c.address_id WHERE a.key = '/big.zip'")[0]
    assert bodies.get(digest) == big and bodies.file_of(digest).is_file()
    assert not list((workspace / "files" / "tmp").iterdir())


def test_the_stored_copy_is_enough(cross: Make, work: Run) -> None:
    """With the old site stopped, a changed rule gives new records."""
    kind = {
        "name": "k",
        "rules": [{"address": "/p.*"}],
        "fields": [{"name": "title", "type": "line", "locators": [{"meta": "title"}]}],
    }
    with apps(pages_app(linked(6))) as (port,):
        plan = {"old": {"start": f"http://127.0.0.1:{port}/"}, "kinds": [kind]}
        crossing = cross(plan)
        work("survey", crossing)
    work("sort", crossing)
    assert work("lift", crossing)["items"] == 5
    from grandferry.store import lift

    assert {i.fields["title"] for i in lift.items(crossing)} == {f"Page {n}" for n in range(1, 6)}
    kind["fields"][0]["treat"] = [{"replace": ["Page ", "No. "]}]
    cross({**plan, "kinds": [{**kind, "rules": [{"below": "/"}]}]})
    work("sort", crossing)
    assert work("lift", crossing)["items"] == 6
    assert {i.fields["title"] for i in lift.items(crossing)} == {f"No. {n}" for n in range(6)}


def test_unsorted_and_doubly_fitting_pages_are_listed(cross: Make, work: Run) -> None:
    with apps(pages_app(linked(9))) as (port,):
        kinds = [
            {"name": "odd", "rules": [{"address": r"/p[1357]"}]},
            {"name": "small", "rules": [{"address": r"/p[123]"}]},
        ]
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "kinds": kinds})
        work("survey", crossing)
    result = work("sort", crossing)
    assert result["kinds"] == {"odd": 4, "small": 1}
    assert result["unsorted_pages"] == ["/", "/p4", "/p6", "/p8"] and result["unsorted"] == 4
    double = [{name: row[name] for name in ("key", "kind", "also")} for row in result["double_pages"]]
    assert double == [{"key": f"/p{n}", "kind": "odd", "also": ["small"]} for n in (1, 3)]
    for fits, keys in (("more than one kind", ["/p1", "/p3"]), ("no kind", ["/", "/p4", "/p6", "/p8"])):
        listed = windows.window(Side(crossing), windows.Selection({"fits": [fits]}), "key", 0, 10)[1]
        assert [row.key for row in listed] == keys
    assert sort.double_count(crossing) == 2


def test_exceptions_name_page_field_and_reason(cross: Make, work: Run) -> None:
    site = {
        "/": "".join(f"<a href=/p{n}>x</a>" for n in range(9)),
        **{f"/p{n}": f"<h1>T{n}</h1>" for n in range(7)},
        "/p7": "<p>none",
        "/p8": "<h1>a</h1><h1>b</h1>",
    }
    kind = {
        "name": "k",
        "rules": [{"address": "/p."}],
        "fields": [{"name": "title", "type": "line", "locators": [{"css": "h1"}]}],
    }
    with apps(pages_app(site)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "kinds": [kind]})
        work("survey", crossing)
    work("sort", crossing)
    result = work("lift", crossing)
    assert result["coverage"] == {"k": {"title": {"filled": 7, "empty": 1, "many": 1}}}
    assert [(row["key"], row["state"]) for row in result["exceptions"]] == [("/p7", "empty"), ("/p8", "many")]
    assert "2 places match" in result["exceptions"][1]["note"]
    work("lift", crossing)
    assert rows("SELECT count(*) FROM item") == [(9,)], "a second run makes no doubles"


def test_a_wider_scope_lets_in_what_was_kept_out(cross: Make, work: Run) -> None:
    seen: list[str] = []
    site = {
        "/en/": "<a href=/en/a>a</a><a href=/fr/b>b</a><a href=http://else.test/>e</a>",
        "/en/a": "<p>A",
        "/fr/b": "<a href=/fr/c>c</a>",
        "/fr/c": "<p>C",
    }
    with apps(pages_app(site, seen)) as (port,):
        plan = {"old": {"start": f"http://127.0.0.1:{port}/en/"}}
        crossing = cross({**plan, "survey": {"below": ["/en"], "sitemaps": False}})
        assert work("survey", crossing)["shut_out"] == {"outside the folder": 1, "other host": 1}
        cross({**plan, "survey": {"sitemaps": False}})
        wider = work("survey", crossing)
    assert (wider["pages"], wider["shut_out"]) == (4, {"other host": 1})
    assert sorted(k for k in seen if k in site) == sorted(site), "and nothing is asked for again"


def test_a_stopped_survey_is_counted_as_far_as_it_went(cross: Make, workspace: Path) -> None:
    import threading

    from grandferry.store import crossings, jobs
    from grandferry.work.jobs.worker import work_on
    from tests.work.test_kills import slow_site

    seen: list[str] = []
    with apps(slow_site(400, seen, 0.05)) as (port,):
        crossing = cross(
            {
                "old": {"start": f"http://127.0.0.1:{port}/"},
                "manners": {"delay": 0, "at_once": 1},
                "survey": {"sitemaps": False},
            }
        )
        number = jobs.add_job("survey", crossing)
        claimed = jobs.claim()
        assert claimed is not None
        stopper = threading.Timer(1.5, lambda: jobs.wish(number, "stop"))
        stopper.start()
        work_on(claimed)
        stopper.join()
    assert jobs.job(number).state == "stopped"
    counted = crossings.counted(crossing)
    done = rows("SELECT count(*) FROM address WHERE state = 'done' AND status = 200")[0][0]
    assert 5 < counted == done < 400
    assert rows("SELECT count(*) FROM address WHERE state = 'waiting'")[0][0] > 100


def test_an_error_page_in_a_files_place_is_no_page(cross: Make, work: Run) -> None:
    gone = (404, {"Content-Type": "text/html"}, b"<title>Not found</title><p>Nothing is here.")
    site: dict[str, Any] = {
        "/": "<title>Home</title><img src=/show?pic=7><img src=/logo.png><a href=/minutes.pdf>m</a><a href=/old>o</a>",
        **dict.fromkeys(("/show?pic=7", "/logo.png", "/minutes.pdf", "/old"), gone),
    }
    with apps(pages_app(site)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        work("survey", crossing)
    found = {(key, type_, title) for key, type_, title in rows("SELECT key, type, title FROM address")}
    files = {(key, "file", "") for key in ("/show?pic=7", "/logo.png", "/minutes.pdf")}
    assert found == {("/", "page", "Home"), ("/old", "page", "Not found"), *files}
