"""The offline copy opened without a server, and a survey built from an archive with the source switched off."""

from __future__ import annotations

import csv
import gzip
import io
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urldefrag, urljoin

import pytest
from selectolax.lexbor import LexborHTMLParser

from grandferry.core.errors import FerryError
from grandferry.core.side import Side
from grandferry.store.db import one, rows
from grandferry.work.survey import ownerlists
from grandferry.work.survey.offline import write_copy
from grandferry.work.survey.report import write_addresses
from tests.servers import apps, pages_app

Make = Callable[..., int]
Run = Callable[..., dict[str, Any]]
PNG = (200, {"Content-Type": "image/png"}, b"\x89PNG-made-up")


def site() -> dict[str, Any]:
    made: dict[str, Any] = {
        f"/p/{n}.aspx?id={n}": f"<title>P{n}</title><link rel=stylesheet href=/s.css><p>page {n}</p><img src=/pic/i{n}.png>"
        f"<a href='/p/{n % 9 + 1}.aspx?id={n % 9 + 1}#x'>next</a><a href=/gone>g</a><a href=/go>r</a><a href=http://else.test/>e</a>"
        for n in range(1, 10)
    }
    made |= {f"/pic/i{n}.png": PNG for n in range(1, 10)}
    made["/s.css"] = (200, {"Content-Type": "text/css"}, b"b{background:url(pic/It%27s%20caf%C3%A9%25.png)}")
    made["/pic/It%27s%20caf%C3%A9%25.png"] = PNG
    made["/pic/It's%20caf%C3%A9%25.png"] = PNG
    made["/"] = "<meta charset=windows-1252><title>Home</title>" + "".join(
        f"<a href=/p/{n}.aspx?id={n}>{n}</a>" for n in range(1, 10)
    )
    made["/go"] = (302, {"Location": "/p/2.aspx?id=2"}, b"")
    return made


def references(name: str, text: str) -> set[str]:
    tree = LexborHTMLParser(text)
    raw = {n.attributes.get("href") or n.attributes.get("src") or "" for n in tree.css("a,link,img")}
    return {unquote(urldefrag(urljoin(f"zip:///{name}".replace("zip:", "http:"), r))[0]) for r in raw if r}


def test_every_inner_reference_of_the_copy_resolves_or_is_listed(cross: Make, work: Run, tmp_path: Path) -> None:
    with apps(pages_app(site())) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        work("survey", crossing)
        base = f"http://127.0.0.1:{port}"
    out = tmp_path / "site.zip"
    assert write_copy(Side(crossing), out)["files"] == 10 + 9 + 2
    with zipfile.ZipFile(out) as archive:
        assert archive.testzip() is None
        names = set(archive.namelist())
        table = {
            row["address"]: row["file"] for row in csv.DictReader(io.StringIO(archive.read("addresses.csv").decode()))
        }
        listed = {
            (row["file"], row["address"])
            for row in csv.DictReader(io.StringIO(archive.read("unresolved.csv").decode()))
        }
        assert table[f"{base}/p/1.aspx?id=1"] != table[f"{base}/p/2.aspx?id=2"]
        assert table[f"{base}/go"] == table[f"{base}/p/2.aspx?id=2"]
        odd = next(name for url, name in table.items() if "caf" in url)
        assert odd in names and archive.read(odd) == PNG[2], (
            "a quote, an accent and a percent sign, found again by the table"
        )
        assert odd.rsplit("/", 1)[1] in archive.read(table[f"{base}/s.css"]).decode()
        checked = 0
        for name in names - {"addresses.csv", "unresolved.csv"}:
            if not name.endswith(".html"):
                continue
            text = archive.read(name).decode()
            for reference in references(name, text):
                inside = reference.removeprefix("http:///")
                assert inside in names or (name, reference) in listed, (name, reference)
                checked += 1
        assert checked > 9 * 5
        assert {address for _, address in listed} == {f"{base}/gone", "http://else.test/"}
    again = tmp_path / "again.zip"
    write_copy(Side(crossing), again)
    assert again.read_bytes() == out.read_bytes(), "the same site gives the same copy"
    result = work("copy", crossing)
    assert result["files"] == 21


def test_nothing_captured_is_no_copy(cross: Make, tmp_path: Path) -> None:
    with pytest.raises(FerryError, match="Nothing is captured"):
        write_copy(Side(cross({"old": {"start": "http://old.test/"}})), tmp_path / "x.zip")
    assert not list(tmp_path.glob("*.zip")) and not list(tmp_path.glob(".*.zip*"))


