"""Lists, tables and logs handed over: weighed, taken, fetched."""

from __future__ import annotations

import gzip
import tracemalloc
from collections.abc import Callable
from pathlib import Path
from typing import Any

import openpyxl
import pytest

from grandferry.core.errors import FerryError
from grandferry.core.side import Side
from grandferry.ports.sources.serverlog import MOST, count_visits, own_machines
from grandferry.ports.sources.table import look, number
from grandferry.store.db import one, rows
from grandferry.store.survey import given
from grandferry.work.survey import ownerlists
from tests.servers import apps, pages_app

Make = Callable[..., int]
Run = Callable[..., dict[str, Any]]
SITE: dict[str, Any] = {
    "/": "<p>home</p><a href=/a.htm>a</a><a href=/b.htm>b</a>",
    "/a.htm": "<p>a</p>",
    "/b.htm": "<p>b</p>",
    "/lost.htm": "<p>nobody links here</p>",
    "/old/note.htm": "<p>nor here</p>",
}


def handed_over(text: bytes) -> Path:
    path = ownerlists.new_place()
    path.write_bytes(text)
    return path


def test_a_pasted_list_adds_the_two_addresses_no_link_leads_to(cross: Make, work: Run) -> None:
    with apps(pages_app(SITE)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        assert work("survey", crossing)["pages"] == 3
        path = handed_over(b"/\n/a.htm\n/b.htm\n/lost.htm\nhttp://127.0.0.1:%d/old/note.htm\n" % port)
        assert ownerlists.looked_at(path).form == "lines"
        weighed, _ = ownerlists.weigh(Side(crossing), path, "lines")
        assert [line.text[-9:] for line in weighed.new] == ["/lost.htm", "/note.htm"]
        report = ownerlists.take(Side(crossing), path, "important pages", "lines", 0, -1, [], "Ann")
        assert report["unknown before"] == 2 and report["distinct"] == 5 and not path.exists()
        assert work("survey", crossing)["pages"] == 5
    unlinked = "SELECT key FROM address WHERE in_links = 0 AND key != '/' ORDER BY key"
    assert rows(unlinked) == [("/lost.htm",), ("/old/note.htm",)]
    assert rows("SELECT how FROM found f JOIN address a ON a.id = f.address_id WHERE key = '/lost.htm'") == [("list",)]
    assert given.lists(Side(crossing))[0].addresses == 5


def test_an_analytics_table_gives_visits_whatever_its_delimiter(cross: Make, work: Run) -> None:
    table = "# Made on 3 May 2026\r\n\r\nPage title;Page path;Pageviews\r\nHome;/;1.204\r\nA;/a.htm;30\r\nA;/a.htm#x;5\r\nLost;/lost.htm;7\r\n"
    path = handed_over(table.encode("cp1252"))
    found = ownerlists.looked_at(path)
    assert (found.form, found.columns, found.address, found.visits) == (
        "table",
        ["Page title", "Page path", "Pageviews"],
        1,
        2,
    )
    with apps(pages_app(SITE)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        ownerlists.take(Side(crossing), path, "analytics.csv", "table", 1, 2, [], "")
        work("survey", crossing)
    assert dict(rows("SELECT key, visits FROM address")) == {"/": 1204, "/a.htm": 35, "/b.htm": 0, "/lost.htm": 7}


def test_a_workbook_is_a_table_and_a_sitemap_a_list(tmp_path: Path, workspace: Path) -> None:
    book = openpyxl.Workbook()
    for row in (["What", "Address", "Visits"], ["Home", "http://old.test/", 12], ["Shop", "http://old.test/shop/", 3]):
        book.active.append(row)
    book.save(tmp_path / "pages.xlsx")
    found = look(tmp_path / "pages.xlsx")
    assert (found.address, found.visits, found.rows[1]) == (1, 2, ["Shop", "http://old.test/shop/", "3"])
    sitemap = handed_over(gzip.compress(b"<urlset><url><loc>http://old.test/x</loc></url></urlset>"))
    assert ownerlists.looked_at(sitemap).form == "lines"
    assert [number(text) for text in ("1,204", "1 204", "12", "none")] == [1204, 1204, 12, 0]


LINE = '{client} - - [03/May/2026:10:00:00 +0000] "{request} HTTP/1.1" 200 12 "-" "{agent}"\n'


def test_a_log_tells_people_robots_and_own_machines_apart(cross: Make, work: Run) -> None:
    people, robot = "Mozilla/5.0", "FetchBot/2.0 (+http://fetch.test/bot)"
    lines = [
        LINE.format(client="198.51.100.4", request="GET /a.htm", agent=people),
        LINE.format(client="198.51.100.5", request="GET /a.htm", agent=people),
        LINE.format(client="192.0.2.9", request="GET /a.htm", agent=people),
        LINE.format(client="198.51.100.6", request="GET /a.htm", agent=robot),
        LINE.format(client="198.51.100.7", request="POST /form", agent=people),
        "not a line of a log\n",
    ]
    path = handed_over(gzip.compress("".join(lines).encode()))
    assert ownerlists.looked_at(path).form == "log"
    with apps(pages_app(SITE)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        result = work("log", crossing, file=path.name, name="access.log.gz", own=["192.0.2.0/24"])
        work("survey", crossing)
    assert (result["lines"], result["visits"], result["robots"], result["own machines"]) == (6, 2, 1, 1)
    assert result["unreadable"] == 1 and result["no page asked for"] == 1
    assert one("SELECT visits FROM address WHERE key = '/a.htm'") == 2


def test_a_log_of_any_size_fits_in_memory() -> None:
    def lines() -> Any:
        for n in range(3 * MOST):
            yield LINE.format(client="198.51.100.4", request=f"GET /p{n}", agent="Mozilla/5.0").encode()

    sizes: list[int] = []
    total = 0

    def flush(visits: dict[str, int]) -> None:
        nonlocal total
        sizes.append(len(visits))
        total += sum(visits.values())

    tracemalloc.start()
    count = count_visits(lines(), flush=flush)
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert count.counted == total == 3 * MOST and max(sizes) <= MOST
    assert peak < 40_000_000


def test_bad_files_have_their_sentences(cross: Make, work: Run) -> None:
    crossing = cross({"old": {"start": "http://old.test/"}})
    with pytest.raises(FerryError, match="empty"):
        ownerlists.looked_at(handed_over(b""))
    with pytest.raises(FerryError, match="192.0.2"):
        own_machines(["not a machine"])
    with pytest.raises(FerryError, match="within the bounds"):
        ownerlists.take(Side(crossing), handed_over(b"http://else.test/\n"), "x", "lines", 0, -1, [], "")
    torn = handed_over(gzip.compress(LINE.format(client="a", request="GET /", agent="x").encode() * 3000)[:200])
    assert "Combined" in work("log", crossing, fails=True, file=handed_over(b"hello\n").name, name="x")["error"]
    assert "to its end" in work("log", crossing, fails=True, file=torn.name, name="x")["error"]
    assert given.lists(Side(crossing)) == []
    with pytest.raises(FerryError, match="not here any more"):
        ownerlists.place("../../etc/passwd")
