"""Protected sites: access is tried before anything is fetched, sent to its host alone, and stands nowhere else."""

from __future__ import annotations

import base64
import gzip
import os
import re
import stat
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import httpx
from aiohttp import web

from grandferry.core.side import Side
from grandferry.ports.planfolder import PlanFolder, write_plan
from grandferry.store import crossings, secrets
from grandferry.store.db import rows
from grandferry.store.survey import surveyed
from grandferry.work.survey.access import give_access, try_access
from grandferry.work.survey.report import FORMATS, write_addresses
from tests.servers import apps, served_api

Run = Callable[..., dict[str, Any]]
Make = Callable[..., int]
WORD = "Ti5-Hafan-unspoken"


def guarded(seen: list[tuple[str, str]], other: int) -> web.Application:
    """Pages behind a password; one leads to another host, one to a sign-in form, one is a check of the visitor."""
    good = "Basic " + base64.b64encode(f"mara:{WORD}".encode()).decode()
    pages = {
        "/": f"<title>In</title><a href=/a>a</a><a href=/staff/>s</a><a href=/check>c</a><a href=/empty>e</a>"
        f"<img src=http://127.0.0.1:{other}/pic.png>",
        "/a": "<title>A</title><form><input type=password name=p></form>" + "<p>" + "many good words " * 60,
        "/login": "<title>Sign in</title><form><input name=n><input type=password name=p></form>",
        "/check": "<title>One moment</title><p>Please verify that you are a human.</p><script src=x.js></script>",
        "/empty": "",
    }

    async def answer(request: web.Request) -> web.Response:
        seen.append((request.path, request.headers.get("Authorization", "")))
        if request.headers.get("Authorization") != good:
            return web.Response(status=401, headers={"WWW-Authenticate": 'Basic realm="x"'})
        if request.path == "/staff/":
            return web.Response(status=302, headers={"Location": "/login?next=/staff/"})
        if request.path not in pages:
            return web.Response(status=404, text="no")
        headers = {"Set-Cookie": f"session={WORD}; Path=/"}
        return web.Response(text=pages[request.path], content_type="text/html", headers=headers)

    app = web.Application()
    app.router.add_route("*", "/{rest:.*}", answer)
    return app


def everywhere(folder: Path) -> list[Path]:
    """The files of a workspace that hold the secret word, the one made for it aside."""
    held = []
    for path in folder.rglob("*"):
        if path.is_file() and path.name != secrets.FILE and WORD.encode() in path.read_bytes():
            held.append(path)
    return held


def test_a_wrong_password_is_told_before_any_page_is_fetched(cross: Make, work: Run) -> None:
    seen: list[tuple[str, str]] = []
    with apps(guarded(seen, 1)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}})
        secrets.give(crossing, secrets.Secret(f"127.0.0.1:{port}", "basic", "mara", "wrong"))
        told = try_access(Side(crossing))
        assert told == (
            False,
            401,
            f"Basic authentication refused by 127.0.0.1:{port} (401). Check the name and the password.",
        )
        seen.clear()
        assert "Basic authentication refused" in work("survey", crossing, fails=True)["error"]
    assert [path for path, _ in seen] == ["/robots.txt", "/"]
    assert rows("SELECT count(*) FROM capture")[0][0] == 0


