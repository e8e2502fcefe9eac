"""The offline copy: every captured page and file in one ZIP that a browser opens without any server."""

from __future__ import annotations

import csv
import io
import os
import shutil
import zipfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from html import escape
from pathlib import Path
from typing import Any

from grandferry.core.address import Address, Scope, split_href
from grandferry.core.encoding import decode
from grandferry.core.errors import FerryError
from grandferry.core.filetypes import is_packed
from grandferry.core.side import Side
from grandferry.core.survey.offline import Place, local_names, rewrite_css, rewrite_page, way
from grandferry.core.survey.scope import scope_of
from grandferry.store import bodies, crossings
from grandferry.store.survey import captures, keptout
from grandferry.work.jobs.context import Context
from grandferry.work.names import file_name, safe_cell
from grandferry.work.pages import content_type

REDIRECTS = 10
_MOMENT = (1980, 1, 1, 0, 0, 0)  # the same site gives the same bytes


@dataclass(frozen=True, slots=True)
class _Kept:
    address: Address
    page: bool
    mime: str
    body: str
    type: str


class Copy:
    """Writes the copy of one side of a crossing."""

    def __init__(self, side: Side):
        plan = crossings.load_plan(side.crossing)
        here = plan.side(side.name)
        self.start = here.start
        self.name = plan.name
        self.scope: Scope = scope_of(here)
        self.kept: dict[str, _Kept] = {}
        self.why: dict[str, str] = {}  # of addresses that are known and not kept
        self.targets: dict[str, str] = {}
        for url, state, status, type_, target, mime, reason, body, headers in captures.known(side):
            address = split_href(url)
            assert address is not None
            if type_ == "redirect" and target:
                self.targets[url] = target
            elif body and type_ in ("page", "file"):
                self.kept[url] = _Kept(address, type_ == "page", mime, body, content_type(headers))
            else:
                self.why[url] = reason or (
                    f"answers {status}" if status else "not fetched yet" if state == "waiting" else state
                )
        for url, reason, _, _ in keptout.all_of(side):
            self.why.setdefault(url, f"kept out: {reason}")
        self.names = local_names(Place(k.address, k.page, k.mime) for k in self.kept.values())
        self.unresolved: list[tuple[str, str, str, str]] = []

    def write(self, out: Path, step: Callable[[int], None]) -> int:
        """Write the ZIP; gives the number of files in it (its tables aside). ``step`` hears how many are done."""
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=6) as archive:
            for number, (url, kept) in enumerate(sorted(self.kept.items()), 1):
                self._one(archive, url, kept)
                step(number)
            start = str(self.scope.normal(self.start))
            first = self._final(start)[0]
            _put(archive, "index.html", _front(self.name, self.names.get(first, ""), len(self.kept)).encode())
            _put(archive, "addresses.csv", _table(("file", "address", "type"), self._table()))
            heads = ("file", "reference", "address", "why")
            _put(archive, "unresolved.csv", _table(heads, iter(self.unresolved)))
        return len(self.kept)

    def _table(self) -> Iterator[tuple[str, str, str]]:
        for url, kept in sorted(self.kept.items()):
            yield self.names[url], url, kept.type or kept.mime
        for url in sorted(self.targets):
            final, _ = self._final(url)
            yield self.names.get(final, ""), url, f"redirect to {final}"

    def _final(self, url: str) -> tuple[str, bool]:
        """Where redirects from an address end, and whether they end at all."""
        for _ in range(REDIRECTS):
            if url not in self.targets:
                return url, True
            url = self.targets[url]
        return url, False

    def _one(self, archive: zipfile.ZipFile, url: str, kept: _Kept) -> None:
        name = self.names[url]
        beside = bodies.path_of(kept.body)
        if not kept.page and kept.mime != "text/css" and beside is not None:
            info = zipfile.ZipInfo(name, _MOMENT)
            info.compress_type = zipfile.ZIP_STORED if is_packed(kept.mime) else zipfile.ZIP_DEFLATED
            with beside.open("rb") as source, archive.open(info, "w", force_zip64=True) as target:
                shutil.copyfileobj(source, target)
            return
        body = bodies.get(kept.body)
        base = self._base(url, kept, body) if kept.page else url
        try:
            if kept.page:
                body = rewrite_page(decode(body, kept.type).text, lambda raw: self._find(raw, base, name)).encode(
                    "utf-8", "xmlcharrefreplace"
                )
            elif kept.mime == "text/css":
                body = rewrite_css(decode(body, kept.type).text, lambda raw: self._find(raw, base, name)).encode()
        except FerryError as problem:
            self.unresolved.append((name, "", url, f"kept as captured: {problem}"))
        _put(archive, name, body, stored=is_packed(kept.mime))

    def _base(self, url: str, kept: _Kept, body: bytes) -> str:
        from grandferry.core.survey.glance import glance

        if b"<base" not in body.lower():
            return url
        try:
            joined = self.scope.normal(glance(decode(body, kept.type).text).base, url)
        except FerryError:
            return url
        return str(joined) if joined else url

    def _find(self, raw: str, base: str, name: str) -> str:
        """What stands in the place of a reference: the way to its file, else its full address, listed as unresolved."""
        address = self.scope.normal(raw, base)
        if address is None:
            return raw
        mark = raw.partition("#")
        url, ends = self._final(str(address))
        if url in self.names:
            return way(name, self.names[url]) + mark[1] + mark[2]
        why = "redirects in a circle" if not ends else self.why.get(url) or self.why.get(str(address)) or "another site"
        self.unresolved.append((name, raw[:2000], str(address), why))
        return str(address) + mark[1] + mark[2]


