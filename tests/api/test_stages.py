"""Each stage's part of the API on the demo, crossed from end to end: what it gives, and its sentences on bad input."""

from __future__ import annotations

import asyncio
import gzip
import io
import json
import time
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest
from fastapi import FastAPI

from grandferry.api import web
from tests.demo import Demo, running_demo
from tests.servers import served_api


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Demo]:
    with running_demo(tmp_path_factory.mktemp("stages")) as made:
        yield made


@pytest.fixture(scope="module")
def api(demo: Demo) -> Iterator[httpx.Client]:
    with served_api() as base, httpx.Client(base_url=f"{base}/api/crossings/{demo.crossing}", timeout=30) as made:
        yield made


def get(api: httpx.Client, path: str, **query: Any) -> Any:
    answer = api.get(path, params=query)
    assert answer.status_code == 200, answer.text
    return answer.json()


def test_kinds_and_their_pages(api: httpx.Client, demo: Demo) -> None:
    kinds = get(api, "/kinds")
    assert {k["name"]: k["pages"] for k in kinds["kinds"]} == demo.results["sort"]["kinds"]
    unsorted = get(api, "/addresses", family="page", fits="no kind", answer="2xx")
    assert kinds["pages"] == kinds["sorted"] + unsorted["total"] == 86
    assert [row["kind"] for row in unsorted["rows"]] == [""]
    double = get(api, "/addresses", fits="more than one kind", order="also")
    assert double["total"] == kinds["double"] == demo.results["sort"]["double"]
    assert all(row["kind"] and row["also"] and row["kind"] not in row["also"].split(", ") for row in double["rows"])
    window = get(api, "/kinds/engine/pages", limit=5, offset=10)
    assert window["total"] == 12 and len(window["rows"]) == 2 and len(window["rows"][0]["preview"]) == 40


def test_the_grid_holds_every_page_against_every_field(api: httpx.Client, demo: Demo) -> None:
    coverage = get(api, "/coverage")
    for kind, fields in coverage.items():
        grid = get(api, f"/coverage/{kind}")
        for field, states in fields.items():
            letters = grid["fields"][field]
            assert len(letters) == len(grid["items"])
            assert letters.count("f") == states.get("filled", 0) and letters.count("e") == states.get("empty", 0)
    assert get(api, "/coverage/nothing") == {"items": [], "fields": {}}


def test_items_in_windows_and_one_of_them(api: httpx.Client) -> None:
    assert get(api, "/items")["total"] == 73 and get(api, "/items", kind="engine")["total"] == 12
    (row,) = get(api, "/items", search="Lady Osmer", kind="engine")["rows"]
    assert row["new_path"] == "/engines/lady-osmer"
    item = get(api, f"/items/{row['id']}")
    assert {f["field"]: f["state"] for f in item["fields"]}["built"] == "filled"
    assert next(f for f in item["fields"] if f["field"] == "title")["nodes"]


def test_the_new_shore_place_by_place(api: httpx.Client) -> None:
    top = {row["path"]: row for row in get(api, "/shore")["rows"]}
    home = api.get("/shore/place", params={"path": "/"}).json()
    assert top["/"]["here"] == home["here"] == "/" and home["below"] == 0 and home["leading"] >= 1
    assert (top["/engines"]["below"], top["/engines"]["here"]) == (12, "/engines/")
    assert len(get(api, "/shore", under="/engines")["rows"]) == 12
    (found,) = get(api, "/shore", search="lady osmer")["rows"]
    assert (found["path"], found["title"]) == ("/engines/lady-osmer", "Lady Osmer")
    place = api.get("/shore/place", params={"path": "/engines"}).json()
    assert (place["leading"], place["below"], place["here"]) == (15, 12, "/engines/")
    looked = api.post("/shore/look", json={"path": "/engines", "to": "/steam/engines"}).json()
    assert looked["total"] == 15 and looked["said"][0]["becomes"] == "/steam/engines/{slug}"
    refused = api.post("/shore/move", json={"path": "/engines", "to": "/engines/deep"})
    assert refused.status_code == 422 and "below itself" in refused.text


