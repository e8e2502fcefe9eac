"""Maps on real servers: every line and every spelling of a request is answered as the server's evaluator says, and the
servers agree wherever they are able to."""

from __future__ import annotations

import http.client
import json
import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

from grandferry.core.errors import FerryError
from grandferry.core.route.redirects import RedirectMap, map_of, neutral
from grandferry.ports.servers import SAID, SERVERS, Bound, Head, write_out, written
from grandferry.ports.servers.lines import without
from tests.hurt import LINES, REQUESTS, ask_on, made_map, spellings_of
from tests.redirecting import REAL

pytestmark = pytest.mark.slow
ANSWERS = (301, 302, 307, 308, 410)


def differing(server: str, table: RedirectMap, requests: list[str], maps: Path, run: Path) -> list[str]:
    """The requests to which a real server answers otherwise than its evaluator says."""
    write_out(table, server, maps)
    found = []
    with REAL[server](maps, run) as port:
        connection = http.client.HTTPConnection("127.0.0.1", port, timeout=20)
        for request in requests:
            try:
                status, location, headers = ask_on(connection, port, request)
            except (http.client.HTTPException, OSError):
                connection = http.client.HTTPConnection("127.0.0.1", port, timeout=20)
                status, location, headers = ask_on(connection, port, request)
            assert "X-Evil" not in headers and not location.startswith("//")
            got = (status, location) if status in ANSWERS else None
            said = SERVERS[server].answer(table, request)
            if got != ((said.status, said.location) if said else None):
                found.append(f"{request[:200]}: {status} {location[:200]}, not {said}")
    return found


@pytest.mark.parametrize("server", REAL)
def test_a_real_server_answers_as_its_evaluator_says(server: str, tmp_path: Path) -> None:
    table = map_of([neutral(*line) for line in LINES])  # type: ignore[arg-type]
    requests = [*(line.old for line in table.exact.values()), *REQUESTS]
    assert differing(server, table, requests, tmp_path / "maps", tmp_path / "run") == []


@pytest.mark.parametrize("server", REAL)
def test_five_thousand_pairs_made_to_hurt(server: str, tmp_path: Path) -> None:
    table = made_map(800 if server == "htaccess" else 5_000, seed=1)
    olds = list(table.exact)
    requests = [*olds, *(one for old in olds[::5] for one in spellings_of(old)), *_RULED]
    assert differing(server, table, requests, tmp_path / "maps", tmp_path / "run") == []


_RULED = [
    *("/folder1/Ab.c", "/folder1/Ab.c/d?e", "/folder1/AbXc", "/folder1/Ab.cd", "/gone1", "/gone1/x", "/gone12"),
    *(
        "/swap0/a/b",
        "/swap1/a/b",
        "/swap2/%C3%A9/b%20c",
        "/swap3/a/b",
        "/swap0/a/b/c",
        "/swap0//evil.test",
        "/page1.aspx?id=12",
    ),
    *(
        "/page1.aspx?id=12&x=1",
        "/q3/ab-c.html",
        "/q3/ab.php?x=1",
        "/comma/x,y",
        "/sl/evil.test",
        "/sl//evil.test/x",
        "/slow",
    ),
    *(
        "/away/123",
        "/away/1234",
        "/quo%22te/x",
        "/old-end/x",
        "/page",
        "/page/x",
        "/pagex",
        "/Pages/",
        "/Pages/x",
        "/Pages",
    ),
    *(
        "/sl%0d%0aX-Evil:%201",
        "/comma/%0d%0aX-Evil:1",
        "/comma/a%2Fb",
        "/comma/%7Bpath%7D",
        "/comma/$1",
        "/swap0/%251/%24x",
    ),
]


def _plain(request: str) -> bool:
    """Whether all servers are able to tell a request apart: see ``bounds``."""
    path = request.partition("?")[0]
    odd = re.search(r"%(?:2[fF]|[01][0-9a-fA-F]|7[fF])|//|/\.|[^\x21-\x7e]", path)
    return odd is None and request == request.lower() and all(len(part) <= 250 for part in path.split("/"))


