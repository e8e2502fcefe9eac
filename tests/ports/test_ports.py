"""Logs, sitemaps, feeds, plan folders, and the JSON:API target."""

from __future__ import annotations

import asyncio
import gzip
import io
import json
import zipfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import pytest

from grandferry.core.errors import FerryError, PlanError
from grandferry.demo.newsystem import NewSystem
from grandferry.ports.planfolder import PlanFolder, parse_pairs, read_plan, write_plan
from grandferry.ports.sources.serverlog import count_visits, log_lines
from grandferry.ports.sources.sitemap import read_feed, read_sitemap
from grandferry.ports.targets.base import TargetError, identity
from grandferry.ports.targets.jsonapi import JsonApi
from grandferry.ports.targets.warc import Archived, write_warc
from grandferry.store import secrets
from tests.servers import apps, pages_app

# the example of the Apache documentation's "combined" format, and what logs hold besides
LOG = b"""127.0.0.1 - frank [10/Oct/2000:13:55:36 -0700] "GET /apache_pb.gif HTTP/1.0" 200 2326 "http://www.example.test/start.html" "Mozilla/4.08 [en] (X11)"
10.0.0.1 - - [10/Oct/2000:13:55:36 -0700] "GET /a?b=1 HTTP/1.1" 404 0 "-" "Mozilla/5.0 (X11) Lantern/4"
10.0.0.1 - - [10/Oct/2000:13:55:36 -0700] "GET /a?b=1 HTTP/1.1" 200 0 "-" "Mozilla/5.0 \\"hi\\""
10.0.0.1 - - [10/Oct/2000:13:55:36 -0700] "GET /r HTTP/1.1" 200 0 "-" "Quarrybot/2.0"
10.0.0.1 - - [10/Oct/2000:13:55:36 -0700] "POST /form HTTP/1.1" 200 0 "-" "Mozilla/5.0 (X11) Lantern/4"
10.0.0.1 - - [10/Oct/2000:13:55:36 -0700] "GET /common HTTP/1.1" 200 12
10.0.0.2 - - [10/Oct/2000:13:55:36 -0700] "GET /c HTTP/1.1" 200 0 "-" "stonelib/1.2"
10.0.0.2 - - [10/Oct/2000:13:55:36 -0700] "GET /c HTTP/1.1" 200 0 "-" "Mozilla/5.0 (Surveyor; +http://survey.test/)"
\x16\x03\x01 rubbish

"""


def test_visits_from_an_access_log(tmp_path: Path) -> None:
    for name, content in (("access.log", LOG), ("access.log.gz", gzip.compress(LOG))):
        (tmp_path / name).write_bytes(content)
        count = count_visits(log_lines(tmp_path / name))
        assert count.visits == {"/apache_pb.gif": 1, "/a?b=1": 2, "/common": 1}
        assert (count.lines, count.robots, count.other_methods, count.unreadable) == (9, 3, 1, 1)


def test_sitemaps_of_every_form() -> None:
    urlset = b'<?xml version="1.0"?><urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9"><url><loc> http://a.test/?a=1&amp;b </loc></url></urlset>'
    assert read_sitemap(urlset).pages == ("http://a.test/?a=1&b",)
    assert read_sitemap(gzip.compress(urlset)).pages == ("http://a.test/?a=1&b",)
    assert read_sitemap(b"<sitemapindex><sitemap><loc>http://a.test/1</loc></sitemap></sitemapindex>").sitemaps == (
        "http://a.test/1",
    )
    assert read_sitemap(b"http://a.test/1\nnonsense\nhttp://a.test/2\n").pages == ("http://a.test/1", "http://a.test/2")
    assert (
        "gzip" in read_sitemap(b"\x1f\x8bbroken").fault
        and "not a sitemap" in read_sitemap(b"<html/>").fault
        and read_sitemap(b"words").fault
    )
    entity = b'<!DOCTYPE u [<!ENTITY x SYSTEM "file:///etc/hostname">]><urlset><url><loc>&x;</loc></url></urlset>'
    assert read_sitemap(entity).pages == ()
    bomb = (
        b"<!DOCTYPE u ["
        + b"".join(b'<!ENTITY e%d "%s">' % (n, b"&e%d;" % (n - 1) * 10 if n else b"x" * 10) for n in range(12))
        + b"]><urlset><url><loc>&e11;</loc></url></urlset>"
    )
    assert read_sitemap(bomb).pages == ()
    assert read_feed(
        b'<feed xmlns="http://www.w3.org/2005/Atom"><entry><link href="/e"/><link rel="self" href="/s"/></entry></feed>'
    ) == ("/e",)
    assert read_feed(b"<html/>") == () and read_feed(b"\x00") == ()


