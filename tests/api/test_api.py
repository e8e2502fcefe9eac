"""The API: windows, problem details, guards, the event stream, a complete description."""

from __future__ import annotations

import json
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest

from grandferry.store import jobs
from grandferry.store.db import records
from grandferry.work.jobs.worker import work_on
from tests.servers import apps, pages_app, served_api


@pytest.fixture
def client(workspace: Path) -> Iterator[httpx.Client]:
    """The application as it is served: uvicorn on a port."""
    with served_api() as base, httpx.Client(base_url=base, timeout=20) as made:
        yield made


SITE: dict[str, Any] = {
    "/": "<title>Home</title><a href=/a>a</a><a href=/b>b</a><a href=http://else.test/>e</a>",
    "/a": "<title>Alpha</title><h1>A</h1><a href=/>h</a>",
    "/b": (301, {"Location": "/a"}, b""),
}


def done(number: int) -> None:
    claimed = jobs.claim()
    assert claimed is not None and claimed.id == number
    work_on(claimed)


def test_a_crossing_from_its_start_to_its_account(client: httpx.Client) -> None:
    with apps(pages_app(SITE)) as (port,):
        start = client.post("/api/start", json={"address": f" 127.0.0.1:{port}"}).json()
        assert start["title"] == "Home" and "http:// added" in start["repaired"]
        made = client.post("/api/crossings", json={"name": "One", "start": start["address"]})
        assert made.status_code == 201 and made.json()["addresses"] == 0
        number = made.json()["id"]
        document = client.get(f"/api/crossings/{number}/plan").json()
        document["plan"]["manners"]["delay"] = 0
        early = client.post("/api/jobs", json={"crossing": number, "kind": "survey"})
        assert early.status_code == 400 and "leave to copy" in early.json()["detail"]
        document["plan"]["old"]["permission"] = {"by": "Bea Quill", "date": "1 May 2026"}
        document["plan"]["kinds"] = [
            {
                "name": "k",
                "rules": [{"element": "h1"}],
                "fields": [{"name": "title", "type": "line", "locators": [{"css": "h1"}]}],
                "address": "/new/{slug}",
            }
        ]
        assert client.put(f"/api/crossings/{number}/plan", json=document).status_code == 200
        pair = {"old": "/", "new": "/", "status": 301, "match": "exact"}
        assert client.post(f"/api/crossings/{number}/pairs", json={"set": [pair]}).status_code == 200
        job = client.post("/api/jobs", json={"crossing": number, "kind": "survey"})
        assert job.status_code == 202 and job.json()["state"] == "queued"
        done(job.json()["id"])
    for kind in ("sort", "lift", "refit", "route"):
        done(client.post("/api/jobs", json={"crossing": number, "kind": kind}).json()["id"])
    assert client.get(f"/api/jobs/{job.json()['id']}").json()["result"]["pages"] == 2
    window = client.get(f"/api/crossings/{number}/addresses", params={"limit": 2, "order": "-key"}).json()
    assert window["total"] == 3 and [row["key"] for row in window["rows"]] == ["/b", "/a"]
    assert client.get(f"/api/crossings/{number}/addresses", params={"search": "alph"}).json()["total"] == 1
    detail = client.get(f"/api/crossings/{number}/addresses/{window['rows'][1]['id']}").json()
    assert (
        detail["facts"]["headings"] == ["A"]
        and detail["links_in"][0]["url"].endswith("/")
        and detail["captures"][0]["status"] == 200
    )
    account = {
        row["fate"]: (row["planned"], row["proven"]) for row in client.get(f"/api/crossings/{number}/account").json()
    }
    assert account == {
        "stays": (1, 0),
        "moved": (1, 0),
        "merged": (1, 0),
        "retired": (0, 0),
        "set aside": (0, 0),
        "unaccounted": (0, 0),
    }
    assert sum(row["count"] for row in client.get(f"/api/crossings/{number}/folders").json()) == 3
    assert client.get(f"/api/crossings/{number}/kept-out").json() == [
        {
            "host": "else.test",
            "reason": "other host",
            "says": "on another host",
            "ways": ["pages", "alias"],
            "one_by_one": True,
            "count": 1,
            "files": 0,
        }
    ]
    assert client.get(f"/api/crossings/{number}/kinds").json()["kinds"] == [
        {"name": "k", "label": "k", "pages": 1, "of": "k", "makes_items": True}
    ]
    (item,) = client.get(f"/api/crossings/{number}/items").json()["rows"]
    assert (
        item["new_path"] == "/new/a"
        and client.get(f"/api/crossings/{number}/items/{item['id']}").json()["fields"][0]["lifted"] == "A"
    )
    assert client.get(f"/api/crossings/{number}/coverage").json() == {"k": {"title": {"filled": 1}}}
    assert '"/a" "/new/a";' in client.get(f"/api/crossings/{number}/redirects/nginx").text
    for place in ("refit", "rounds", "landings", "soundings"):
        assert client.get(f"/api/crossings/{number}/{place}").status_code == 200
    assert client.get("/api/crossings").json()[0]["addresses"] == 3


