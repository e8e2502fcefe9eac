"""``grandferry refit``: one page, or every page of a folder, through the converter."""

from __future__ import annotations

import json
import sys
from collections import Counter
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Annotated, Any

import typer

from grandferry.core.address import fragment_of, normal
from grandferry.core.encoding import decode
from grandferry.core.errors import FerryError, UnreadablePage
from grandferry.core.filetypes import PAGE_ENDINGS, ending_of
from grandferry.core.page import check_selector, open_page
from grandferry.core.refit.convert import refit_html
from grandferry.core.refit.page import linker
from grandferry.core.refit.write import WRITERS, write_markdown
from grandferry.core.refit.written import Differs, html_read_back, read_back
from grandferry.work.jobs.child import PageGarbage

from .common import DONE, OPEN, guarded, print_json, progress, say

PAGE_CAP = 32_000_000  # bytes; a larger file is no page, and its tree would fill the memory


def _convert(
    body: bytes, to: str, region: str, base: str, aimed: Mapping[str, int] | None = None
) -> tuple[str, dict[str, Any]]:
    """The text of a page, and its account with what the writing lost or added."""
    if len(body) > PAGE_CAP:
        raise UnreadablePage(f"The page is larger than the cap of {PAGE_CAP / 1e6:.0f} MB.")
    decoded = decode(body)
    done = refit_html(decoded.text, region=region, link=linker(base), aimed=aimed)
    said: dict[str, Any] = {"masked": done.masked, "encoding_doubtful": decoded.doubtful}
    said["tables_in_doubt"] = len(done.doubts)
    differs: list[Differs] = []
    if to == "markdown":
        written = write_markdown(done.blocks)
        text, said["raw_html_words"] = written.text, written.raw_words
        said["left_out"] = {odd.value: number for odd, number in written.left_out.items()}
        differs = read_back(done.blocks, text)
    else:
        text = WRITERS[to][1](done.blocks)
        differs = html_read_back(done.blocks, text) if to == "html" else []
    said["written"] = [row._asdict() | {"said": list(row.said)} for row in differs]
    return text, {**done.account.as_json(), **said}


_OWN = "http://folder.invalid/"  # stands for the address of a folder that has none


def _aims(pages: list[Path], folder: Path, base: str) -> dict[str, dict[str, int]]:
    """The places that links of a folder's pages lead to: address of a page -> fragment -> how many."""
    found: dict[str, Counter[str]] = {}
    for page in pages:
        own = (base.rstrip("/") + "/" if base else _OWN) + page.relative_to(folder).as_posix()
        try:
            tree = open_page(decode(_bytes(page)).text)
        except FerryError:  # it is told when it is converted
            continue
        for node in tree.css("a[href*='#'],area[href*='#']"):
            href = (node.attributes.get("href") or "").strip()
            fragment, address = fragment_of(href), normal(href, own)
            if fragment and address is not None:
                found.setdefault(str(address), Counter())[fragment] += 1
    return {address: dict(counts) for address, counts in found.items()}


