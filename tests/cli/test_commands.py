"""The command line as a script uses it: output, exit codes, sentences."""

from __future__ import annotations

import contextlib
import json
import os
import subprocess
import sys
import time
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import httpx
import openpyxl
import pytest
from typer.testing import CliRunner

from grandferry.cli.main import make_app
from tests.servers import apps, free_pair, free_port, pages_app, wait_for


def ferry(*words: str | Path, stdin: bytes = b"", home: Path | None = None) -> subprocess.CompletedProcess[bytes]:
    env = {
        **os.environ,
        "COLUMNS": "200",
        **({"HOME": str(home), "GRANDFERRY_DATA": str(home / "data")} if home else {}),
    }
    return subprocess.run(
        [sys.executable, "-m", "grandferry.cli.main", *map(str, words)],
        input=stdin,
        capture_output=True,
        env=env,
        timeout=300,
    )


def said(done: subprocess.CompletedProcess[bytes]) -> str:
    return done.stderr.decode()


def test_refit_a_file_standard_input_and_a_folder(tmp_path: Path) -> None:
    page = "<h1>T</h1><p>a <a href=b.htm>l</a> caf\xe9".encode("latin-1")
    (tmp_path / "in" / "sub").mkdir(parents=True)
    (tmp_path / "in" / "one.html").write_bytes(page)
    (tmp_path / "in" / "sub" / "two.htm").write_bytes(b"<p>two")
    (tmp_path / "in" / "picture.png").write_bytes(b"no page")
    done = ferry("refit", tmp_path / "in" / "one.html", "--base", "http://a.test/x/")
    assert (done.returncode, done.stdout.decode()) == (0, "# T\n\na [l](http://a.test/x/b.htm) café\n")
    assert ferry("refit", "-", "--to", "text", stdin=page).stdout.decode() == "T\n\na l café\n"
    assert json.loads(ferry("refit", "--to", "blocks", stdin=page).stdout)["blocks"][0]["type"] == "Heading"
    result = json.loads(ferry("refit", "-", "--json", stdin=b"<p>a <x-y>b</x-y>").stdout)
    assert (
        result["pages"]["-"]["text"].startswith("a ")
        and result["pages"]["-"]["islands"] == {"x-y": 1}
        and result["failed"] == 0
    )
    assert ferry("refit", "-", "--to", "html", stdin=b"<P>x").stdout == b"<p>x</p>\n"
    keyed = ferry("refit", "-", stdin=b"<p>a <a href='http://b.test/?api_key=k9Qw2Er7Ty1Ui5Op'>b</a>")
    assert b"k9Qw2Er7" not in keyed.stdout and "masked in what was written: 1" in said(keyed)
    done = ferry(
        "refit", tmp_path / "in", "--to", "markdown", "--out", tmp_path / "out", "--losses", tmp_path / "losses.json"
    )
    assert done.returncode == 0, said(done)
    assert (tmp_path / "out" / "sub" / "two.md").read_text("utf-8") == "two\n"
    losses = json.loads((tmp_path / "losses.json").read_text("utf-8"))
    assert (
        losses["one.html"]["words"] == [4, 4]
        and losses["one.html"]["links"] == [1, 1]
        and losses["sub/two.htm"]["missing"] == []
    )
    first = {p: p.read_bytes() for p in (tmp_path / "out").rglob("*.md")}
    ferry("refit", tmp_path / "in", "--out", tmp_path / "out")
    assert {p: p.read_bytes() for p in (tmp_path / "out").rglob("*.md")} == first
    beside = ferry("refit", tmp_path / "in", "--to", "html")
    assert (
        beside.returncode == 0
        and (tmp_path / "in" / "one.html").read_bytes() == page
        and (tmp_path / "in" / "one.clean.html").is_file()
    )


