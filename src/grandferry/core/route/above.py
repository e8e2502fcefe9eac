"""The pages above an address and below it: the ways in which the start page of a folder can be spelt."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator, Mapping, Sequence

from ..filetypes import PAGE_ENDINGS, START_PAGES, looks_like_file
from .fate import Decision

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


def folder_of(key: str) -> str:
    """The folder that an address is the page of, "" for an address that is no folder's, and for the home page."""
    path, sign, _ = key.partition("?")
    head, _, tail = path.rpartition("/")
    return f"{head}/" if not sign and head and (not tail or tail in _STARTS) else ""


def first_below(key: str, known: Sequence[str], made: Mapping[str, Decision]) -> tuple[str, str]:
    """The first page below the page of a folder that goes somewhere, and its new address; ("", "") where there is none.
    ``known``: the old addresses, sorted."""
    folder = folder_of(key)
    at = bisect_left(known, folder) if folder else len(known)
    while at < len(known) and known[at].startswith(folder):
        decision = made.get(known[at])
        if (
            known[at] != key
            and decision is not None
            and decision.fate in ("stays", "moved", "merged")
            and not looks_like_file(known[at].partition("?")[0])
        ):
            return known[at], decision.target
        at += 1
    return "", ""
