"""What a person altered in the files of a crossing's folder, looked at, and taken in as what is set by hand.

Only the blocks and fields that were altered are set, all of them as one change that can be taken back.
"""

from __future__ import annotations

import json
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any, NamedTuple

from grandferry.core.errors import FerryError
from grandferry.core.kinds import KindPlan
from grandferry.core.land.back import FORMS, Difference, Why, differences
from grandferry.core.land.going import Going
from grandferry.core.mapping import Mapped, mapped
from grandferry.core.plan import Edit, LandSettings, Plan
from grandferry.core.route.places import Item
from grandferry.ports.targets.base import identity
from grandferry.ports.targets.folder import Entry, hash_of, read_ledger, take_as_known
from grandferry.ports.targets.known import TARGETS, Opening
from grandferry.store import changes, crossings, edits, jobs
from grandferry.store.db import now

from .back_addresses import OldAddresses
from .back_bodies import Bodies, words_of
from .back_values import value_of
from .content import Contents
from .places import folder_of

SAID = 240  # characters of a text that are shown
BEFORE = 6  # words before the first that differs


@dataclass(slots=True)
class Found:
    """One thing that a file says otherwise: ``name`` of our field, or the file's own key; ``block`` of a body, "" for
    all of it; what was there and what is, as a person reads it. What cannot be taken in has a ``why`` (``about`` what,
    by names); ``newer``: the crossing has changed since the file was written, so this may be older than what it has."""

    file: str
    key: str
    kind: str
    title: str
    newer: bool
    name: str = ""
    ours: str = ""
    theirs: str = ""
    block: str = ""
    why: Why | None = None
    about: list[str] = field(default_factory=list)
    sets: list[Edit] = field(default_factory=list)
    drops: list[edits.Key] = field(default_factory=list)


@dataclass(slots=True)
class Looked:
    """``altered``: how many files stand there otherwise than they were written; ``same``: those of them that say the
    same; ``gone``: files that are there no more; ``faults``: (file, why it cannot be read)."""

    place: str
    altered: int = 0
    found: list[Found] = field(default_factory=list)
    same: list[str] = field(default_factory=list)
    gone: list[str] = field(default_factory=list)
    faults: list[tuple[str, str]] = field(default_factory=list)


class Taken(NamedTuple):
    """``taken``: how many differences were taken in, of how many ``items``; ``left``: differences that were not;
    ``revision`` of the plan after it."""

    taken: int
    items: int
    left: int
    revision: int


class _File(NamedTuple):
    entry: Entry
    text: str


def look(crossing: int, out: Path | None = None, target: LandSettings | None = None) -> Looked:
    """What was altered in the files of items. ``out`` and ``target``: another folder and form than the plan's. Raises
    FerryError where files of the form are not read back, or nothing has landed there."""
    plan = crossings.load_plan(crossing)
    settings = target or plan.land
    if settings is None or not settings.in_folder:
        raise FerryError("The target is no folder, so nothing can be read back from it.", "Choose one under Target.")
    if settings.target not in FORMS:
        raise FerryError("Feeds are not read back.", f"Folders of these are: {', '.join(FORMS)}.")
    place = out or folder_of(plan)
    entries = read_ledger(place)
    if not entries:
        raise FerryError(f"Nothing has landed in {place} yet, so nothing was altered there.")
    looked = Looked(str(place))
    files = _files(place, entries, plan, looked) | _lines(place, entries, looked)
    if files:
        _compare(crossing, plan.model_copy(update={"land": settings}), settings, place, files, looked)
    return looked


def _files(place: Path, entries: Sequence[Entry], plan: Plan, looked: Looked) -> dict[str, _File]:
    """The files of items that are not as they were written, by the items' keys."""
    found: dict[str, _File] = {}
    for entry in entries:
        if not entry.key or entry.id != identity(plan.name, "item", entry.key):
            continue
        text = _text(place, entry.file, looked)
        if text is not None and hash_of(text) != entry.sha256:
            looked.altered += 1
            found[entry.key] = _File(entry, text)
    return found


def _lines(place: Path, entries: Sequence[Entry], looked: Looked) -> dict[str, _File]:
    """The lines of items that are not as they were written, where many stand in one file."""
    found: dict[str, _File] = {}
    by_file: dict[str, dict[str, Entry]] = {}
    wholes = {entry.file: entry.sha256 for entry in entries if entry.id.startswith("lines:")}
    for entry in entries:
        if entry.id.startswith("line:"):
            by_file.setdefault(entry.file, {})[entry.key] = entry
    for name, known in by_file.items():
        text = _text(place, name, looked)
        if text is None or hash_of(text) == wholes.get(name):
            continue
        looked.altered += 1
        for number, line in enumerate(text.split("\n"), 1):  # other ends of lines may stand within a text
            if not line.strip():
                continue
            try:
                said = json.loads(line)
            except ValueError as problem:
                looked.faults.append((name, f"Line {number} is no JSON: {problem}."))
                continue
            key = said.get("old") if isinstance(said, dict) else None
            if not isinstance(key, str) or key not in known:
                looked.faults.append((name, f"Line {number} is of no item that was written there."))
            elif hash_of(line) != known[key].sha256:
                found[key] = _File(known[key], line)
    return found


def _text(place: Path, name: str, looked: Looked) -> str | None:
    try:
        if not (place / name).resolve().is_relative_to(place.resolve()):
            looked.faults.append((name, "It lies outside of the folder."))
            return None
        return (place / name).read_bytes().decode("utf-8", "surrogatepass")
    except FileNotFoundError:
        looked.gone.append(name)
    except OSError as problem:
        looked.faults.append((name, f"It cannot be read: {problem.strerror}."))
    except UnicodeDecodeError:
        looked.faults.append((name, "It is no text in UTF-8."))
    return None