@pytest.mark.parametrize(
    ("words", "sentence"),
    [
        (["refit", "no-such-file"], "is not there"),
        (["refit", "-", "--to", "docx"], "not a form this converter writes"),
        (["refit", "-", "--region", "p["], "cannot be read"),
        (["refit", "-", "--base", "nowhere"], "is not an address"),
        (["survey", "--permission", "Owner", "ftp://a.test/"], "begins with “ftp:”"),
        (["survey", "--permission", "Owner", "http://no such/"], "holds a blank inside"),
        (["survey", "--permission", "Owner", "http://no-such-host.invalid/"], "gives no answer"),
        (["survey", "--permission", "Owner", "http://127.0.0.1:9/", "--out", "x.docx"], "does not write"),
        (["route", "write", "no.csv", "--server", "nginx", "--out", "x"], "cannot be read"),
        (["run", "/no/such/plan"], "neither a plan folder nor its zip"),
        (["run", "/tmp", "--until", "sail"], "is not a stage"),
        (["serve", "--host", "0.0.0.0"], "needs a password"),
    ],
)
def test_wrong_use_has_a_sentence_and_exit_code_2(words: list[str], sentence: str, tmp_path: Path) -> None:
    done = ferry(*words, home=tmp_path)
    assert (done.returncode, done.stdout) == (2, b"")
    assert sentence in said(done) and "Traceback" not in said(done)


def test_pages_that_cannot_be_read_are_said_and_the_rest_goes_on(tmp_path: Path) -> None:
    (tmp_path / "big.html").write_bytes(b"<p>" + b"x" * 33_000_000)
    (tmp_path / "deep.html").write_bytes(b"<div>" * 50_000)
    (tmp_path / "good.html").write_bytes(b"<p>good")
    done = ferry("refit", tmp_path, "--json")
    result = json.loads(done.stdout)
    assert done.returncode == 1 and result["failed"] == 2 and list(result["pages"]) == ["good.html"]
    assert "larger than the cap of 32 MB" in said(done) and "nests more than" in said(done)
    alone = ferry("refit", tmp_path / "deep.html")
    assert alone.returncode == 1 and alone.stdout == b"" and "nests more than" in said(alone)


def test_survey_as_json_csv_and_with_a_dead_link(tmp_path: Path) -> None:
    site: dict[str, Any] = {
        "/": "<title>=Home</title><a href=/a>A</a><a href=/dead>d</a><img src=/p.png>",
        "/a": "<title>A</title>",
        "/p.png": (200, {"Content-Type": "image/png"}, b"x"),
    }
    with apps(pages_app(site)) as (port,):
        done = ferry(
            "survey",
            "--permission",
            "Owner",
            f"http://127.0.0.1:{port}",
            "--delay",
            "0",
            "--out",
            tmp_path / "x.csv",
            "--json",
            "--data",
            tmp_path / "data",
        )
        assert done.returncode == 1, "a dead link is a failed thing"
        result = json.loads(done.stdout)
        assert {k: result[k] for k in ("addresses", "pages", "files", "failed", "shut_out")} == {
            "addresses": 4,
            "pages": 2,
            "files": 1,
            "failed": 1,
            "shut_out": {},
        }
        lines = (tmp_path / "x.csv").read_text("utf-8").splitlines()
        assert lines[0].startswith("address,status,type,target,title,depth,found_by,linked_from,words,bytes")
        assert any(",'=Home," in line for line in lines), "no cell is a formula"
        del site["/a"]
        site["/"] += "<a href=/b>b</a>"
        site["/b"] = "<title>B</title>"
        again = ferry(
            "survey",
            "--permission",
            "Owner",
            f"http://127.0.0.1:{port}/",
            "--delay",
            "0",
            "--out",
            tmp_path / "x.json",
            "--data",
            tmp_path / "data",
        )
    rows = {row["address"].partition(str(port))[2]: row for row in json.loads((tmp_path / "x.json").read_text("utf-8"))}
    assert (
        again.returncode == 1
        and "Since the survey before: 1 added, 1 changed, 1 gone." in said(again)
        and rows["/a"]["title"] == "A"
        and rows["/dead"]["status"] == 404
        and rows["/a"]["linked_from"].endswith("/")
    )


