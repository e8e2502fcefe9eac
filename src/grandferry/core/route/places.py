"""Where items and files go: a new path for each, or why it gets none."""

from __future__ import annotations

import posixpath
from collections.abc import Iterable, Mapping, Sequence
from functools import reduce
from typing import Any, NamedTuple
from urllib.parse import quote, unquote

from ..because import Why, because
from ..filetypes import family_of_type, is_machinery
from ..media.remake import Becomes, becomes, with_ending
from ..media.said import FileSaid, of_bodies
from ..patterns import compile_pattern
from ..plan import Plan
from ..records.record import RECORD
from ..survey.scope import scope_of
from .slug import ReadyPath, Unfilled, distinct, fill, old_path, parts_of, slug


class Item(NamedTuple):
    """An item as it stands, with the values of its fields that count."""

    id: int
    kind: str
    key: str
    title: str
    new_path: str
    note: str
    fields: dict[str, Any]


class Place(NamedTuple):
    """Where an item goes: its title, its new path ("" when it gets none), and a note: why it gets none, or why it is
    not the one wanted."""

    title: str
    path: str
    note: str
    item: int


FOLLOWING = "{item}/{name}"  # where files go that follow their page


class CapturedFile(NamedTuple):
    """A captured file of the old side: ``body`` is a hash in the body store, ``alt`` one of its alt texts, ``page`` the
    old key of the first page that shows it or leads to it; ``sort`` its type by its content ("" when nobody has looked
    at it), with its pixels."""

    address: int
    url: str
    key: str
    host: str
    body: str
    mime: str
    bytes: int
    alt: str
    page: str = ""
    sort: str = ""
    width: int = 0
    height: int = 0


class PlacedFile(NamedTuple):
    """A file by its content, where it goes and what becomes of it (``reason`` as ``core.because`` keeps it)."""

    body: str
    name: str
    mime: str
    bytes: int
    new_path: str
    alt: str
    fate: str
    reason: str


def new_addresses(
    plan: Plan,
    items: Iterable[Item],
    taken: set[str],
    addressed: Mapping[str, str] | None = None,
    above: Mapping[str, Sequence[str]] | None = None,
) -> list[Place]:
    """A place for every item, in order of their old keys, each path used once; none for an item whose kind is gone,
    names no pattern, or whose pattern cannot be filled, with the reason. ``addressed``: the old keys of items of
    records; ``above``: old keys -> the labels of the menu above them."""
    kinds = {kind.name: kind for kind in plan.every_kind}
    made = []
    for item in items:
        kind = kinds.get(item.kind)
        if kind is None:
            made.append(Place(item.title, "", because(Why.NO_KIND, item.kind), item.id))
            continue
        fields = item.fields
        title = str(fields.get("title") or fields.get(kind.slug_from) or "")
        path, note = "", ""
        if kind.address:
            style = kind.slugs
            readable = slug(str(fields.get("slug") or fields.get(kind.slug_from) or ""), style)
            readable = readable or slug(_tail(item.key), style)
            try:
                key = (addressed or {}).get(item.key, item.key)
                menu = (above or {}).get(key.partition("#")[0])
                entries = ReadyPath("/".join(filter(None, (slug(label, style) for label in menu or ()))))
                wanted = fill(kind.address, {**_paths(key), "menu": entries, **fields, "slug": readable}, style)
                path = distinct(wanted, taken)
                if path != wanted:
                    note = because(Why.TAKEN, wanted)
                elif menu is None and asks_menu(kind.address):
                    note = because(Why.NO_MENU)
                taken.add(path)
            except Unfilled as problem:
                note = problem.because
        else:
            note = because(Why.NO_PATTERN)
        made.append(Place(title, path, note, item.id))
    return made


def asks_menu(pattern: str | None) -> bool:
    """Whether a pattern has parts of the menu in it."""
    return "menu" in parts_of(pattern or "")


def _paths(key: str) -> dict[str, ReadyPath]:
    """What the old path of an item gives to a pattern; nothing for a record, which has none."""
    if key.startswith(RECORD):
        return {}
    path = readable_path(key)
    return {"path": path, "folder": ReadyPath(path.rstrip("/").rpartition("/")[0])}


def readable_path(key: str) -> ReadyPath:
    """The old path of an item; of a section of a page that of the page, and what marks the section below it."""
    page, _, mark = key.partition("#")
    path = old_path(page)
    return ReadyPath(f"{path.rstrip('/')}/{slug(mark)}".lstrip("/")) if mark else path


def _tail(key: str) -> str:
    if "#" in key:
        return key.partition("#")[2]
    path = unquote(key.partition("?")[0]).rstrip("/")
    return path.rpartition("/")[2].partition(".")[0] + " " + key.partition("?")[2]


