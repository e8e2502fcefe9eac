"""Sites nobody here wrote, as Debian packages hold them: what the survey finds against what lies on the disk."""

from __future__ import annotations

import json
import os
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from urllib.parse import unquote

import ada_url
import lxml.html
import pytest

from grandferry.core.address import normal
from grandferry.store.db import one, rows
from tests.servers import nginx

pytestmark = pytest.mark.slow
CARRIERS = "//a/@href | //area/@href | //link[not(contains(@rel, 'dns-prefetch'))]/@href | //frame/@src | //iframe/@src | //img/@src | //script/@src"


@dataclass(frozen=True)
class Site:
    """A site on disk: its folders by the name they are served under, its start, and the pages it must have at least."""

    folders: dict[str, str]
    start: str
    pages: int


SITES = {
    "thousands of pages": Site({"": "/usr/share/cppreference/doc/html"}, "/en/Main_Page.html", 4000),
    "written by hand long ago": Site({"": "/usr/share/doc/ncurses-doc/html"}, "/start.html", 130),
    "several languages": Site(
        {
            "en": "/usr/share/developers-reference",
            "de": "/usr/share/developers-reference/de",
            "fr": "/usr/share/developers-reference/fr",
            "ja": "/usr/share/developers-reference/ja",
        },
        "/start.html",
        45,
    ),
}


def lay_out(site: Site, root: Path) -> None:
    """The site's folders below one root; where it has no page to begin with, one that names its first pages."""
    root.mkdir()
    for name, folder in site.folders.items():
        assert Path(folder).is_dir(), f"{folder} is needed (a Debian package)"
        if name:
            os.symlink(folder, root / name)
        else:
            for entry in Path(folder).iterdir():
                os.symlink(entry, root / entry.name)
    if site.start == "/start.html":
        first = [f"{name}/index.html" for name in site.folders if name] or sorted(p.name for p in root.glob("*.html"))
        (root / "start.html").write_text("<title>Start</title>" + "".join(f"<p><a href='{f}'>{f}</a>" for f in first))


def references(path: Path) -> tuple[str, list[str]]:
    """(base, references) of a page, by another parser than ours."""
    try:
        tree = lxml.html.fromstring(path.read_bytes())
    except (lxml.etree.ParserError, ValueError):
        return "", []
    base = tree.xpath("string(//base/@href)")
    return base, [str(raw).strip() for raw in tree.xpath(CARRIERS)]


def on_disk(root: Path, base: str, start: str) -> tuple[set[str], dict[str, set[str]]]:
    """(paths of all pages links lead to, references by page) by a walk over the files."""
    found, queue = {start}, [start]
    named: dict[str, set[str]] = {}
    while queue:
        key = queue.pop()
        inner, raw = references(root / (unquote(key).lstrip("/") + ("index.html" if key.endswith("/") else "")))
        at = ada_url.join_url(base + key, inner) if inner else base + key
        named[key] = set()
        for text in raw:
            if not text or text.startswith(("javascript:", "mailto:", "data:")):
                continue
            address = normal(text, at)
            if address is None:
                continue
            named[key].add(str(address))
            path = address.path
            if (root / unquote(path).lstrip("/")).is_dir() and not path.endswith("/"):
                path += "/"  # the server redirects there
            file = path + ("index.html" if path.endswith("/") else "")
            if f"{address.scheme}://{address.host}" != base or not file.endswith((".html", ".htm")):
                continue
            if (root / unquote(file).lstrip("/")).is_file() and path not in found:
                found.add(path)
                queue.append(path)
    return found, named


@pytest.mark.parametrize("name", list(SITES))
def test_every_page_on_disk_is_found_once_and_every_reference_accounted_for(
    name: str, tmp_path: Path, cross: Callable[..., int], work: Callable[..., dict[str, Any]]
) -> None:
    site = SITES[name]
    root = tmp_path / "root"
    lay_out(site, root)
    with nginx(tmp_path / "server", f"root {root};", log=f"{tmp_path}/access.log") as port:
        base = f"http://127.0.0.1:{port}"
        plan = {"old": {"start": base + site.start}, "manners": {"delay": 0, "at_once": 16}}
        # one of them bears the traces of a wiki, whose starting rules drop parameters: here every address counts
        crossing = cross({**plan, "survey": {"preset": "other"}})
        result = work("survey", crossing)
        truth, named = on_disk(root, base, site.start)
    found = {key.partition("?")[0] for (key,) in rows("SELECT key FROM address WHERE type = 'page' AND status = 200")}
    assert len(found) >= site.pages
    assert truth - found == set(), "pages that links lead to and the survey did not find"
    asked = [line.split(b'"')[1].split(b" ")[1] for line in (tmp_path / "access.log").read_bytes().splitlines()]
    assert len(asked) == len(set(asked)), "an address was fetched twice"

    known = {url for (url,) in rows("SELECT url FROM address")} | {url for (url,) in rows("SELECT url FROM shut_out")}
    known |= {url for (url,) in rows("SELECT url FROM spelling")}
    lost = [
        (page, url)
        for page, urls in named.items()
        for url in urls
        if url not in known and normal_known(url, known) is None
    ]
    assert lost == [], "references neither resolved nor listed"
    failed = one("SELECT count(*) FROM page_facts f WHERE f.findings LIKE '%cannot be read%'")
    print(
        json.dumps(
            {
                "site": name,
                "on disk": len(truth),
                "found": len(found),
                "references": sum(map(len, named.values())),
                "seconds": result["seconds"],
                "addresses": result["addresses"],
                "kept out": result["shut_out"],
                "dead links": one("SELECT count(*) FROM address WHERE status = 404"),
                "encodings": dict(rows("SELECT encoding, count(*) FROM capture WHERE encoding != '' GROUP BY 1")),
                "doubtful": one("SELECT count(*) FROM capture WHERE doubtful != ''"),
                "alike": dict(rows("SELECT type, count(*) FROM likeness GROUP BY 1")),
                "unread": failed,
            }
        )
    )


def normal_known(url: str, known: set[str]) -> str | None:
    """A reference under another scheme than the start's is folded into it."""
    other = url.replace("https://", "http://", 1)
    return other if other in known else None