def test_a_body_in_all_its_forms(api: httpx.Client, demo: Demo) -> None:
    worst = get(api, "/bodies", limit=200)["rows"]
    assert [b["unaccounted"] for b in worst] == sorted((b["unaccounted"] for b in worst), reverse=True)
    bodies = get(api, "/bodies", limit=200, order="key")
    for n in (0, 40, 72):
        place = get(api, "/bodies/position", order="key", item=bodies["rows"][n]["item"], field="body")
        assert place == {"position": n}
    assert bodies["total"] == 73
    totals = get(api, "/refit")
    assert sum(b["words"] for b in bodies["rows"]) == totals["words"] and totals["unaccounted"] == 0
    row = next(b for b in bodies["rows"] if b["kind"] == "news")
    body = get(api, f"/bodies/{row['item']}/body")
    assert "<p>" in body["html"] and body["markdown"].strip() and isinstance(body["blocks"], list)
    assert body["account"]["words"][0] == row["words"]
    steps = {s["name"]: s["words"] for s in get(api, "/steps")}
    assert sum(steps.values()) == sum(b["removed"] for b in bodies["rows"])
    constructs = {c["name"]: c for c in get(api, "/constructs")}
    assert constructs["Link"]["count"] >= constructs["Link"]["bodies"] > 0
    blocks = [get(api, f"/bodies/{b['item']}/body")["blocks"] for b in bodies["rows"]]
    assert constructs["Link"]["count"] == json.dumps(blocks).count('"type": "Link"')
    example = get(api, f"/bodies/{constructs['Table']['example']}/body")["blocks"]
    assert '"type": "Table"' in json.dumps(example)


@pytest.mark.parametrize("fate", ["moved", "merged", "retired", "stays"])
def test_a_fate_narrows_every_stage(api: httpx.Client, fate: str) -> None:
    addresses = get(api, "/addresses", fate=fate, limit=500)["rows"]
    ids, keys = {a["id"] for a in addresses}, {a["key"] for a in addresses}
    kinds = {k["name"]: k["pages"] for k in get(api, "/kinds", fate=fate)["kinds"]}
    for kind, pages in kinds.items():
        window = get(api, f"/kinds/{kind}/pages", fate=fate, limit=200)
        assert window["total"] == pages and {row["address"] for row in window["rows"]} <= ids
        for n, row in enumerate(window["rows"]):
            query = {"fate": fate, "address": row["address"]}
            assert get(api, f"/kinds/{kind}/pages/position", **query) == {"position": n}
        assert {i["address"] for i in get(api, f"/coverage/{kind}", fate=fate)["items"]} <= ids
    bodies = get(api, "/bodies", fate=fate, limit=200)
    assert {b["address"] for b in bodies["rows"]} <= ids
    assert bodies["total"] == sum(b["address"] in ids for b in get(api, "/bodies", limit=200)["rows"])
    (landing,) = get(api, "/landings")
    things = get(api, f"/landings/{landing['id']}/things", fate=fate, limit=500)
    assert things["total"] == sum(things["states"].values())
    assert {t["key"] for t in things["rows"] if t["type"] == "item"} == {b["key"] for b in bodies["rows"]}
    assert {t["key"].partition(" ")[2] for t in things["rows"] if t["type"] == "redirect"} <= keys


def test_the_list_as_text_for_a_sheet(api: httpx.Client) -> None:
    query = {"below": "/engines.aspx?", "columns": "key,fate,nonsense", "order": "-key"}
    lines = api.get("/addresses/text", params=query).text.splitlines()
    assert lines[0] == "key\tfate" and len(lines) == 13
    assert lines[1].split("\t") == ["/engines.aspx?id=9", "moved"]


@pytest.mark.parametrize("form", ["csv", "json", "xlsx", "warc.gz"])
def test_the_survey_as_a_file(api: httpx.Client, demo: Demo, form: str) -> None:
    answer = api.get(f"/addresses/file/{form}")
    assert answer.status_code == 200 and f'.{form}"' in answer.headers["content-disposition"]
    assert len(answer.content) > 2000
    made = demo.folder / "workspace" / "files" / "tmp"
    for _ in range(100):  # what was made for the answer goes as soon as it is sent
        if not list(made.glob("out-*")):
            break
        time.sleep(0.05)
    assert made.is_dir() and not list(made.glob("out-*"))
    if form == "json":
        assert len(answer.json()) == 139
    assert api.get("/addresses/file/doc").status_code == 422