def test_the_new_side_is_surveyed_into_its_crossing(tmp_path: Path) -> None:
    pages: list[dict[str, Any]] = [
        {"/": f"<title>{name}</title><a href=/{name}>x</a>", f"/{name}": "y"} for name in ("old", "new")
    ]
    with apps(*(pages_app(site) for site in pages)) as ports:
        old, new = (f"http://127.0.0.1:{port}/" for port in ports)
        data = ("--data", tmp_path / "data", "--delay", "0", "--json")
        assert ferry("survey", "--permission", "Owner", old, *data).returncode == 0
        out = tmp_path / "new.csv"
        done = ferry("survey", "--permission", "Owner", new, "--side", "new", "--out", out, *data)
        assert (done.returncode, json.loads(done.stdout)["pages"]) == (0, 2), said(done)
        assert new + "new" in out.read_text("utf-8") and old not in out.read_text("utf-8")
        assert json.loads(ferry("survey", "--permission", "Owner", old, *data).stdout)["addresses"] == 2, (
            "nothing of the new site is in it"
        )
        for words, sentence in (
            (("survey", "--permission", "Owner", new, "--side", "new"), "Say with --data"),
            (("survey", "--permission", "Owner", new, "--side", "middle"), "not a side"),
            (("survey", "--permission", "Owner", new, "--crossing", "1"), "goes with --side new"),
            (
                ("survey", "--permission", "Owner", new, "--side", "new", "--data", tmp_path / "none"),
                "none is there yet",
            ),
        ):
            done = ferry(*words)
            assert done.returncode == 2 and sentence in said(done)


def test_survey_options(tmp_path: Path) -> None:
    site = {
        "/": "<a href=/a/1>1</a><a href=/b/1>2</a>",
        "/a/1": "<a href=/a/2>x</a>",
        "/a/2": "<p>2",
        "/b/1": "<p>1",
        "/moved": (301, {"Location": "/"}, b""),
    }
    with apps(pages_app(site)) as (port,):
        base = f"http://127.0.0.1:{port}/"
        assert json.loads(
            ferry("survey", "--permission", "Owner", base, "--delay", "0", "--exclude", "^/b", "--json").stdout
        )["shut_out"] == {"excluded by pattern": 1}
        assert (
            json.loads(ferry("survey", "--permission", "Owner", base, "--delay", "0", "--depth", "1", "--json").stdout)[
                "pages"
            ]
            == 3
        )
        capped = ferry(
            "survey", "--permission", "Owner", base, "--delay", "0", "--max-pages", "1", "--at-once", "1", "--json"
        )
        assert capped.returncode == 1 and "Stopped at the cap" in said(capped)
        assert "It redirects to" in said(ferry("survey", "--permission", "Owner", base + "moved", "--delay", "0"))
        bad = ferry("survey", "--permission", "Owner", base, "--include", "a(b")
        assert bad.returncode == 2 and "cannot be read" in said(bad)
        loop = pages_app({"/": (302, {"Location": "/x"}, b""), "/x": (302, {"Location": "/"}, b"")})
        with apps(loop) as (second,):
            assert "redirects in a circle" in said(
                ferry("survey", "--permission", "Owner", f"http://127.0.0.1:{second}/")
            )