def test_a_guarded_site_is_surveyed_and_its_key_stands_nowhere(cross: Make, work: Run, workspace: Path) -> None:
    seen: list[tuple[str, str]] = []
    foreign: list[tuple[str, str]] = []
    with apps(guarded(foreign, 1)) as (other,), apps(guarded(seen, other)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/", "file_hosts": [f"127.0.0.1:{other}"]}})
        secrets.give(crossing, secrets.Secret(f"127.0.0.1:{port}", "basic", "mara", WORD))
        assert try_access(Side(crossing))[0]
        seen.clear()
        work("survey", crossing)
    assert foreign and all(header == "" for _, header in foreign), "the key goes to its own host alone"
    assert all(header for _, header in seen)
    asked = [path for path, _ in seen]
    assert asked.count("/") == 1, "the page that was asked first is not asked twice"
    table = {row["address"].rpartition(str(port))[2]: row for row in surveyed.address_rows(Side(crossing))}
    assert (table["/"]["type"], table["/a"]["type"]) == ("page", "page"), "a small sign-in box is no sign-in page"
    notes = {key: table[key]["note"] for key in ("/staff/", "/login?next=/staff/", "/check", "/empty")}
    assert notes == {
        "/staff/": "sign-in needed",
        "/login?next=/staff/": "sign-in needed",
        "/check": "asks whether a person is there",
        "/empty": "empty answer",
    }
    stored = (
        "SELECT count(*) FROM capture c JOIN address a ON a.id = c.address_id WHERE a.type = 'refused' AND c.body != ''"
    )
    assert rows(stored)[0][0] == 0
    assert everywhere(workspace) == []
    assert stat.S_IMODE(os.stat(workspace / secrets.FILE).st_mode) == 0o600


def partly_guarded(seen: list[str]) -> web.Application:
    """An open site with a folder behind a header of its own, one page of which sends to a sign-in, and one that is
    closed to everybody."""

    async def answer(request: web.Request) -> web.Response:
        seen.append(request.path)
        mine = request.headers.get("X-Guild") == WORD
        if request.path.startswith("/archive/") and not mine:
            if request.path == "/archive/ledger":
                return web.Response(status=302, headers={"Location": "/login?next=/archive/ledger"})
            return web.Response(status=401 if request.path.endswith("rolls") else 403)
        links = {
            "/": ["/open", "/archive/rolls", "/archive/ledger", "/archive/plans"],
            "/archive/rolls": ["/archive/r1"],
        }
        if request.path not in ("/", "/open") and not request.path.startswith("/archive/"):
            return web.Response(status=404)
        text = "".join(f"<a href={link}>on</a>" for link in links.get(request.path, []))
        return web.Response(text=f"<title>{request.path}</title><p>words</p>{text}", content_type="text/html")

    app = web.Application()
    app.router.add_route("*", "/{rest:.*}", answer)
    return app


def test_access_given_later_asks_what_was_closed_and_nothing_else(cross: Make, work: Run) -> None:
    seen: list[str] = []
    with apps(partly_guarded(seen)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        host = f"127.0.0.1:{port}"
        assert work("survey", crossing)["pages"] == 2
        assert give_access(crossing, secrets.Secret("elsewhere.test", "header", "X-Guild", WORD)) == 0
        assert give_access(crossing, secrets.Secret(host, "header", "X-Guild", WORD)) == 3
        assert rows("SELECT count(*) FROM address WHERE state = 'waiting'") == [(3,)]
        seen.clear()
        again = work("survey", crossing)
    asked = [path for path in seen if path not in ("/", "/robots.txt")]  # the start is knocked at with the new key
    assert sorted(set(asked)) == ["/archive/ledger", "/archive/plans", "/archive/r1", "/archive/rolls"]
    assert (again["run"], again["pages"], again["not_visited"]) == (1, 6, 0)


MADE_OF_IT = (WORD.encode(), base64.b64encode(f"mara:{WORD}".encode()), base64.b64encode(WORD.encode())[:-4])


def unpacked(path: Path) -> list[bytes]:
    """What a file holds, taken out of its packing."""
    if zipfile.is_zipfile(path):
        with zipfile.ZipFile(path) as archive:
            return [archive.read(name) + name.encode() for name in archive.namelist()]
    held = path.read_bytes()
    return [gzip.decompress(held) if path.name.endswith(".gz") else held]


def test_no_key_goes_out_in_any_file_or_answer(cross: Make, work: Run, workspace: Path, tmp_path: Path) -> None:
    """Everything a crossing gives out, searched for the password as it is and as it is sent."""
    with apps(guarded([], 1)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}})
        secrets.give(crossing, secrets.Secret(f"127.0.0.1:{port}", "basic", "mara", WORD))
        secrets.give(crossing, secrets.Secret(f"127.0.0.1:{port}", "header", "X-Key", WORD))
        work("sound", crossing)
        work("survey", crossing)
    for ending in FORMATS:
        write_addresses(Side(crossing), tmp_path / f"out{ending}")
    write_plan(tmp_path / "plan", PlanFolder(crossings.load_plan(crossing), crossings.load_pairs(crossing)))
    for path in (p for p in tmp_path.rglob("*") if p.is_file() and workspace not in p.parents):
        for held in unpacked(path):
            assert not any(form in held for form in MADE_OF_IT), path.name
    asked = 0
    with served_api() as base, httpx.Client(base_url=base, timeout=30) as api:
        ids = [row["id"] for row in api.get(f"/api/crossings/{crossing}/addresses").json()["rows"]]
        for path, methods in api.get("/api/openapi.json").json()["paths"].items():
            if "get" not in methods or "stream" in path:
                continue
            for id_ in ids[:4] if "{address}" in path else [0]:
                filled = path.replace("{number}", str(crossing)).replace("{crossing}", str(crossing))
                filled = re.sub(r"\{\w+\}", "1", filled.replace("{address}", str(id_)))
                with api.stream("GET", filled) as answer:
                    held = next(answer.iter_bytes(), b"")
                asked += answer.status_code == 200
                assert not any(form in held for form in MADE_OF_IT), filled
    assert asked > 15


def test_secrets_are_masked_replaced_and_forgotten(cross: Make) -> None:
    crossing = cross({"old": {"start": "http://old.test/"}})
    for secret in (
        secrets.Secret("old.test", "basic", "mara", "one"),
        secrets.Secret("old.test", "basic", "bea", WORD),
        secrets.Secret("old.test", "header", "X-Key", WORD),
        secrets.Secret("old.test", "cookie", "a", "1"),
        secrets.Secret("old.test", "cookie", "b", "2"),
    ):
        secrets.give(crossing, secret)
    known = secrets.secrets(crossing)
    assert [s.name for s in known] == ["bea", "a", "b", "X-Key"] and all(set(s.masked) == {"•"} for s in known)
    headers = secrets.access_headers(known, "old.test")
    assert headers["Cookie"] == "a=1; b=2" and headers["X-Key"] == WORD
    assert secrets.access_headers(known, "old.test:8080") == {}
    assert secrets.forget(crossing, "old.test", "header", "x-key") and not secrets.forget(
        crossing, "old.test", "header", "x"
    )
    assert len(secrets.secrets(crossing)) == 3