def test_every_filter_of_the_list_has_its_choices(api: httpx.Client) -> None:
    for name in (
        "fate",
        "proof",
        "family",
        "answer",
        "site",
        "host",
        "verdict",
        "origin",
        "account",
        "linked",
        "kind",
        "fits",
    ):
        choices = get(api, "/addresses/choices", name=name)
        assert sum(c["count"] for c in choices) == 139, name
        for choice in choices:
            assert get(api, "/addresses", limit=1, **{name: choice["value"]})["total"] == choice["count"], name
    both = get(api, "/addresses", fate=["moved", "merged"])["total"]
    assert both == 76 + 13


def test_landings_by_thing(api: httpx.Client) -> None:
    (landing,) = get(api, "/landings")
    things = get(api, f"/landings/{landing['id']}/things", limit=500)
    assert things["total"] == sum(things["states"].values()) == 204 and things["states"] == {"created": 204}
    found = get(api, f"/landings/{landing['id']}/things", search="lady-osmer", type="item")
    assert [row["place"] for row in found["rows"]] == ["/engines/lady-osmer"]


def test_rounds_and_the_map(api: httpx.Client) -> None:
    (round_,) = get(api, "/rounds")
    assert (round_["checked"], round_["open"], round_["before"]) == (101, 0, None)
    gone = get(api, f"/rounds/{round_['id']}/verdicts", verdict="gone")
    assert gone["total"] == 4 and {row["status"] for row in gone["rows"]} == {410}
    assert get(api, "/rules/sound") == []
    names = get(api, "/redirects")
    assert len(names) == 9 and names[0] == "nginx"
    for name in names:
        about = get(api, f"/redirects/{name}/about")
        assert about["lines"] >= 80 and about["changed"] and any(file["lines"] for file in about["files"])
        packed = zipfile.ZipFile(io.BytesIO(api.get(f"/redirects/{name}/files").content))
        assert packed.namelist() == [file["name"] for file in about["files"]]
    static = get(api, "/redirects/redirects-file/about")
    assert static["spelled"] and static["left_out_count"] == 4 == len(static["left_out"])
    text = api.get("/redirects/nginx", params={"file": "redirects.http.conf", "most": 3}).text
    assert text.startswith("# Redirect map of ") and text.count("\n") == 3
    asked = api.post("/ask", json={"address": "http://old.quillmere.localhost/news/?page=3"}).json()
    assert (asked["status"], asked["location"], asked["match"]) == (301, "/news/", "pattern")
    assert api.post("/ask", json={"address": "/no-such"}).json()["status"] == 0


def test_the_log_and_the_health(api: httpx.Client) -> None:
    texts = [line["text"] for line in get(api, "/log", limit=500, kind="job")]
    assert texts[0] == "check done" and texts[-1] == "survey queued"
    health = api.get(str(api.base_url).split("/crossings")[0] + "/health").json()
    assert health["running"] == health["queued"] == 0 and health["version"]