def test_an_unwritable_data_folder(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("in the way")
    with apps(pages_app({"/": ""})) as (port,):
        done = ferry("survey", "--permission", "Owner", f"http://127.0.0.1:{port}/", "--data", tmp_path / "file")
    assert done.returncode == 2 and "cannot be written" in said(done)


PAIRS = "old,new,status,match\nhttp://old.test/a.htm,/a,301,exact\n/gone,,410,exact\n/sec,/new,301,prefix\n/b/(\\d+),/c/{1},301,pattern\n"


def test_route_write_and_check(tmp_path: Path) -> None:
    pairs = tmp_path / "pairs.csv"
    pairs.write_text(PAIRS, "utf-8")
    for server, name in (("nginx", "redirects.http.conf"), ("csv", "redirects.csv")):
        done = ferry("route", "write", pairs, "--server", server, "--out", tmp_path / server)
        assert done.returncode == 0 and (tmp_path / server / name).is_file(), said(done)
    assert "old.test" not in (tmp_path / "nginx" / "redirects.http.conf").read_text("utf-8")
    done = ferry("route", "write", pairs, "--server", "redirects-file", "--out", tmp_path / "static", "--json")
    told = json.loads(done.stdout)
    assert done.returncode == 1 and told["lines"] == 2, "a pattern and a 410 are beyond it"
    assert {one["old"] for one in told["left_out"]} == {"/gone", "/b/(\\d+)"} and "is left out" in said(done)
    head = (tmp_path / "static" / "_redirects").read_text("utf-8").split("\n")
    assert "pairs.csv" in head[0] and str(datetime.now(UTC).year) in head[1] and "/sec/* /new/:splat 301" in head
    staying = tmp_path / "staying.csv"
    staying.write_text("old,new\n/,/\n/a,/b\n", "utf-8")
    written = json.loads(
        ferry("route", "write", staying, "--server", "nginx", "--out", tmp_path / "s", "--json").stdout
    )
    assert (written["lines"], written["stays"]) == (1, 1) and '"/" "/"' not in (
        tmp_path / "s" / "redirects.http.conf"
    ).read_text("utf-8")
    again = (tmp_path / "csv" / "redirects.csv").read_bytes()
    ferry("route", "write", tmp_path / "csv" / "redirects.csv", "--server", "csv", "--out", tmp_path / "csv2")
    assert (tmp_path / "csv2" / "redirects.csv").read_bytes() == again, (
        "written, read and written again: the same bytes"
    )
    site = {
        "/": "home",
        "/a": "<h1>A",
        "/a.htm": (301, {"Location": "/a"}, b""),
        "/gone": (410, {}, b""),
        "/sec": (302, {"Location": "/new"}, b""),
        "/new": "<h1>N",
    }
    with apps(pages_app(site)) as (port,):
        done = ferry("route", "check", pairs, "--against", f"http://127.0.0.1:{port}", "--json")
    result = json.loads(done.stdout)
    assert done.returncode == 1 and result["counts"] == {"as planned": 1, "gone": 1, "temporary": 1, "not asked": 1}
    row = result["rows"][0]
    assert (
        set(row) >= {"old", "expected", "status", "hops", "final", "verdict"}
        and row["hops"][0][0] == 301
        and row["old"] == "/a.htm"
    )
    assert "temporary" in said(done)


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("old,new\n/a,b\n", "line 2"),
        ("old,new,colour\n/a,/b,red\n", "not a column"),
        ("from,to\n/a,/b\n", "must name the columns"),
        ("old,new,status,match\n/a,/b,200,exact\n", "line 2"),
        ("old,new,status,match\n(,/b,301,pattern\n", "cannot be read"),
        ("old,new,status,match\n/a,/b,x,exact\n", "is not a status"),
        ("old,new,status,match\n/a,/b,301,exact\n/b,/a,301,exact\n", "in a circle"),
    ],
)
def test_bad_pairs(tmp_path: Path, text: str, sentence: str) -> None:
    (tmp_path / "pairs.csv").write_text(text, "utf-8")
    done = ferry("route", "write", tmp_path / "pairs.csv", "--server", "nginx", "--out", tmp_path / "out")
    assert done.returncode == 2 and sentence in said(done) and not (tmp_path / "out").exists()