def plan_files(folder: Path) -> None:
    folder.mkdir()
    (folder / "plan.yaml").write_text(
        "format: 1\nname: T\nold: {start: http://a.test/}\nroute: {files: '/m/{name}'}\n", "utf-8"
    )
    (folder / "pairs.csv").write_text("\ufeffold;new;status;match\n/a;/b;;\n/c;;;\n", "utf-8")
    (folder / "edits.jsonl").write_text('{"old": "/a", "field": "title", "value": "x: \\"y\\" # z"}\n', "utf-8")


def test_a_plan_folder_its_zip_and_back(tmp_path: Path) -> None:
    plan_files(tmp_path / "plan")
    content = read_plan(tmp_path / "plan")
    assert [(p.old, p.new, p.status, p.match) for p in content.pairs] == [
        ("/a", "/b", 301, "exact"),
        ("/c", "", 410, "exact"),
    ]
    assert content.edits[0].value == 'x: "y" # z'
    with zipfile.ZipFile(tmp_path / "plan.zip", "w") as archive:
        for file in (tmp_path / "plan").iterdir():
            archive.write(file, f"plan/{file.name}")
    assert read_plan(tmp_path / "plan.zip") == content
    for target in ("one", "two"):
        write_plan(tmp_path / target, read_plan(tmp_path / "plan"))
    again = read_plan(tmp_path / "one")
    assert isinstance(again, PlanFolder) and (again.plan, again.pairs, again.edits) == (
        content.plan,
        content.pairs,
        content.edits,
    )
    assert all((tmp_path / "one" / f.name).read_bytes() == f.read_bytes() for f in (tmp_path / "two").iterdir()), (
        "same plan, same bytes"
    )


def test_faults_in_edits_and_pairs_name_their_line(tmp_path: Path) -> None:
    plan_files(tmp_path / "plan")
    (tmp_path / "plan" / "edits.jsonl").write_text('{"old": "/a", "field": "t", "value": 1}\n{"old": 3}\n', "utf-8")
    with pytest.raises(PlanError, match="edits.jsonl, line 2"):
        read_plan(tmp_path / "plan")
    with pytest.raises(PlanError, match="pairs.csv, line 3: more cells"):
        parse_pairs(b"old,new\n/a,/b\n/c,/d,x\n", "pairs.csv")
    with pytest.raises(PlanError, match="UTF-8"):
        parse_pairs(b"old,new\n/\xff,/b\n", "pairs.csv")
    with pytest.raises(PlanError, match="zero byte"):
        parse_pairs(b"old,new\n/a\x00,/b\n", "pairs.csv")
    with pytest.raises(
        PlanError, match="line 2: .*; line 4: “status”: Input should be .*; line 5: more cells.* 3 lines cannot be read"
    ):
        parse_pairs(b"old,new,status\n=a,/b,\n/ok,/fine,\n/c,/d,9\n/e,/f,301,x\n", "pairs.csv")


def land(port: int, *things: tuple[str, str, dict[str, Any], bool]) -> list[str]:
    async def run() -> list[str]:
        async with JsonApi(f"http://127.0.0.1:{port}") as target:
            await target.exists()
            return [await target.put(type_, id_, attributes, known) for type_, id_, attributes, known in things]

    return asyncio.run(run())


def test_a_target_says_what_it_takes_and_gives_back_what_was_taken_away(tmp_path: Path) -> None:
    page = {"title": "T", "path": "/x", "published": True}

    async def run(port: int) -> tuple[object, ...]:
        async with JsonApi(f"http://127.0.0.1:{port}") as target:
            model = await target.model() or {}
            await target.put("pages", "a", page, False)
            there = await target.get("pages", "a")
            gone = [await target.remove("pages", "a"), await target.remove("pages", "a")]
            return "pages" in model, (there or {})["attributes"], gone, await target.get("pages", "a"), target.takes

    with apps(lambda: NewSystem(tmp_path / "n.sqlite").app()) as (port,):
        known, attributes, gone, after, takes = asyncio.run(run(port))
    assert known and attributes == page and gone == [True, False] and after is None
    assert takes.redirects == {"exact", "prefix"}  # type: ignore[attr-defined]