def _compare(
    crossing: int, plan: Plan, settings: LandSettings, place: Path, files: Mapping[str, _File], looked: Looked
) -> None:
    profile = settings.as_markdown
    choices = profile.choices(plan.refit.choices)
    contents = Contents(crossing, plan, every=True, keys=files)
    target = TARGETS[settings.target](Opening(settings, place, False, plan.refit.choices))
    old = OldAddresses(crossing, plan)
    bodies = Bodies(crossing, plan, contents, old)
    dates = profile.dates if settings.target == "markdown" else ""
    seen = set()
    for item, kind, had in contents:
        seen.add(item.key)
        entry, text = files[item.key]
        rules = plan.mappings.get(kind.name, [])
        going = Going(item.key, item.new_path, item.title, kind, mapped(rules, had)[0])
        made = target.item(going)
        about = Found(
            entry.file, item.key, kind.name, item.title, hash_of(made.get("text") or made["line"]) != entry.sha256
        )
        found: list[Found] = []
        try:
            for one in differences(going, text, settings.target, profile, choices):
                name, why = (one.key, one.why) if one.why is not None else _of_ours(one.field, kind, rules)
                here = replace(about, name=name, ours=_said(one.ours), theirs=_said(one.theirs), why=why)
                if why is not None:
                    found.append(here)
                elif one.way is not None:
                    found += _blocks(here, item, name, one, bodies)
                else:
                    found += _value(here, item, kind, one, crossing, old, dates)
        except FerryError as problem:
            looked.faults.append((entry.file, str(problem)))
            continue
        looked.found += found
        if not found:
            looked.same.append(entry.file)
    looked.faults += [
        (files[key].entry.file, f"Its item ({key}) is no more of the crossing.") for key in sorted(files.keys() - seen)
    ]


def _of_ours(name: str, kind: KindPlan, rules: Sequence[Mapped]) -> tuple[str, Why | None]:
    """Our field behind one of the target's, or why there is none."""
    rule = next((rule for rule in rules if rule.to == name), None)
    if rule is not None:
        whole = rule.sources[0] if len(rule.sources) == 1 and rule.type == "same" else ""
        return (whole, None) if whole else (name, Why.SEVERAL)
    return name, None if any(one.name == name for one in kind.fields) else Why.NO_FIELD


def _blocks(about: Found, item: Item, name: str, one: Difference, bodies: Bodies) -> Iterator[Found]:
    assert one.way is not None
    for block in bodies.altered(item.id, item.key, name, one.ours, one.theirs, one.way):
        ours, theirs = where_they_differ(words_of(block.ours), words_of(block.theirs))
        yield replace(
            about,
            block=block.block,
            ours=ours,
            theirs=theirs,
            why=Why.NO_MARK if block.lost else None,
            about=block.lost,
            sets=block.sets,
            drops=block.drops,
        )


def _value(
    about: Found, item: Item, kind: KindPlan, one: Difference, crossing: int, old: OldAddresses, dates: str
) -> Iterator[Found]:
    wanted = next(field for field in kind.fields if field.name == about.name)
    had = item.fields.get(wanted.name)
    value, odd = value_of(one.theirs, wanted, had, old, dates)
    if odd:
        yield replace(about, why=Why.VALUE, about=[odd])
    elif value != had:
        over = edits.lies_over(crossing, item.key, wanted.name)
        yield replace(about, sets=[Edit(old=item.key, field=wanted.name, value=value, over=over, block="")])


def where_they_differ(ours: str, theirs: str) -> tuple[str, str]:
    """Two texts from a little before the first word that is another, each no longer than is shown."""
    mine, other = ours.split(), theirs.split()
    same = next((at for at, (a, b) in enumerate(zip(mine, other, strict=False)) if a != b), min(len(mine), len(other)))
    start = same - BEFORE if same > BEFORE + 2 else 0
    cut = [f"{'… ' if start else ''}{' '.join(words[start:])}" for words in (mine, other)]
    made = [text if len(text) <= SAID else f"{text[:SAID].rpartition(' ')[0] or text[:SAID]} …" for text in cut]
    return made[0], made[1]


def _said(value: Any) -> str:
    text = value if isinstance(value, str) else "" if value is None else json.dumps(value, ensure_ascii=False)
    return " ".join(text.split())[:SAID]


def take_in(
    crossing: int,
    by: str,
    looked: Looked,
    keys: Collection[str] = (),
) -> Taken:
    """Take in of what was ``looked`` at what can be taken: of all items that have not changed here since their files
    were written, or of those that are named. Files of which all was taken are known from then on: the next landing
    writes them as the crossing has them. Raises FerryError while a landing runs."""
    if jobs.is_running(crossing, "land"):
        raise FerryError("A landing runs.", "Wait until it has ended.")
    wanted = [one for one in looked.found if one.why is None and (one.key in keys if keys else not one.newer)]
    at = now()
    sets = [edit.model_copy(update={"by": by, "at": at}) for one in wanted for edit in one.sets]
    drops = [key for one in wanted for key in one.drops]
    revision = changes.revision(crossing)
    if sets or drops:
        revision = changes.change_edits(crossing, sets, drops, by, f"read back from {Path(looked.place).name}")
    taken = {id(one) for one in wanted}
    left = {one.file for one in looked.found if id(one) not in taken} | {name for name, _ in looked.faults}
    take_as_known(Path(looked.place), ({one.file for one in wanted} | set(looked.same)) - left)
    return Taken(len(wanted), len({one.key for one in wanted}), len(looked.found) - len(wanted), revision)