def test_the_servers_agree_wherever_they_are_able_to() -> None:
    table = made_map(5_000, seed=2)
    left = {id(beyond.line) for name in REAL for beyond in SERVERS[name].cannot(table)}
    table = map_of(line for line in table.redirects if id(line) not in left)
    olds = [old for old in table.exact if _plain(old)]
    requests = [*olds, *(one for old in olds for one in spellings_of(old) if _plain(one)), *filter(_plain, _RULED)]
    assert len(requests) > 2_000
    for request in requests:
        said = {name: SERVERS[name].answer(table, request) for name in REAL}
        answers = {(one.status, one.location) if one else None for one in said.values()}
        assert len(answers) == 1, (request, said)


_PARTS = st.text(st.characters(codec="utf-8", exclude_characters="/"), min_size=1, max_size=12)
_OLDS = st.lists(_PARTS, min_size=1, max_size=4).map(lambda parts: "/" + "/".join(parts))


@pytest.mark.parametrize("server", REAL)
def test_any_addresses(server: str, tmp_path_factory: pytest.TempPathFactory) -> None:
    @given(st.lists(st.tuples(_OLDS, st.sampled_from(ANSWERS)), min_size=150, max_size=200))
    @settings(
        max_examples=3, phases=[Phase.generate], deadline=None, database=None, suppress_health_check=list(HealthCheck)
    )
    def hold(drawn: list[tuple[str, int]]) -> None:
        lines = {}
        for number, (old, status) in enumerate(drawn):
            try:
                line = neutral(old, "" if status == 410 else f"/n/{number}", status, "exact")
            except FerryError:
                continue
            lines[line.old] = line
        folder = tmp_path_factory.mktemp(server)
        assert differing(server, map_of(lines.values()), list(lines), folder / "maps", folder / "run") == []

    hold()


@pytest.fixture(scope="module", params=sorted(SERVERS))
def server(request: pytest.FixtureRequest) -> Iterator[str]:
    yield request.param


def test_a_map_reads_back_and_is_the_same_bytes(server: str) -> None:
    table = map_of([neutral(*line) for line in LINES])  # type: ignore[arg-type]
    head = Head("Old site\n# line exact 301 /x /y", "2026-03-01")
    files = written(table, server, head)
    beyond = SERVERS[server].cannot(table)
    assert set(SERVERS[server].read(files).redirects) == set(without(table, beyond).redirects)
    assert len(beyond) < 12 or server == "redirects-file"
    assert written(table, server, head) == files, "same map, same bytes"
    text = b"".join(files.values()).decode("utf-8", "surrogateescape")
    assert "old.test" not in text and "/x /y\n" not in text
    if server == "json":
        assert json.loads(text)["changed"] == "2026-03-01"
    elif server != "csv":
        first = next(iter(files.values())).decode("utf-8", "surrogateescape")
        assert "2026-03-01" in first and f"{len(table.redirects) - len(beyond)} lines" in first
        assert all(SAID[bound] in first for bound in SERVERS[server].bounds(table))
        assert "Leads to other hosts on purpose: else.test (1)." in first


def test_a_file_that_was_altered_does_not_read_back_as_the_map(server: str) -> None:
    table = map_of([neutral(*line) for line in LINES])  # type: ignore[arg-type]
    files = written(table, server)
    name, content = next((name, text) for name, text in files.items() if b"/question" in text or b"/seven" in text)
    for old, new in ((b"/seven", b"/eight"), (b"/new", b"/newer")):
        altered = files | {name: content.replace(old, new, 1)}
        assert set(SERVERS[server].read(altered).redirects) != set(SERVERS[server].read(files).redirects)


def test_what_a_server_cannot_answer_is_named() -> None:
    table = map_of([neutral(*line) for line in LINES])  # type: ignore[arg-type]
    beyond = {name: {(one.line.old, one.why) for one in SERVERS[name].cannot(table)} for name in SERVERS}
    assert beyond["nginx"] == beyond["apache"] == beyond["caddy"] == beyond["haproxy"] == set()
    assert beyond["lighttpd"] == {("/line%0Abreak", Bound.CONTROLS)}
    assert ("/a%2Fb", Bound.NO_ENCODED_SLASH) in beyond["htaccess"]
    assert ("/gone.htm", Bound.NO_GONE) in beyond["redirects-file"]
    assert (r"/go/(.*)", Bound.NO_PATTERN) in beyond["redirects-file"]