def test_the_target_makes_nothing_twice(tmp_path: Path) -> None:
    system: list[NewSystem] = []

    def made() -> Any:
        system.append(NewSystem(tmp_path / "n.sqlite", fail_every=3))
        return system[0].app()

    id_ = identity("One", "item", "/a")
    assert id_ == identity("One", "item", "/a") != identity("One", "item", "/b")
    page = {"title": "T", "path": "/x", "published": True}
    with apps(made) as (port,):
        # the second and third time as if the answer to the first had been lost; every third write is answered 503
        assert land(
            port, ("pages", id_, page, False), ("pages", id_, page, False), ("pages", id_, {**page, "title": "U"}, True)
        ) == ["created", "changed", "changed"]
        assert land(port, ("pages", identity("One", "item", "/gone"), {**page, "path": "/y"}, True)) == ["created"], (
            "deleted there: made again"
        )
        for attributes, reason in (
            ({"title": "", "path": "/z"}, "required"),
            ({"title": "x", "path": "/x"}, "is the place of"),
            ({"title": "x", "path": "z"}, "must begin"),
        ):
            with pytest.raises(TargetError, match=reason):
                land(port, ("pages", "other", attributes, False))
        with pytest.raises(TargetError, match="no type"):
            land(port, ("boats", "b", page, False))


def test_a_target_that_is_none() -> None:
    with apps(pages_app({"/": "x"})) as (port,), pytest.raises(TargetError, match="is no JSON:API"):
        land(port)
    with pytest.raises(FerryError, match="no usable answer"):
        land(9)


def test_the_stand_in_speaks_json_api() -> None:
    """Content type, documents, error objects and status codes as JSON:API 1.1 asks."""
    import httpx

    with apps(lambda: NewSystem(":memory:").app()) as (port,):
        client = httpx.Client(base_url=f"http://127.0.0.1:{port}")
        media = {"Content-Type": "application/vnd.api+json"}
        document = {
            "data": {
                "type": "posts",
                "id": "p1",
                "attributes": {
                    "title": "T",
                    "path": "/n/t",
                    "published": True,
                    "body": {"format": "html", "value": "<p>B</p>"},
                },
            }
        }
        assert client.post("/api/posts", json=document).status_code == 415
        made = client.post("/api/posts", content=json.dumps(document), headers=media)
        assert (
            made.status_code == 201
            and made.headers["location"] == "/api/posts/p1"
            and made.json()["data"]["id"] == "p1"
        )
        assert client.post("/api/posts", content=json.dumps(document), headers=media).status_code == 409
        assert client.post("/api/pages", content=json.dumps(document), headers=media).status_code == 409
        assert client.post("/api/posts", content="{", headers=media).json()["errors"][0]["status"] == "400"
        assert "<p>B</p>" in client.get("/n/t").text and client.get("/n/none").status_code == 404
        for id_, line in {
            "r1": {"old": "/o", "new": "/n/t", "status": 301, "match": "exact"},
            "r2": {"old": "/s", "new": "/n", "status": 308, "match": "prefix"},
            "r3": {"old": "/g", "new": "", "status": 410, "match": "exact"},
        }.items():
            client.post(
                "/api/redirects",
                content=json.dumps({"data": {"type": "redirects", "id": id_, "attributes": line}}),
                headers=media,
            )
        assert (client.get("/o?x=1").status_code, client.get("/o").headers["location"]) == (301, "/n/t")
        assert client.get("/s/t").headers["location"] == "/n/t" and client.get("/g").status_code == 410
        assert client.delete("/api/posts/p1").status_code == 204 and client.get("/api/posts/p1").status_code == 404


@pytest.mark.parametrize(
    "bomb",
    [
        "a0: &a0 {x: 1, y: 2}\n"
        + "".join(f"a{n}: &a{n} {{l: *a{n - 1}, r: *a{n - 1}, m: *a{n - 1}}}\n" for n in range(1, 40)),
        "a0: &a0 {k0: 1, k1: 1}\n"
        + "".join(f"a{n}: &a{n} {{<<: [*a{n - 1}, *a{n - 1}, *a{n - 1}], q{n}: 1}}\n" for n in range(1, 40)),
        "deep: " + "[" * 5000 + "]" * 5000,
        "a0: &a0 [x, x]\n" + "".join(f"a{n}: &a{n} [{', '.join([f'*a{n - 1}'] * 9)}]\n" for n in range(1, 20)),
    ],
)
def test_a_small_plan_that_unfolds_without_end_is_refused_at_once(bomb: str, tmp_path: Path) -> None:
    (tmp_path / "plan.yaml").write_text(f"format: 1\nname: T\nold: {{start: 'http://a.test/'}}\n{bomb}", "utf-8")
    with pytest.raises(PlanError, match="aliases are written out"):
        read_plan(tmp_path)


