"""Folders of Markdown, built by real static generators: the same text, dates, tags, places and addresses."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from grandferry.core.land.profile import PROFILES
from grandferry.core.plan import LandSettings
from tests.demo import Demo, running_demo
from tests.generators import GENERATORS, built_page, shown

pytestmark = pytest.mark.slow


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
