"""Maps as files for every server: what is read back, what is left out, and where the servers agree."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator

import pytest

from grandferry.core.route.redirects import map_of, neutral
from grandferry.ports.servers import SAID, SERVERS, Bound, Head, written
from grandferry.ports.servers.lines import without
from tests.hurt import LINES, RULED, made_map, spellings_of

REAL = ("nginx", "apache", "htaccess", "caddy", "haproxy", "lighttpd")


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
    requests = [*olds, *(one for old in olds for one in spellings_of(old) if _plain(one)), *filter(_plain, RULED)]
    assert len(requests) > 2_000
    for request in requests:
        said = {name: SERVERS[name].answer(table, request) for name in REAL}
        answers = {(one.status, one.location) if one else None for one in said.values()}
        assert len(answers) == 1, (request, said)


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
    assert ("/a?b", Bound.BARE_QUERY) in beyond["redirects-file"]
    assert (r"/go/(.*)", Bound.NO_PATTERN) in beyond["redirects-file"]
