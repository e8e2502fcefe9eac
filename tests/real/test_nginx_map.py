"""The written map on a real nginx: it answers every line, and every hostile request, as our evaluator says."""

from __future__ import annotations

import http.client
import socket
from collections.abc import Callable
from pathlib import Path

import pytest

from grandferry.core.errors import FerryError
from grandferry.core.route.redirects import RedirectMap, map_of, neutral
from grandferry.ports.servers import SERVERS, write_out
from grandferry.ports.servers.nginx import Nginx
from tests.servers import nginx

LINES = [
    ("/old.htm", "/new", 301, "exact"),
    ("/page.aspx?id=7", "/seven", 301, "exact"),
    ("/page.aspx", "/page", 308, "exact"),
    ("/gone.htm", "", 410, "exact"),
    ("/my docs/straße.pdf", "/new/straße x.pdf", 301, "exact"),
    ("/sp\"q'u;o$te{b}\\x|y", "/special", 301, "exact"),
    ("/a%2Fb", "/slash", 301, "exact"),
    ("/a%3Fb", "/question", 301, "exact"),
    ("/a?b", "/query-b", 301, "exact"),
    ("/Case/A", "/case-upper", 301, "exact"),
    ("/case/a", "/case-lower", 301, "exact"),
    ("/Loop/Page", "/loop/page", 301, "exact"),
    ("/line%0Abreak", "/line", 301, "exact"),
    ("/latin%E9", "/latin", 301, "exact"),
    ("/plus+sign", "/plus", 301, "exact"),
    ("/per%25cent", "/percent", 301, "exact"),
    ("/x;}#", "/brace", 301, "exact"),
    ("/q?a=1&b=%C3%A9", "/q-a-b", 301, "exact"),
    ("/dollar", "/d$1${x}?p=$q", 301, "exact"),
    ("/else", "https://else.test/x?y#z", 301, "exact"),
    ("/" + "long" * 300, "/long", 301, "exact"),
    ("/~tilde", "/tilde", 301, "exact"),
    ("/dot/./x", "/dots", 301, "exact"),
    ("/double//slash", "/double", 301, "exact"),
    ("/back\\slash", "/back", 301, "exact"),
    ("/folder", "/moved", 301, "prefix"),
    ("/folder/deep", "/deeper/", 308, "prefix"),
    ("/closed", "", 410, "prefix"),
    ("/Über", "/uber", 301, "prefix"),
    ("/root", "/", 301, "prefix"),
    (r"/go/(.*)", "/{1}", 301, "pattern"),
    (r"/go8/(.*)", "/{1}", 308, "pattern"),
    (r"/blog/(\d{4})/(\d{2})/([^/]+)\.html", "/articles/{1}-{2}/{3}", 301, "pattern"),
    (r"/item\?id=(\d+)", "/items/{1}", 301, "pattern"),
    (r"/w/([a-z\"]+)", "/words/{1}", 308, "pattern"),
    (r"/[(](\d+)", "/bracket/{1}", 301, "pattern"),
    (r"/end/.*", "", 410, "pattern"),
]
REQUESTS = [
    "/old.htm",
    "/OLD.HTM",
    "/old.htm?utm=1",
    "/%6Fld.htm",
    "/old.htm/",
    "/./old.htm",
    "/x/../old.htm",
    "/page.aspx?id=7",
    "/page.aspx?ID=7",
    "/page.aspx?id=8",
    "/gone.htm",
    "/gone.htm?x",
    "/my%20docs/stra%C3%9Fe.pdf",
    "/my%20docs/stra%c3%9fe.pdf",
    "/a%2fb",
    "/a/b",
    "/a%3fb",
    "/a?b",
    "/case/a",
    "/Case/A",
    "/cAse/a",
    "/loop/page",
    "/Loop/Page",
    "/line%0abreak",
    "/latin%e9",
    "/plus+sign",
    "/plus%20sign",
    "/per%25cent",
    "/dollar",
    "/else",
    "/folder",
    "/folder/",
    "/folder/a/b?c=1",
    "/folders",
    "/folder/deep",
    "/folder/deep/x",
    "/closed/any",
    "/%C3%9Cber/x",
    "/%c3%9cber",
    "/blog/2019/04/slug.html",
    "/blog/2019/04/s%20g.html",
    "/blog/2019/04/a%0d%0aX-Evil:%201.html",
    "/blog/2019/04/x.html?y",
    "/item?id=12",
    "/item?id=12&x",
    "/w/a%22",
    "/w/abc",
    "/(12",
    "/end/",
    "/end/x?y",
    "/none",
    "/",
    "/root//evil.test/x",
    "/root/x",
    "/go//evil.test/x",
    "/go8///evil.test",
    "/go/ok",
    "/double//slash",
    "/double/slash",
    "/dot/./x",
    "/dot/x",
]