PLAN = "format: 1\nname: T\nold:\n  start: http://a.test/\n"
LEAVE = "  permission: {by: Owner, date: today}\n"


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        (PLAN + "speed: fast\n", "plan.yaml, line 5: “speed” is not a key a plan knows"),
        (PLAN + "  colour: red\n", "plan.yaml, line 5: “old.colour” is not a key"),
        (PLAN + "kinds:\n  - name: k\n    rules:\n      - element: 'p['\n", "line 8"),
        (PLAN + "kinds:\n  - name: k\n    rules: [{address: '(x'}]\n", "line 7"),
        (PLAN.replace("format: 1", "format: 2"), "line 1"),
        (PLAN + "a: [1\n", "not readable as YAML"),
        ("format: 1\nname: T\n", "“old” is missing"),
        (PLAN.replace("http://a.test/", "ftp://a.test/"), "line 4"),
    ],
)
def test_a_bad_plan_names_line_and_reason(tmp_path: Path, text: str, sentence: str) -> None:
    (tmp_path / "plan").mkdir()
    (tmp_path / "plan" / "plan.yaml").write_text(text, "utf-8")
    done = ferry("run", tmp_path / "plan", "--data", tmp_path / "data")
    assert done.returncode == 2 and sentence in said(done), said(done)


@pytest.mark.slow
def test_the_demo_from_end_to_end_twice(tmp_path: Path) -> None:
    first = ferry("demo", "--headless", "--data", tmp_path / "demo", "--json")
    assert first.returncode == 0, said(first)
    result = json.loads(first.stdout)
    assert result["fates"]["unaccounted"] == 0 and all(c["planned"] == 0 for c in result["account"].values())
    assert {f: n for f, n in result["fates"].items() if n} == result["truth"]
    second = ferry("demo", "--headless", "--data", tmp_path / "demo", "--json")
    again = json.loads(second.stdout)
    assert second.returncode == 0 and again["account"] == result["account"]
    assert (again["stages"]["land"]["created"], again["stages"]["land"]["changed"]) == (0, 0)


def test_run_until_a_stage(tmp_path: Path) -> None:
    with apps(pages_app({"/": "<title>T</title><h1>T</h1>"})) as (port,):
        (tmp_path / "plan").mkdir()
        text = PLAN.replace("http://a.test/", f"http://127.0.0.1:{port}/") + LEAVE + "manners: {delay: 0}\n"
        (tmp_path / "plan" / "plan.yaml").write_text(text, "utf-8")
        done = ferry("run", tmp_path / "plan", "--data", tmp_path / "data", "--until", "survey", "--json")
        assert done.returncode == 0 and json.loads(done.stdout)["stages"]["survey"]["pages"] == 1
        routed = ferry("run", tmp_path / "plan", "--data", tmp_path / "data", "--until", "route")
        assert routed.returncode == 1 and "nobody has decided" in said(routed)


def test_a_log_outside_the_folder_of_a_plan_is_not_read(tmp_path: Path) -> None:
    (tmp_path / "secret.log").write_text("what nobody should see", "utf-8")
    (tmp_path / "plan").mkdir()
    (tmp_path / "plan" / "link.log").symlink_to(tmp_path / "secret.log")
    for name in ("../secret.log", str(tmp_path / "secret.log"), "link.log"):
        (tmp_path / "plan" / "plan.yaml").write_text(PLAN + LEAVE + f"survey: {{logs: ['{name}']}}\n", "utf-8")
        done = ferry("run", tmp_path / "plan", "--data", tmp_path / "data")
        assert done.returncode == 2 and "lies outside the plan's folder" in said(done)