def test_aliases_of_an_ordinary_plan_are_read(tmp_path: Path) -> None:
    (tmp_path / "plan.yaml").write_text(
        "format: 1\nname: T\nold: {start: 'http://a.test/'}\nkinds:\n  - name: a\n    rules: [{below: /a}]\n    fields: &f\n"
        "      - {name: title, type: line, locators: [{css: h1}]}\n  - {name: b, rules: [{below: /b}], fields: *f}\n",
        "utf-8",
    )
    assert [kind.fields[0].name for kind in read_plan(tmp_path).plan.kinds] == ["title", "title"]


@pytest.mark.parametrize(
    ("name", "content"), [("plan.yaml", b"#" * 5_000_000), ("pairs.csv", b"old,new\n" + b"/a,/b\n" * 12_000_000)]
)
def test_a_zip_that_unpacks_to_too_much_is_refused(name: str, content: bytes, tmp_path: Path) -> None:
    path = tmp_path / "plan.zip"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        files = {"plan.yaml": b"format: 1\nname: T\nold: {start: 'http://a.test/'}\n", name: content}
        for file, text in files.items():
            archive.writestr(file, text)
        archive.writestr("something/else.bin", bytes(90_000_000))  # nobody asks for it
    with pytest.raises(PlanError, match=f"{name}.*unpacks to more than"):
        read_plan(path)


def test_a_damaged_zip_is_told(tmp_path: Path) -> None:
    path = tmp_path / "plan.zip"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("plan.yaml", "format: 1\nname: T\n" + "# a remark\n" * 400)
    packed = bytearray(path.read_bytes())
    packed[60:70] = bytes(10)
    path.write_bytes(packed)
    with pytest.raises(PlanError, match="cannot be unpacked"):
        read_plan(path)


def test_nothing_outside_the_folder_of_a_plan_is_read(tmp_path: Path) -> None:
    (tmp_path / "secret.csv").write_text("old,new\n/a,/b\n", "utf-8")
    folder = tmp_path / "plan"
    folder.mkdir()
    (folder / "plan.yaml").write_text("format: 1\nname: T\nold: {start: 'http://a.test/'}\n", "utf-8")
    (folder / "pairs.csv").symlink_to(tmp_path / "secret.csv")
    assert read_plan(folder).pairs == []


@pytest.mark.parametrize(
    ("name", "secret"),
    [
        *(
            (n, True)
            for n in ("Set-Cookie", "X-Auth-Token", "Authorization", "X-CSRF-Token", "x-session-id", "X-Api-Key")
        ),
        *((n, False) for n in ("Content-Type", "ETag", "X-Powered-By", "WWW-Authenticate", "Cache-Control", "Age")),
    ],
)
def test_an_archive_holds_no_header_that_is_a_key(name: str, secret: bool) -> None:
    out = io.BytesIO()
    answer = Archived("http://o.test/", "2026-05-01T10:00:00Z", 200, {name: "v4lu3-to-keep"}, b"x")
    write_warc(out, "n", {}, [answer], "2026-05-01T10:00:00Z", packed=False)
    assert (b"v4lu3-to-keep" in out.getvalue()) is not secret


def test_secrets_given_at_the_same_time_are_all_kept(workspace: Path) -> None:
    with ThreadPoolExecutor(16) as pool:
        list(pool.map(lambda n: secrets.give(1 + n % 3, secrets.Secret(f"h{n}.test", "basic", "n", "v")), range(60)))
        assert sorted(s.host for crossing in (1, 2, 3) for s in secrets.secrets(crossing)) == sorted(
            f"h{n}.test" for n in range(60)
        )
        assert all(pool.map(lambda n: secrets.forget(1 + n % 3, f"h{n}.test", "basic", "n"), range(60)))
    assert not any(secrets.secrets(crossing) for crossing in (1, 2, 3))