@pytest.mark.parametrize(
    ("method", "path", "body", "status", "sentence"),
    [
        ("GET", "/items/99999", None, 404, "There is no item 99999"),
        ("GET", "/bodies/1/nothing", None, 404, "no refitted body “nothing”"),
        ("GET", "/bodies?order=colour", None, 400, "not a column of bodies"),
        ("GET", "/rounds/99/verdicts", None, 404, "There is no round 99"),
        ("GET", "/landings/99/things", None, 404, "There is no landing 99"),
        ("GET", "/addresses/99999", None, 404, "There is no address 99999"),
        ("GET", "/addresses?order=colour", None, 400, "not a column"),
        ("GET", "/addresses/choices?name=colour", None, 400, "not a filter"),
        ("GET", "/redirects/abacus", None, 400, "not a server this version writes for"),
        ("GET", "/redirects/nginx?file=x", None, 404, "is no file of it"),
        ("POST", "/fields/teach", {"kind": "k", "examples": [{"address": 1, "node": 999999}]}, 404, "no node 999999"),
        ("POST", "/kinds/try", {"rules": [{"element": "p["}]}, 422, "cannot be read"),
        ("POST", "/kinds/try", {"rules": []}, 422, "rules"),
        ("POST", "/fields/try", {"field": {"name": "x", "type": "line", "locators": []}}, 422, "locators"),
        ("POST", "/rules/try", {"old": "(", "new": "/x", "match": "pattern"}, 422, "pattern"),
        ("POST", "/rules/try", {"old": "/a", "new": "//evil.test/"}, 422, "cannot begin with"),
        ("POST", "/rules/try", {"old": r"/a/(\d+)", "new": "/b/{2}", "match": "pattern"}, 422, "has 1 groups"),
        ("POST", "/pairs", {"set": [{"old": "/a", "new": "nowhere"}]}, 422, "neither a path nor"),
        ("POST", "/pairs", {"set": [{"old": "/a", "new": "/b", "status": 303}]}, 422, "status"),
        ("POST", "/addresses/act", {"what": "aside", "ids": [1]}, 400, "needs a reason"),
        ("POST", "/addresses/act", {"what": "burn", "ids": [1]}, 422, "what"),
        ("POST", "/addresses/act", {"what": "move", "to": "", "below": "/ring/"}, 422, "has no new address"),
    ],
)
def test_bad_input_gets_its_sentence_and_changes_nothing(
    api: httpx.Client, method: str, path: str, body: Any, status: int, sentence: str
) -> None:
    before = get(api, "/plan"), get(api, "/pairs")
    answer = api.request(method, path, json=body)
    assert answer.status_code == status, answer.text
    assert sentence in answer.json()["detail"]
    assert (get(api, "/plan"), get(api, "/pairs")) == before


def test_a_stale_revision_is_refused_and_told_by_whom(api: httpx.Client) -> None:
    known = get(api, "/plan")
    known["plan"]["final"] = "http://final.test"
    saved = api.put("/plan", json={**known, "text": "final host"}, headers={"X-Ferry-Name": "Zo%C3%AB"})
    assert saved.status_code == 200 and saved.json()["revision"] > known["revision"]
    late = api.put("/plan", json={**known, "text": "too late"})
    assert late.status_code == 409 and "(final host, Zoë)" in late.json()["detail"]
    undone = api.post("/undo", headers={"X-Ferry-Name": "Zo%C3%AB"}).json()
    assert undone["text"] == "final host" and get(api, "/plan")["plan"]["final"] != "http://final.test"
    assert [c["by"] for c in get(api, "/changes")][:2] == ["Zoë", "Zoë"]


def test_the_front_end_is_served_with_a_fresh_nonce_and_nothing_beside_it(tmp_path: Path) -> None:
    (tmp_path / "assets").mkdir()
    (tmp_path / "index.html").write_text("<meta nonce=__CSP_NONCE__><meta content=__PREVIEW__>", "utf-8")
    (tmp_path / "assets" / "a.js").write_text("plain", "utf-8")
    (tmp_path / "assets" / "a.js.gz").write_bytes(gzip.compress(b"packed"))
    (tmp_path / "secret.txt").write_text("secret", "utf-8")
    app, bare = FastAPI(), FastAPI()
    web.install(app, [], 9, tmp_path)
    web.install(bare, [], 9, tmp_path / "nothing")

    def ask(path: str, of: FastAPI = app, packing: str = "identity") -> httpx.Response:
        async def one() -> httpx.Response:
            async with httpx.AsyncClient(transport=httpx.ASGITransport(of), base_url="http://127.0.0.1") as client:
                return await client.get(path, headers={"Accept-Encoding": packing})

        return asyncio.run(one())

    first, second = ask("/c/1/survey?x=1"), ask("/")
    nonce = first.text.partition("nonce=")[2].partition(">")[0]
    policy = first.headers["content-security-policy"]
    assert f"script-src 'self' 'nonce-{nonce}'" in policy and "frame-src http://127.0.0.1:9/" in policy
    assert "unsafe" not in policy and nonce not in second.text and first.headers["cache-control"] == "no-store"
    assert ask("/assets/a.js").text == "plain"
    packed = ask("/assets/a.js", packing="gzip")
    assert packed.text == "packed" and "immutable" in packed.headers["cache-control"]
    for path in ("/assets/../secret.txt", "/assets/%2e%2e/secret.txt", "/assets/none.js", "/api/none"):
        answer = ask(path)
        assert "secret" not in answer.text and (answer.status_code == 404 or "nonce" in answer.text), path
    assert "not built here" in ask("/", bare).text