def _put(archive: zipfile.ZipFile, name: str, body: bytes, stored: bool = False) -> None:
    info = zipfile.ZipInfo(name, _MOMENT)
    info.compress_type = zipfile.ZIP_STORED if stored else zipfile.ZIP_DEFLATED
    archive.writestr(info, body)


def _table(head: tuple[str, ...], lines: Iterator[tuple[str, ...]]) -> bytes:
    text = io.StringIO(newline="")
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow(head)
    writer.writerows([safe_cell(cell) for cell in line] for line in lines)
    return text.getvalue().encode("utf-8", "replace")


def _front(name: str, first: str, files: int) -> str:
    link = (
        f'<a href="{escape(way("index.html", first))}">Open the start page</a>'
        if first
        else "The start page was not captured."
    )
    return (
        f'<!doctype html><meta charset="utf-8"><title>{escape(name)}: offline copy</title><h1>{escape(name)}</h1>'
        f'<p>{link}</p><p>{files:,} pages and files. <a href="addresses.csv">Which address is which file</a>, '
        '<a href="unresolved.csv">references that lead nowhere in this copy</a>.</p>'
    )


def write_copy(side: Side, out: Path, step: Callable[[int], None] = lambda _: None) -> dict[str, int]:
    """Write the offline copy of a side, whole or not at all. Gives the numbers of files and of unresolved
    references. Raises FerryError when nothing is captured."""
    copy = Copy(side)
    if not copy.kept:
        raise FerryError("Nothing is captured yet, so there is nothing to copy.", f"Survey the {side.name} site first.")
    fresh = out.with_name(f".{out.name}.{os.getpid()}")
    try:
        files = copy.write(fresh, step)
        os.replace(fresh, out)
    finally:
        fresh.unlink(missing_ok=True)
    return {"files": files, "unresolved": len(copy.unresolved)}


def folder() -> Path:
    """Where finished copies lie until the next one of the same crossing."""
    made = bodies.temporary().parent / "copies"
    made.mkdir(exist_ok=True)
    return made


def copy_name(base: str, side: Side) -> str:
    """The name of the file that holds the copy of a side."""
    return f"{base}-{side.name}-{side.crossing}.zip"


def run(context: Context) -> dict[str, Any]:
    """The job that makes an offline copy; its result names the file."""
    side = context.side
    name = copy_name(file_name(crossings.crossing(side.crossing).name), side)
    total = captures.count(side)
    made = write_copy(side, folder() / name, lambda n: context.progress(done=n, all=total))
    return {"file": name, **made}