@guarded
def command(
    source: Annotated[
        str, typer.Argument(metavar="[FILE|FOLDER|-]", help="a page, a folder of pages, or - for standard input")
    ] = "-",
    to: Annotated[str, typer.Option(help=f"one of: {', '.join(WRITERS)}")] = "markdown",
    out: Annotated[Path | None, typer.Option(help="folder for the results (else beside each page, or stdout)")] = None,
    base: Annotated[str, typer.Option(help="the page's own address, to make its links absolute")] = "",
    region: Annotated[str, typer.Option(help="CSS selector of the content, or auto; else the whole body")] = "",
    losses: Annotated[Path | None, typer.Option(help="write the loss account here as JSON")] = None,
    as_json: Annotated[
        bool, typer.Option("--json", help="machine-readable result on stdout, texts in it unless written to files")
    ] = False,
) -> None:
    """Convert HTML to Markdown, clean HTML, blocks or text, with an account of every word."""
    if to not in WRITERS:
        raise FerryError(f"“{to}” is not a form this converter writes.", f"One of: {', '.join(WRITERS)}.")
    if region and region != "auto":
        check_selector(region)
    if base and normal(base) is None:
        raise FerryError(f"“{base}” is not an address.", "Give one such as https://www.example.test/page.htm.")
    accounts: dict[str, Any] = {}
    given: dict[str, Any] = {}
    failed = 0

    def give(name: str, text: str, target: Path | None) -> None:
        if target is not None:
            _write(target, text)
            given[name] = {"written": str(target)}
        elif as_json:
            given[name] = {"text": text}
        else:
            sys.stdout.write(text)

    path = Path(source)
    if source != "-" and path.is_dir():
        failed = _folder(path, to, region, base, out, accounts, give)
    elif source == "-" or path.is_file():
        name = "-" if source == "-" else path.name
        body = sys.stdin.buffer.read(PAGE_CAP + 1) if source == "-" else _bytes(path)
        try:
            text, accounts[name] = _convert(body, to, region, base)
            give(name, text, out / ((path.stem if source != "-" else "page") + WRITERS[to][0]) if out else None)
        except UnreadablePage as problem:
            failed = 1
            say(f"{name}: {problem}")
    else:
        raise FerryError(f"{source} is not there.", "Give a file, a folder, or - for standard input.")
    if losses is not None:
        _write(losses, json.dumps(accounts, ensure_ascii=False, indent=1) + "\n")
    lost = sum(a["unaccounted"] for a in accounts.values())
    if len(accounts) != 1 or lost:
        have = sum(a["words"][0] for a in accounts.values())
        say(f"{len(accounts):,} pages, {have:,} words, {lost:,} unaccounted, {failed:,} pages not read.")
    if differing := sum(bool(a["written"]) for a in accounts.values()):
        say(f"What was written, read back, differs from what was read on {differing:,} pages (see --losses).")
    if doubtful := [name for name, a in accounts.items() if a["encoding_doubtful"]]:
        say(f"The encoding is in doubt on {len(doubtful):,} pages, first {doubtful[0]}.")
    if masked := sum(a["masked"] for a in accounts.values()):
        say(f"Keys in the code of pages that are masked in what was written: {masked:,}.")
    if as_json:
        print_json({"pages": {name: {**accounts[name], **given[name]} for name in accounts}, "failed": failed})
    raise typer.Exit(OPEN if lost or failed else DONE)


def _bytes(path: Path) -> bytes:
    try:
        with path.open("rb") as handle:
            return handle.read(PAGE_CAP + 1)
    except OSError as problem:
        raise FerryError(f"{path} cannot be read: {problem.strerror}.") from None


def _folder(
    folder: Path,
    to: str,
    region: str,
    base: str,
    out: Path | None,
    accounts: dict[str, Any],
    give: Callable[[str, str, Path | None], None],
) -> int:
    """Every page below a folder; a page that cannot be read is said and passed over."""
    pages = sorted(p for p in folder.rglob("*") if ending_of(p.name) in PAGE_ENDINGS and p.is_file())
    if not pages:
        raise FerryError(
            f"{folder} holds no page (a file ending in {', '.join('.' + e for e in sorted(PAGE_ENDINGS))})."
        )
    failed = 0
    ending = WRITERS[to][0]
    aims = _aims(pages, folder, base)
    with progress() as watch, PageGarbage() as collect:
        for number, page in enumerate(pages, 1):
            name = page.relative_to(folder)
            own = base.rstrip("/") + "/" + name.as_posix() if base else ""
            try:
                here = str(normal(own or _OWN + name.as_posix()))
                text, account = _convert(_bytes(page), to, region, own, aims.get(here))
            except FerryError as problem:
                failed += 1
                say(f"{name}: {problem}")
                continue
            accounts[name.as_posix()] = account
            target = (out or folder) / name.with_suffix(ending)
            if target == page:  # HTML to HTML beside it must not overwrite the page
                target = page.with_suffix(".clean.html")
            give(name.as_posix(), text, target)
            collect()
            watch("refit", {"done": number, "all": len(pages), "failed": failed})
    return failed


def _write(target: Path, text: str) -> None:
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_text(text, "utf-8", newline="\n")
    except OSError as problem:
        raise FerryError(f"{target} cannot be written: {problem.strerror}.") from None