@pytest.mark.parametrize(
    ("place", "kind", "sentence"),
    [
        ("127.0.0.1:1", "unreachable", "gives no answer"),
        ("127.0.0.1:{port}/guarded", "wants a login", "asks for a name and a password"),
        ("127.0.0.1:{port}/none", "not there", "answers 404"),
    ],
)
def test_a_crossing_can_be_made_of_a_site_that_does_not_answer(
    client: httpx.Client, place: str, kind: str, sentence: str
) -> None:
    """Of one that is switched off there may be an archive; one that is guarded needs its crossing before its key."""
    guarded = {"/guarded": (401, {"WWW-Authenticate": 'Basic realm="staging"'}, b"")}
    with apps(pages_app(guarded)) as (port,):
        start = client.post("/api/start", json={"address": place.format(port=port)}).json()
    assert start["kind"] == kind and sentence in start["fault"] and start["repaired"] == "http:// added"
    made = client.post("/api/crossings", json={"name": kind, "start": start["address"]})
    assert made.status_code == 201 and start["address"].startswith("http://127.0.0.1:")


@pytest.mark.parametrize(
    ("method", "path", "body", "status", "sentence"),
    [
        ("GET", "/api/crossings/99", None, 404, "There is no crossing 99."),
        ("GET", "/api/jobs/99", None, 404, "There is no job 99."),
        ("GET", "/api/nothing", None, 404, "no such address in the API"),
        ("POST", "/api/crossings", {"name": "x", "start": "ht tp"}, 422, "holds a blank"),
        ("POST", "/api/crossings", {"name": ""}, 422, "name"),
        ("POST", "/api/start", {"address": "ftp://old.test/"}, 422, "Only http and https"),
        ("POST", "/api/jobs", {"crossing": 99, "kind": "survey"}, 404, "no crossing 99"),
        ("POST", "/api/jobs", {"crossing": 1, "kind": "sail"}, 422, "kind"),
    ],
)
def test_errors_are_problem_details(
    client: httpx.Client, method: str, path: str, body: Any, status: int, sentence: str
) -> None:
    answer = client.request(method, path, json=body)
    problem = answer.json()
    assert (answer.status_code, problem["status"]) == (status, status) and sentence in problem["detail"]
    assert answer.headers["content-type"] == "application/problem+json"


def test_the_same_name_twice_is_refused(client: httpx.Client) -> None:
    body = {"name": "Twice", "start": "http://a.test/"}
    assert client.post("/api/crossings", json=body).status_code == 201
    answer = client.post("/api/crossings", json=body)
    assert answer.status_code == 400 and "Choose another name" in answer.json()["detail"]
    assert client.get("/api/crossings/1/addresses", params={"order": "passwords"}).status_code == 400
    assert client.get("/api/crossings/1/redirects/stone").status_code == 400


