"""Pages nobody here wrote, through the converter: every word, link, picture, place and line of code accounted for, and
the Markdown and HTML read back by another reader."""

from __future__ import annotations

import random
from collections import Counter
from multiprocessing import get_context
from pathlib import Path
from typing import NamedTuple

import pytest

from grandferry.core.encoding import decode
from grandferry.core.refit.account import Thing
from grandferry.core.refit.convert import refit_html
from grandferry.core.refit.page import linker
from grandferry.core.refit.write import write_markdown
from grandferry.core.refit.written import html_read_back, read_back

pytestmark = pytest.mark.slow
MOST = 120  # pages of a site, drawn by lot
BASE = "http://site.test/"


class Site(NamedTuple):
    """A site on disk, and what of its words may stand in raw HTML within Markdown."""

    folder: str
    raw: float


# of the two with more than 5 %, it is code and whole manual pages in "pre" that hold links
SITES = {
    "very large": Site("/usr/share/doc/db5.3-doc", 0.05),
    "tables and code": Site("/usr/share/doc/python3.11/html", 0.05),
    "Japanese": Site("/usr/share/developers-reference/ja", 0.05),
    "code with links": Site("/usr/share/cppreference/doc/html", 0.12),
    "written by hand long ago": Site("/usr/share/doc/xfig/html", 0.05),
    "manual pages with links": Site("/usr/share/doc/ncurses-doc/html", 0.3),
}


class Found(NamedTuple):
    name: str
    words: int
    unaccounted: int
    islands: int
    raw: int
    things: dict[str, tuple[int, int]]
    code: tuple[int, int]
    differs: list[str]


def convert(task: tuple[Path, str]) -> Found:
    path, name = task
    done = refit_html(decode(path.read_bytes()).text, link=linker(BASE + name), mask=False)
    written = write_markdown(done.blocks)
    differs = [*read_back(done.blocks, written.text), *html_read_back(done.blocks)]
    account = done.account
    kinds = (Thing.LINKS, Thing.PICTURES, Thing.FILES, Thing.FRAMES, Thing.ANCHORS)
    return Found(
        name,
        account.words,
        account.unaccounted,
        account.in_islands,
        written.raw_words,
        {kind.value: (account.things[kind].have, account.things[kind].kept) for kind in kinds},
        (account.code_lines[0], account.code_lines[1]),
        [str(one) for one in differs],
    )


@pytest.mark.timeout(600)
@pytest.mark.parametrize("site", SITES.values(), ids=SITES)
def test_a_real_site_loses_nothing(site: Site) -> None:
    root = Path(site.folder)
    assert root.is_dir(), f"{root} is needed (a Debian package)"
    pages = sorted(path for path in root.rglob("*") if path.suffix in (".html", ".htm") and path.is_file())
    drawn = random.Random(5).sample(pages, min(MOST, len(pages)))
    with get_context("forkserver").Pool(2) as pool:
        found = pool.map(convert, [(path, path.relative_to(root).as_posix()) for path in drawn])
    sums: Counter[str] = Counter()
    for page in found:
        sums.update(words=page.words, unaccounted=page.unaccounted, islands=page.islands, raw=page.raw)
        assert page.differs == [], page.name
        assert all(have == kept for have, kept in page.things.values()), (page.name, page.things)
    assert sums["words"] > 20_000 and sums["unaccounted"] <= 0.0005 * sums["words"]
    assert sums["islands"] <= 0.01 * sums["words"]
    assert sums["raw"] <= site.raw * sums["words"]
    lost = {page.name: page.code for page in found if page.code[0] > page.code[1]}
    assert lost == {}, "code is kept line by line"