def test_a_dead_target_and_a_dead_interim_host(tmp_path: Path) -> None:
    """The stage fails with its sentence and exit code 1; the same command goes on once the host is there."""
    dead = free_port()
    with apps(pages_app({"/": "<title>T</title><h1>T</h1>"})) as (port,):
        (tmp_path / "plan").mkdir()
        text = (
            PLAN.replace("http://a.test/", f"http://127.0.0.1:{port}/")
            + LEAVE
            + f"manners: {{delay: 0}}\nland: {{base: 'http://127.0.0.1:{dead}'}}\n"
        )
        (tmp_path / "plan" / "plan.yaml").write_text(text, "utf-8")
        done = ferry("run", tmp_path / "plan", "--data", tmp_path / "data")
        assert done.returncode == 1 and "gives no usable answer" in said(done) and "Traceback" not in said(done)
        text = text.partition("land:")[0] + f"interim: http://127.0.0.1:{dead}\n"
        (tmp_path / "plan" / "plan.yaml").write_text(text, "utf-8")
        done = ferry("run", tmp_path / "plan", "--data", tmp_path / "data")
        assert done.returncode == 1 and "gives no answer" in said(done)
        with apps(pages_app({"/": "<h1>T</h1>"}), ports=[dead]):
            (tmp_path / "plan" / "pairs.csv").write_text("old,new\n/,/\n", "utf-8")
            assert ferry("run", tmp_path / "plan", "--data", tmp_path / "data").returncode == 0


def test_nothing_is_asked_of_a_site_before_its_leave_is_named(tmp_path: Path) -> None:
    seen: list[str] = []
    with apps(pages_app({"/": "<title>T</title>"}, seen)) as (port,):
        base, data = f"http://127.0.0.1:{port}/", ("--data", tmp_path / "data", "--delay", "0")
        for given in ((), ("--permission", ""), ("--permission", "  ")):
            done = ferry("survey", base, *data, *given)
            assert done.returncode == 2 and "leave to copy this site" in said(done) and "--permission" in said(done)
        (tmp_path / "plan").mkdir()
        plan = PLAN.replace("http://a.test/", base) + "manners: {delay: 0}\n"
        (tmp_path / "plan" / "plan.yaml").write_text(plan, "utf-8")
        done = ferry("run", tmp_path / "plan", *data[:2])
        assert done.returncode == 2 and "leave to copy this site" in said(done)
        (tmp_path / "plan" / "plan.yaml").write_text(
            plan.replace("manners", "  permission: {by: ' ', date: today}\nmanners"), "utf-8"
        )
        done = ferry("run", tmp_path / "plan", *data[:2])
        assert done.returncode == 2 and "who gave it" in said(done) and "plan.yaml, line" in said(done)
        assert seen == []
        assert ferry("survey", base, *data, "--permission", "Una Field, owner").returncode == 0
        assert ferry("survey", base, *data).returncode == 0, "it is named in the crossing by now"
        out = tmp_path / "out.xlsx"
        assert ferry("survey", base, *data, "--out", out).returncode == 0
    book = openpyxl.load_workbook(out)
    told = {row[0]: row[1] for sheet in book for row in sheet.iter_rows(values_only=True) if len(row) > 1}
    assert told["leave to copy it given by"].startswith("Una Field, owner, 20") and ", 20" in told["entered by"]


def test_a_workspace_is_its_owners_alone(tmp_path: Path) -> None:
    with apps(pages_app({"/": "<title>T</title>"})) as (port,):
        data = tmp_path / "deep" / "data"
        given = ("--permission", "Owner", "--delay", "0", "--data", data)
        assert ferry("survey", f"http://127.0.0.1:{port}/", *given).returncode == 0
    assert data.stat().st_mode & 0o077 == 0
    assert all(file.stat().st_mode & 0o077 == 0 for file in data.glob("*.sqlite")) and list(data.glob("*.sqlite"))