def test_foreign_hosts_and_origins_are_refused(client: httpx.Client) -> None:
    assert client.get("/api/crossings", headers={"Host": "evil.test"}).status_code == 403
    body = {"name": "x", "start": "http://a.test/"}
    assert client.post("/api/crossings", json=body, headers={"Origin": "http://evil.test"}).status_code == 403
    assert client.post("/api/crossings", json=body, headers={"Sec-Fetch-Site": "cross-site"}).status_code == 403
    assert client.get("/api/crossings").json() == []
    own = str(client.base_url).rstrip("/")
    host, _, port = own.rpartition(":")
    for origin in (f"{host}:{int(port) + 1}", host, f"https://127.0.0.1:{port}", f"http://localhost:{port}", "null"):
        answer = client.post("/api/crossings", json=body, headers={"Origin": origin})
        assert answer.status_code == 403, f"{origin} is another origin than {own}"
    for site in ("cross-site", "same-site"):
        answer = client.get("/api/crossings", headers={"Sec-Fetch-Site": site})
        assert answer.status_code == 403, "another page starts no export, nor anything else that is work"
        assert client.get("/", headers={"Sec-Fetch-Site": site}).status_code == 200, "a link to the application is one"
    assert client.get("/api/crossings", headers={"Sec-Fetch-Site": "same-origin", "Origin": own}).json() == []
    bad = {"name": "x", "start": "htp:/x"}
    assert client.post("/api/crossings", json=bad, headers={"Origin": own}).status_code in (400, 422)
    headers = client.get("/").headers
    assert "default-src 'none'" in headers["content-security-policy"] and headers["x-content-type-options"] == "nosniff"


def test_stopping_a_job(client: httpx.Client, cross: Callable[..., int]) -> None:
    crossing = cross({"old": {"start": "http://127.0.0.1:9/"}})
    job = client.post("/api/jobs", json={"crossing": crossing, "kind": "sort"}).json()
    assert client.post(f"/api/jobs/{job['id']}/stop").json()["state"] == "stopped"
    again = client.post(f"/api/jobs/{job['id']}/stop")
    assert again.status_code == 400 and "is stopped already" in again.json()["detail"]


def test_a_second_click_queues_no_second_job(client: httpx.Client, cross: Callable[..., int]) -> None:
    crossing = cross({"old": {"start": "http://127.0.0.1:9/"}})
    asked = {"crossing": crossing, "kind": "sort"}
    first, second = (client.post("/api/jobs", json=asked).json()["id"] for _ in range(2))
    assert first == second
    assert client.post("/api/jobs", json={**asked, "kind": "lift"}).json()["id"] != first
    done(first)
    assert client.post("/api/jobs", json=asked).json()["id"] != first


def test_the_event_stream_goes_on_where_it_ended(client: httpx.Client, cross: Callable[..., int]) -> None:
    crossing = cross({"old": {"start": "http://127.0.0.1:9/"}})
    numbers = [jobs.add_job("sort", crossing) for _ in range(2)]

    def read(count: int, **headers: str) -> list[tuple[int, dict[str, Any]]]:
        found: list[tuple[int, dict[str, Any]]] = []
        with client.stream("GET", "/api/events", params={"after": 0} if not headers else {}, headers=headers) as answer:
            assert answer.headers["content-type"].startswith("text/event-stream")
            last, kind = 0, ""
            for line in answer.iter_lines():
                if line.startswith("id: "):
                    last = int(line[4:])
                elif line.startswith("event: "):
                    kind = line[7:]
                elif line.startswith("data: ") and kind not in ("hello", "ping"):
                    found.append((last, json.loads(line[6:])))
                    if len(found) == count:
                        return found
        return found

    first = read(2)
    assert [data["job"] for _, data in first] == numbers

    def later() -> None:
        time.sleep(0.3)
        with jobs.transaction():
            jobs.add_event(crossing, numbers[0], "log", "hello")

    thread = threading.Thread(target=later)
    thread.start()
    ((_, data),) = read(1, **{"Last-Event-ID": str(first[-1][0])})
    thread.join()
    assert data["text"] == "hello"


def test_the_description_is_complete(client: httpx.Client) -> None:
    document = client.get("/api/openapi.json").json()
    for path, methods in document["paths"].items():
        for method, operation in methods.items():
            good = [code for code in operation["responses"] if code.startswith("2")]
            assert good, (path, method)
            content = operation["responses"][good[0]].get("content", {})
            assert any("schema" in media or kind == "text/event-stream" for kind, media in content.items()), (
                path,
                method,
            )
            assert "404" in operation["responses"] and "422" in operation["responses"]