@pytest.mark.parametrize("ending", ["warc", "warc.gz"])
def test_a_survey_from_an_archive_equals_that_of_the_site(cross: Make, work: Run, tmp_path: Path, ending: str) -> None:
    facts = (
        "SELECT a.url, a.status, a.type, a.mime, a.title, a.words, a.target, coalesce(c.body, '') FROM address a "
        "LEFT JOIN capture c ON c.id = a.capture WHERE a.crossing_id = ? AND a.status IN (200, 302) ORDER BY a.url"
    )
    links = (
        "SELECT s.url, t.url, r.how, r.words FROM reference r JOIN address s ON s.id = r.source_id JOIN address t ON "
        "t.id = r.target_id WHERE r.crossing_id = ? ORDER BY 1, 2, 3, 4"
    )
    with apps(pages_app(site())) as (port,):
        plan = {"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}}
        crossing = cross(plan)
        work("survey", crossing)
        write_addresses(Side(crossing), tmp_path / f"old.{ending}")
    before, linked = rows(facts, crossing), rows(links, crossing)
    path = ownerlists.new_place()
    path.write_bytes((tmp_path / f"old.{ending}").read_bytes())
    assert ownerlists.looked_at(path).form == "archive"
    other = cross({**plan, "name": "From the archive"})
    result = work("survey", other, archive=path.name)  # the site is switched off by now
    assert result["pages"] == 10 and rows(facts, other) == before and rows(links, other) == linked
    assert one("SELECT status FROM address WHERE crossing_id = ? AND key = '/gone'", other) == 404, "so it was archived"


def test_a_torn_archive_has_its_sentence(cross: Make, work: Run, tmp_path: Path) -> None:
    crossing = cross({"old": {"start": "http://old.test/"}})
    path = ownerlists.new_place()
    path.write_bytes(b"WARC/1.1\r\nWARC-Type: resp")
    assert "archive" in work("survey", crossing, fails=True, archive=path.name)["error"]


def record(url: str, head: str, *body: bytes) -> Iterator[bytes]:
    """A response record, in pieces."""
    http = f"HTTP/1.1 200 OK\r\n{head}\r\n\r\n".encode()
    length = len(http) + sum(map(len, body))
    yield f"WARC/1.1\r\nWARC-Type: response\r\nWARC-Target-URI: {url}\r\nWARC-Date: 2026-03-02T10:00:00Z\r\n".encode()
    yield f"Content-Type: application/http; msgtype=response\r\nContent-Length: {length}\r\n\r\n".encode() + http
    yield from body
    yield b"\r\n\r\n"


def packed(path: Path, *records: Iterator[bytes]) -> None:
    with path.open("wb") as out:
        for pieces in records:
            with gzip.GzipFile(fileobj=out, mode="wb", compresslevel=1) as one_:
                for piece in pieces:
                    one_.write(piece)


HTML = "Content-Type: text/html"


def test_one_huge_page_of_an_archive_costs_only_itself(cross: Make, work: Run) -> None:
    path = ownerlists.new_place()
    filler = [b"<p>x</p>" * 125_000] * 40
    packed(
        path,
        record("http://old.test/", HTML, b"<a href=/huge>h</a><a href=/small>s</a>"),
        record("http://old.test/huge", HTML, *filler),
        record("http://old.test/small", HTML, b"<title>Small</title><p>words"),
    )
    assert path.stat().st_size < 1_000_000
    crossing = cross({"old": {"start": "http://old.test/"}, "survey": {"sitemaps": False}})
    result = work("survey", crossing, archive=path.name)
    assert (result["pages"], result["failed"]) == (2, 1)
    assert rows("SELECT reason FROM address WHERE key = '/huge'") == [("Larger than the cap of 16 MB.",)]


@pytest.mark.slow
def test_an_archive_that_unpacks_to_more_than_the_memory_given_to_one_is_refused(cross: Make, work: Run) -> None:
    path = ownerlists.new_place()
    packed(
        path,
        record("http://old.test/", HTML, b"<p>home"),
        iter([b"WARC/1.1\r\nWARC-Type: response\r\nX: ", *([b"x" * 10_000_000] * 90)]),
    )
    assert path.stat().st_size < 10_000_000
    crossing = cross({"old": {"start": "http://old.test/"}, "survey": {"sitemaps": False}})
    failed = work("survey", crossing, fails=True, archive=path.name)
    assert "needs more memory or time" in failed["error"] and "Divide it" in failed["error"]