def test_the_last_port_and_the_other_loopback(tmp_path: Path) -> None:
    done = ferry("serve", "--data", tmp_path / "data", "--port", "65535")
    assert done.returncode == 2 and "none for previews" in said(done) and "Traceback" not in said(done)
    port = free_pair()
    command = [
        sys.executable,
        "-m",
        "grandferry",
        "serve",
        "--data",
        tmp_path / "d",
        "--host",
        "::1",
        "--port",
        str(port),
    ]
    process = subprocess.Popen(command, stderr=subprocess.PIPE)
    try:
        for _ in range(100):
            with contextlib.suppress(httpx.TransportError):
                assert httpx.get(f"http://[::1]:{port}/api/crossings").json() == []
                break
            time.sleep(0.1)
        else:
            raise AssertionError("nothing answers at ::1")
    finally:
        process.terminate()
        process.wait(10)


def test_served_to_other_machines_it_asks_for_the_password_that_was_set(tmp_path: Path) -> None:
    short = ferry("password", "--data", tmp_path / "d", stdin=b"short\n")
    assert short.returncode == 2 and "12 to 500 characters" in said(short)
    assert ferry("password", "--data", tmp_path / "d", stdin=b"seven boats in a row\n").returncode == 0
    port = free_pair()
    command = [sys.executable, "-m", "grandferry", "serve", "--data", tmp_path / "d", "--host", "0.0.0.0"]
    process = subprocess.Popen([*command, "--port", str(port)], stderr=subprocess.PIPE)
    try:
        wait_for(port, process=process)
        with httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=60) as one:
            assert one.get("/api/crossings").status_code == 401
            assert one.post("/sign-in", data={"password": "seven boats in a row"}).status_code == 303
            assert one.get("/api/crossings").json() == []
    finally:
        process.terminate()
        _, told = process.communicate(timeout=60)
    assert b"Nothing is encrypted on the way" in told


def test_a_start_host_that_is_gone(tmp_path: Path) -> None:
    done = ferry("survey", "--permission", "Owner", f"http://127.0.0.1:{free_port()}/")
    assert done.returncode == 2 and "gives no answer" in said(done) and "Traceback" not in said(done)


def test_a_draft_and_its_items(tmp_path: Path) -> None:
    pages: dict[str, Any] = {f"/p{n}.html": f"<main><h1>Page {n}</h1><p>Text of {n}.</p></main>" for n in range(5)}
    pages["/"] = "<main><h1>Start</h1>" + "".join(f"<a href={key}>{key}</a> " for key in pages) + "</main>"
    home = tmp_path / "home"
    with apps(pages_app(pages)) as (port,):
        url, out = f"http://127.0.0.1:{port}/", tmp_path / "out"
        done = ferry("draft", url, "--out", out, "--delay", "0", "--permission", "t", "--json", home=home)
        assert done.returncode == 0, said(done)
        account = json.loads(done.stdout)
        assert account == json.loads((out / "account.json").read_text())
        assert {"addresses", "kinds", "words", "files", "open"} <= account.keys()
        assert account["addresses"]["moved"] == 5 and account["words"]["unaccounted"] == 0
        assert sum(kind["items"] for kind in account["kinds"]) == 6
        assert (out / "content" / "p3.md").read_text().endswith("---\n\nText of 3.\n")
        again = ferry("draft", url, "--out", out, "--delay", "0", "--permission", "t", "--data", home / "w", home=home)
        assert again.returncode == 0 and "Proposed: " in said(again)
        done = ferry("items", "--data", home / "w", "--out", tmp_path / "items.csv")
        assert done.returncode == 0 and "6 items written" in said(done)
        assert (tmp_path / "items.csv").read_text("utf-8-sig").startswith("old,new,kind,")
        at = ("--data", home / "w")
        done = ferry("land", *at, "--target", "html", "--out", tmp_path / "html", "--json", home=home)
        assert done.returncode == 0 and json.loads(done.stdout)["item"] == {"created": 6}, said(done)
        mine = tmp_path / "mine.yaml"
        mine.write_bytes(ferry("profile", "pelican").stdout.replace(b"content/{path}.md", b"texts/{path}.md"))
        done = ferry("land", *at, "--target", "markdown", "--profile", mine, "--out", tmp_path / "md", home=home)
        assert done.returncode == 0 and (tmp_path / "md" / "content" / "pages" / "p3.md").is_file(), said(done)
        done = ferry("land", *at, "--target", "html", "--out", tmp_path / "html", "--take-back", home=home)
        assert done.returncode == 0 and not (tmp_path / "html" / "pages").exists(), said(done)
        mine.write_text("name: x\nfile: ../{path}")
        for words, sentence in (
            (("--target", "heap"), "no target “heap”"),
            ((), "names no target to land at"),
            (("--target", "jsonapi"), "the address (base) of the new system is missing"),
            (("--target", "jsonapi", "--base", url, "--out", out), "jsonapi is no folder"),
            (("--target", "json", "--base", url), "json is a folder"),
            (("--target", "json", "--profile", "pelican"), "for Markdown alone"),
            (("--target", "markdown", "--profile", "none"), "cannot be read"),
            (("--target", "markdown", "--profile", mine), "does not stay within the folder"),
        ):
            done = ferry("land", *at, *words, home=home)
            assert done.returncode == 2 and sentence in said(done) and "Traceback" not in said(done), said(done)
        for words, sentence in (
            (("--out", out, "--to", "blog-export"), "does not write a draft as “blog-export”"),
            (("--out", tmp_path), "holds other things"),
        ):
            done = ferry("draft", url, *words, "--delay", "0", "--permission", "t", home=home)
            assert done.returncode == 2 and sentence in said(done), said(done)
        assert ferry("items", "--data", home / "w", "--out", tmp_path / "x.doc").returncode == 2


