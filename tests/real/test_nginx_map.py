"""What is nginx's own: lines that it does not read, targets that would add a directive."""

from __future__ import annotations

import socket
from collections.abc import Callable
from pathlib import Path

import pytest

from grandferry.core.errors import FerryError
from grandferry.core.route.redirects import RedirectMap, map_of, neutral
from grandferry.ports.servers import NO_HEAD, SERVERS, Head, write_out
from grandferry.ports.servers.nginx import Nginx
from tests.hurt import LINES, ask
from tests.servers import nginx


def test_what_does_not_read_back_is_refused(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    class Forgetful(Nginx):
        def write(self, redirects: RedirectMap, head: Head = NO_HEAD) -> dict[str, bytes]:
            made = super().write(redirects, head)
            return {name: text.replace(b"/seven", b"/eight", 1) for name, text in made.items()}

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
