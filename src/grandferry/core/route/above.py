"""The pages above an address: the ways in which the start page of a folder can be spelt, folder by folder."""

from __future__ import annotations

from collections.abc import Iterator

from ..filetypes import PAGE_ENDINGS, START_PAGES

_STARTS = tuple(f"{name}.{ending}" for name in START_PAGES for ending in sorted(PAGE_ENDINGS))


def start_pages(folder: str) -> Iterator[str]:
    """How the page of a folder (``/a/``) may be spelt: ``/a/``, ``/a``, ``/a/index.html`` …"""
    yield folder
    if folder != "/":
        yield folder[:-1]
    for name in _STARTS:
        yield folder + name


def pages_above(key: str) -> Iterator[str]:
    """The keys at which pages above an old address may stand, the nearest first, up to the home page; none for the home
    page itself. What has a query lies below the same path without one."""
    path, sign, _ = key.partition("?")
    if sign:
        yield path
    folder = path[: path.rstrip("/").rfind("/") + 1] if path != "/" else ""
    if path.rpartition("/")[2] in _STARTS:  # its folder's own page
        folder = folder[: folder.rstrip("/").rfind("/") + 1]
    while folder:
        yield from start_pages(folder)
        folder = folder[: folder[:-1].rfind("/") + 1]