def place_files(
    plan: Plan,
    captured: list[CapturedFile],
    taken: set[str],
    items: Mapping[str, str] | None = None,
    said: Mapping[str, FileSaid] | None = None,
) -> tuple[list[PlacedFile], list[tuple[str, int]]]:
    """Files by content with their new paths, and which addresses are their sources. Styles, scripts and feeds
    belong to the old site's looks and machinery and are set aside, as are those of families that do not go over. Where
    the plan does not say where files go, they go along with the item of the page that they stand on.
    ``items``: the new paths of items by their old keys; ``said``: what a person says of files, by their addresses."""
    asides = _asides(plan, captured)
    theirs = said_of_bodies(captured, said or {})
    by_body: dict[str, PlacedFile] = {}
    sources = []
    for file in captured:
        body = file.body
        sources.append((body, file.address))
        if body in by_body:
            continue
        mine = theirs.get(body, _NOTHING)
        into = remaking(plan, file, mine)
        mime = into.mime if into is not None else file.mime
        name, old = _names(file, mine, mime if into is not None else "")
        made = PlacedFile(body, name, mime, file.bytes, "", mine.alt or file.alt, "set aside", "")
        if mine.aside:
            by_body[body] = made._replace(reason=because(Why.SAID, mine.aside))
        elif body in asides:
            by_body[body] = made._replace(reason=asides[body])
        elif (family := family_of_type(mime)) in plan.leave_out:
            by_body[body] = made._replace(reason=because(Why.FAMILY, family))
        elif is_machinery(file.mime, file.key):
            by_body[body] = made._replace(reason=because(Why.MACHINERY))
        elif plan.route.files is None and file.page not in (items or {}):
            by_body[body] = made._replace(fate="unaccounted")
        else:
            parts = {
                "{name}": quote(name, safe="-._~"),
                "{path}": quote(old, safe="/-._~"),
                "{text}": quote(_called(made.alt, name), safe="-._~"),
                "{family}": family,
                "{item}": (items or {}).get(file.page, "").rstrip("/"),
            }
            pattern = plan.route.files or FOLLOWING
            path = distinct(reduce(lambda made, part: made.replace(*part), parts.items(), pattern), taken)
            taken.add(path)
            why = "" if plan.route.files else because(Why.FOLLOWS, file.page)
            by_body[body] = made._replace(new_path=path, fate="unaccounted", reason=why)
    return list(by_body.values()), sources


_NOTHING = FileSaid(file="/")


def said_of_bodies(captured: Iterable[CapturedFile], said: Mapping[str, FileSaid]) -> dict[str, FileSaid]:
    """What is said of files by their content."""
    addresses: dict[str, list[str]] = {}
    for file in captured:
        addresses.setdefault(file.body, []).append(file.url)
    return of_bodies(addresses, said)


def remaking(plan: Plan, file: CapturedFile, mine: FileSaid) -> Becomes | None:
    """What a picture is made into on its way; None for what goes over as it is."""
    return None if mine.same else becomes(plan.media.remake, file.sort, file.width, file.height)


def _names(file: CapturedFile, mine: FileSaid, mime: str) -> tuple[str, str]:
    """(name, path as it was) of a file with the name a person gave it, and the ending of the type it becomes."""
    old = unquote(file.key.partition("?")[0]).lstrip("/")
    name = _file_name(file.key)
    if mine.name:
        ending = name.rpartition(".")[2] if "." in name else ""
        name = mine.name if "." in mine.name or not ending else f"{mine.name}.{ending}"
        folder, slash, _ = old.rpartition("/")
        old = f"{folder}{slash}{name}"
    if mime:
        return with_ending(name, mime), with_ending(old, mime) if old else with_ending(name, mime)
    return name, old or name


def _called(text: str, name: str) -> str:
    """A name made of a text, with the ending of another; that one where the text makes none."""
    stem, dot, ending = name.rpartition(".")
    made = slug(text)
    return (f"{made}{dot}{ending}" if dot and stem else made) if made else name


def _asides(plan: Plan, captured: list[CapturedFile]) -> dict[str, str]:
    """Files (by body) of which every address on the old host is set aside by the plan -> why."""
    hosts = scope_of(plan.side("old")).hosts
    reasons: dict[str, str] = {}
    kept = set()
    for _, _, key, host, body, *_ in captured:
        reason = next((a.reason for a in plan.route.aside if compile_pattern(a.address).fullmatch(key)), "")
        if host in hosts and reason:
            reasons[body] = because(Why.SAID, reason)
        else:
            kept.add(body)
    return {body: reason for body, reason in reasons.items() if body not in kept}


def _file_name(key: str) -> str:
    """A safe, readable file name from an old key: lower case, no blanks, its ending kept."""
    tail = posixpath.basename(unquote(key.partition("?")[0])) or "file"
    stem, dot, ending = tail.rpartition(".")
    if not dot:
        stem, ending = tail, ""
    return (slug(stem) or "file") + (f".{ending.lower()}" if ending else "")