def test_pairs_are_suggested_from_two_lists(tmp_path: Path) -> None:
    old, new = tmp_path / "old.csv", tmp_path / "new.txt"
    rows = [
        f"http://old.test/blog/2019/0{n}/{name}.html,{name.replace('-', ' ')} | Sheds"
        for n, name in enumerate(NAMES, 1)
    ]
    old.write_text(
        "address,title\n" + "\n".join([*rows, "/gone.html,Gone | Sheds", "nonsense,x", rows[0]]) + "\n", "utf-8"
    )
    new.write_text("\n".join([*(f"/articles/{name}" for name in NAMES), "/privacy"]) + "\n", "utf-8")
    run = CliRunner().invoke(make_app("route"), ["route", "suggest", "--old", str(old), "--new", str(new), "--json"])
    told = json.loads(run.stdout)
    assert run.exit_code == 1, "one old address has no counterpart"
    pairs = {pair["old"]: pair for pair in told["pairs"]}
    assert len(pairs) == 6 and not pairs["/gone.html"]["accepted"]
    assert pairs["/blog/2019/01/the-red-lamp.html"]["new"] == "/articles/the-red-lamp"
    assert all(pair["accepted"] and pair["reasons"] for key, pair in pairs.items() if key != "/gone.html")
    (rule,) = told["rules"]
    assert (rule["new"], rule["settles"], rule["disagrees"], rule["wrongly_catches"]) == ("/articles/{1}", 5, 0, 0)
    assert told["only_new"] == ["/privacy"]
    assert told["read"]["old"] == {"addresses": 6, "again": 1, "odd": [[8, "nonsense"]]}
    for text in ("", "\n\n", "nothing like it\n"):
        new.write_text(text, "utf-8")
        run = CliRunner().invoke(make_app("route"), ["route", "suggest", "--old", str(old), "--new", str(new)])
        assert run.exit_code == 2 and "Traceback" not in run.output
    run = CliRunner().invoke(
        make_app("route"), ["route", "suggest", "--old", str(tmp_path / "none"), "--new", str(new)]
    )
    assert run.exit_code == 2 and "cannot be read" in run.output


NAMES = ("the-red-lamp", "a-quiet-tunnel", "who-built-the-shed", "old-signals", "winter-coal")
