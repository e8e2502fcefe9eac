"""Folders of Markdown, built by real static generators: the same text, dates, tags, places and addresses."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from grandferry.core.land.profile import PROFILES
from grandferry.core.plan import LandSettings
from tests.cli.test_commands import ferry, said
from tests.demo import Demo, running_demo
from tests.generators import GENERATORS, built_page, shown
from tests.servers import nginx

pytestmark = pytest.mark.slow
DOCS = Path("/usr/share/developers-reference")


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Demo]:
    with running_demo(tmp_path_factory.mktemp("demo")) as made:
        yield made


@pytest.fixture(scope="module")
def rows(demo: Demo, tmp_path_factory: pytest.TempPathFactory) -> list[dict[str, Any]]:
    """The items as JSON has them."""
    out = tmp_path_factory.mktemp("json") / "landed"
    demo.run("land", out=str(out), target=LandSettings(target="jsonl").model_dump(mode="json"))
    return [json.loads(line) for file in (out / "items").iterdir() for line in file.read_text("utf-8").splitlines()]


@pytest.mark.parametrize("name", list(GENERATORS))
def test_the_demo_is_built(demo: Demo, rows: list[dict[str, Any]], name: str, tmp_path: Path) -> None:
    settings = LandSettings(target="markdown", profile=PROFILES[name])
    landed = demo.run("land", out=str(tmp_path / "landed"), target=settings.model_dump(mode="json"))
    assert not landed["refused"] and landed["item"]["created"] == len(rows) > 70
    out = GENERATORS[name](tmp_path)
    for row in rows:
        page = built_page(out, row["new"])
        assert page is not None, row["new"]
        wanted, got = shown(row["body_html"]), page.main
        assert got.words == wanted.words, row["new"]
        assert (got.links, got.pictures, got.code) == (wanted.links, wanted.pictures, wanted.code), row["new"]
        assert wanted.names <= got.names, row["new"]
        assert (page.title, page.old) == (row["title"], row["old"])
        assert page.tags == (row.get("topics") or [])
        assert not row.get("published") or page.date == row["published"][:10]
    for row in rows:
        for picture in shown(row["body_html"]).pictures:
            assert not picture.startswith("/") or (out / picture[1:]).is_file(), picture


@pytest.mark.parametrize("name", list(GENERATORS))
def test_a_documentation_site_is_built(name: str, tmp_path: Path) -> None:
    """A site nobody here wrote, drafted by the tool alone: every page is built at its new address, says what the draft
    says, and no link within the site leads to a place that is not there though it was before."""
    with nginx(tmp_path / "server", f"root {DOCS};") as port:
        done = ferry(
            "draft", f"http://127.0.0.1:{port}/index.html", "--delay", "0", "--at-once", "8", "--permission", "t",
            "--exclude", r"/(de|fr|ja|ru|_sources)/|search\.html", "--data", tmp_path / "w", "--out", tmp_path / "json", "--to", "jsonl",
        )  # fmt: skip
        assert done.returncode in (0, 1), said(done)
    landed = ferry(
        "land", "--data", tmp_path / "w", "--target", "markdown", "--profile", name, "--out", tmp_path / "landed"
    )
    assert landed.returncode == 0, said(landed)
    files = (tmp_path / "json" / "items").iterdir()
    rows = [json.loads(line) for file in files for line in file.read_text("utf-8").splitlines()]
    out = GENERATORS[name](tmp_path)
    pages = {row["new"]: built_page(out, row["new"]) for row in rows}
    assert len(rows) >= 10 and all(pages.values())
    words = links = 0
    for row in rows:
        page = pages[row["new"]]
        assert page is not None
        wanted, got = shown(row["body_html"]), page.main
        assert got.words == wanted.words, row["new"]
        assert (got.links, got.pictures, got.code) == (wanted.links, wanted.pictures, wanted.code), row["new"]
        words += len(got.words)
        for link in got.links:
            path, sign, mark = link.partition("#")
            to = pages.get(path or row["new"])
            if sign and to is not None:
                links += 1
                assert mark in to.main.names, (row["new"], link)
    assert words > 10_000 and links > 50