def test_access_is_given_masked_and_never_given_out(client: httpx.Client) -> None:
    made = client.post("/api/crossings", json={"name": "Guarded", "start": "http://old.test/"}).json()
    path = f"/api/crossings/{made['id']}/access"
    given = {"host": "https://Old.test/", "kind": "basic", "name": "mara", "value": "unspoken-word"}
    told = client.post(path, json=given)
    assert told.json() == [{"host": "old.test", "kind": "basic", "name": "mara", "shown": "•" * 12}]
    assert "unspoken-word" not in client.get(path).text + client.get(f"/api/crossings/{made['id']}/plan").text
    bad = client.post(path, json={**given, "value": "unspoken\nword"})
    assert bad.status_code == 422 and "one line" in bad.text and "unspoken" not in bad.text
    assert client.post(path, json={**given, "host": "old.test/staff"}).status_code == 400
    query = {"host": "old.test", "kind": "basic", "name": "mara"}
    assert client.delete(path, params=query).json() == [] and client.delete(path, params=query).status_code == 404


def test_an_address_asked_in_another_way_says_in_which(client: httpx.Client) -> None:
    for method, path, ways in (
        ("GET", "/api/start", "POST"),
        ("GET", "/api/crossings/many", "POST"),
        ("OPTIONS", "/api/crossings", "GET, POST"),
        ("PATCH", "/api/crossings/7/access", "DELETE, GET, POST"),
        ("POST", "/api/jobs/7", "GET"),
    ):
        answer = client.request(method, path)
        assert (answer.status_code, answer.headers.get("allow")) == (405, ways), (method, path)
        assert answer.headers["content-type"] == "application/problem+json" and ways.split(", ")[0] in answer.text
    for method in ("GET", "POST", "DELETE"):
        assert client.request(method, "/api/crossings/x/undo").status_code == 404
    assert client.get("/crossings").headers["content-type"].startswith("text/")


def test_numbers_and_texts_that_cannot_be_kept_are_wrong_values(client: httpx.Client) -> None:
    number = client.post("/api/crossings", json={"name": "One", "start": "http://o.test/"}).json()["id"]
    far = 10**30
    for path in (
        f"/api/crossings/{far}",
        f"/api/crossings/{number}/addresses/{far}",
        f"/api/crossings/{number}/bodies/position?item={far}",
        f"/api/crossings/{number}/log?before=-{far}",
        f"/api/jobs?crossing=-{far}",
    ):
        answer = client.get(path)
        assert answer.status_code == 422 and "64 bits" in answer.json()["detail"], path
    for body in (
        b'{"name": "a\\ud800", "start": "http://o.test/"}',
        b'{"name": "' + b"n" * 9000 + b'", "start": "o.test"}',
    ):
        answer = client.post("/api/crossings", content=body, headers={"Content-Type": "application/json"})
        assert answer.status_code == 422 and answer.json()["detail"]
    nul = client.get(f"/api/crossings/{number}/addresses", params={"search": "a\0b"})
    assert nul.status_code == 200 and nul.json()["total"] == 0


def test_a_fault_of_the_disk_is_a_sentence(client: httpx.Client) -> None:
    number = client.post("/api/crossings", json={"name": "One", "start": "http://o.test/"}).json()["id"]
    document = client.get(f"/api/crossings/{number}/plan").json()
    small = records.pragma("page_count")
    records.pragma("max_page_count", small, permanent=True)  # of every connection from now on
    for n in range(400):
        document["plan"]["manners"]["agent"] = f"{n} {'x' * 150}"
        answer = client.put(f"/api/crossings/{number}/plan", json=document)
        if answer.status_code != 200:
            break
        document["revision"] = answer.json()["revision"]
    assert answer.status_code == 503 and "The disk is full" in answer.json()["detail"]
    assert client.get(f"/api/crossings/{number}/plan").json()["revision"] == document["revision"]


def test_a_job_on_a_full_disk_says_so(client: httpx.Client, monkeypatch: pytest.MonkeyPatch) -> None:
    crossing = client.post("/api/crossings", json={"name": "One", "start": "http://o.test/"}).json()["id"]

    def full(_: object) -> None:
        with records.atomic():
            records.execute_sql("INSERT INTO gone VALUES (zeroblob(900000000))")

    records.execute_sql("CREATE TABLE gone (x)")
    records.pragma("max_page_count", records.pragma("page_count") + 5)
    monkeypatch.setattr("grandferry.work.jobs.worker.runner", lambda _: full)
    number = jobs.add_job("survey", crossing)
    done(number)
    told = jobs.job(number)
    assert told.state == "failed" and told.error.startswith("The disk is full")
