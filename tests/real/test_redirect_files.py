"""Maps on real servers: every line and every spelling of a request is answered as the server's evaluator says."""

from __future__ import annotations

import http.client
from pathlib import Path

import pytest
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

from grandferry.core.errors import FerryError
from grandferry.core.route.redirects import RedirectMap, map_of, neutral
from grandferry.ports.servers import SERVERS, write_out
from tests.hurt import LINES, REQUESTS, RULED, ask_on, made_map, spellings_of
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
    requests = [*olds, *(one for old in olds[::5] for one in spellings_of(old)), *RULED]
    assert differing(server, table, requests, tmp_path / "maps", tmp_path / "run") == []


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