@pytest.fixture(scope="module")
def served(tmp_path_factory: pytest.TempPathFactory) -> object:
    folder = tmp_path_factory.mktemp("nginx")
    table = map_of([neutral(*line) for line in LINES])  # type: ignore[arg-type]
    write_out(table, "nginx", folder / "map")
    server = f"include {folder}/map/redirects.server.conf; location / {{ return 404; }}"
    with nginx(folder / "run", server, f"include {folder}/map/redirects.http.conf;") as port:
        yield table, port


def ask(port: int, target: str) -> tuple[int, str, list[str]]:
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=10)
    connection.putrequest("GET", target, skip_host=False)
    connection.endheaders()
    answer = connection.getresponse()
    answer.read()
    return answer.status, answer.getheader("Location") or "", [name for name, _ in answer.getheaders()]


def expected(table: RedirectMap, target: str) -> tuple[int, str]:
    answer = SERVERS["nginx"].answer(table, target)
    return (answer.status, answer.location) if answer else (404, "")


@pytest.mark.parametrize("number", range(len([r for r in LINES if r[3] == "exact"])))
def test_every_exact_line(served: tuple[RedirectMap, int], number: int) -> None:
    table, port = served
    line = list(table.exact.values())[number]
    status, location, _ = ask(port, line.old)
    assert (status, location) == (line.status, line.new) == expected(table, line.old)


@pytest.mark.parametrize("target", REQUESTS)
def test_every_request_as_the_evaluator_says(served: tuple[RedirectMap, int], target: str) -> None:
    table, port = served
    status, location, headers = ask(port, target)
    assert (status, location) == expected(table, target)
    assert "X-Evil" not in headers and not location.startswith("//")


@pytest.mark.parametrize("server", sorted(SERVERS))
def test_round_trip_of_every_server(server: str, tmp_path: Path) -> None:
    table = map_of([neutral(*line) for line in LINES])  # type: ignore[arg-type]
    files = write_out(table, server, tmp_path)
    again = SERVERS[server].read({f.name: f.read_bytes() for f in files})
    assert set(again.redirects) == set(table.redirects)
    assert all(b"old.test" not in f.read_bytes() for f in files), "a map holds no host of ours"
    first = {f.name: f.read_bytes() for f in files}
    assert {f.name: f.read_bytes() for f in write_out(table, server, tmp_path)} == first, "same map, same bytes"


def test_what_does_not_read_back_is_refused(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    class Forgetful(Nginx):
        def write(self, redirects: RedirectMap) -> dict[str, bytes]:
            return {name: text.replace(b"/seven", b"/eight", 1) for name, text in super().write(redirects).items()}

    monkeypatch.setitem(SERVERS, "nginx", Forgetful())
    with pytest.raises(FerryError, match="do not read back"):
        write_out(map_of([neutral(*line) for line in LINES]), "nginx", tmp_path)  # type: ignore[arg-type]
    assert not list(tmp_path.iterdir())


def test_hostile_targets_cannot_add_a_directive(tmp_path: Path) -> None:
    nasty = ['/a"; } server { listen 1; } #', "/b\n}\nreturn 200;", "/c$host", "/d${uri}", "/e\\", '/f\\";']
    table = map_of([neutral(old, "/t" + old, 301, "exact") for old in nasty])
    write_out(table, "nginx", tmp_path / "map")
    server = f"include {tmp_path}/map/redirects.server.conf; location / {{ return 404; }}"
    with nginx(tmp_path / "run", server, f"include {tmp_path}/map/redirects.http.conf;") as port:
        for line in table.exact.values():
            assert ask(port, line.old)[:2] == (301, line.new)
        with socket.create_connection(("127.0.0.1", port)) as raw:
            raw.sendall(b"GET /nothing HTTP/1.0\r\n\r\n")
            assert b" 404 " in raw.recv(4096)


@pytest.mark.parametrize(
    "make", [lambda n: "/" + "a" * n, lambda n: "/" + "%C3%A9" * (n // 6), lambda n: "/A//" + "a" * n]
)
def test_a_line_longer_than_nginx_reads_is_refused_with_its_address(tmp_path: Path, make: Callable[[int], str]) -> None:
    taken = refused = 0
    for length in (1000, 2000, 3000, 3900, 4040, 4070, 4085, 4095, 4200, 9000):
        table = map_of([neutral(make(length), "/b", 301, "exact")])
        folder = tmp_path / str(length)
        try:
            write_out(table, "nginx", folder / "map")
        except FerryError as problem:
            assert "nginx reads no line" in str(problem) and make(length)[:60] in str(problem)
            refused += 1
            continue
        taken += 1
        server = f"large_client_header_buffers 4 32k; include {folder}/map/redirects.server.conf;"
        with nginx(folder / "run", server, f"include {folder}/map/redirects.http.conf;") as port:
            assert ask(port, make(length))[:2] == (301, "/b")
    assert taken >= 2 and refused >= 2
