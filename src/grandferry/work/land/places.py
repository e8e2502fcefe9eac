"""Where a crossing's folder lies, what an item would be in it, and the folder as an archive."""

from __future__ import annotations

import tempfile
import zipfile
from collections.abc import Iterable, Iterator
from enum import StrEnum
from pathlib import Path
from typing import Any, NamedTuple

from grandferry.core.errors import FerryError, NotThere
from grandferry.core.kinds import KindPlan
from grandferry.core.land.going import Going
from grandferry.core.mapping import Blocks, mapped
from grandferry.core.plan import LandSettings, Plan
from grandferry.core.refit.blocks import Embed, Form, Picture, walk
from grandferry.core.refit.forms import mark_of
from grandferry.ports.targets.folder import check_folder, read_ledger
from grandferry.ports.targets.known import TARGETS, Opening
from grandferry.store import crossings
from grandferry.store.db import workspace_folder
from grandferry.work.names import file_name

from .content import Contents

LANDED = "landed"  # the workspace's folder of folders


def folder_of(plan: Plan) -> Path:
    """Where a crossing's folder lies when nobody says otherwise: below those of the workspace."""
    named = plan.land.folder if plan.land is not None else ""
    return workspace_folder() / LANDED / (named or file_name(plan.name))


def check_out(place: Path) -> None:
    """Raise TargetError when a folder to land in holds something else than what was written there before."""
    check_folder(place)


def _settings(plan: Plan) -> LandSettings:
    if plan.land is None or not plan.land.in_folder:
        raise FerryError("The target is no folder.", "Choose one under Target.")
    return plan.land


class Lack(StrEnum):
    """What an item lacks as it would go over; each with what it is said of."""

    ADDRESS = "address"  # it has none; nothing
    FIELD = "field"  # a required one is empty; its name
    VALUE = "value"  # one stays away; its name
    TEMPLATE = "template"  # its kind names none; the kind
    LINK = "link"  # it leads to, or shows, what does not go over; the old key
    TEXT = "text"  # a picture has none; its address
    FORM = "form"  # one is to be wired up; where it posted
    FILM = "film"  # one has no picture; its address


class Shown(NamedTuple):
    """The file that an item would be: its name and its text, and what it lacks."""

    file: str
    text: str
    lacks: list[tuple[Lack, str]]


def file_of_item(crossing: int, key: str) -> Shown:
    """What would be written of one item. Raises NotThere for a key that no item has."""
    plan = crossings.load_plan(crossing)
    settings = _settings(plan)
    contents = Contents(crossing, plan, every=True, keys=[key])
    for item, kind, had in contents:
        fields, misfits = mapped(plan.mappings.get(kind.name, []), had)
        opening = Opening(settings, folder_of(plan), False, plan.refit.choices)
        made = TARGETS[settings.target](opening).item(Going(item.key, item.new_path, item.title, kind, fields))
        lacks = [(Lack.ADDRESS, "")] if not item.new_path else []
        lacks += [(Lack.FIELD, one.name) for one in kind.fields if one.required and had[one.name] in (None, "", [])]
        lacks += [(Lack.VALUE, name) for name in misfits]
        if kind.name in without_template(plan, [kind]):
            lacks.append((Lack.TEMPLATE, kind.name))
        lacks += [(Lack.LINK, target) for _, target in sorted(contents.rewriter.missed_on)]
        lacks += _in_bodies(plan, fields.values())
        return Shown(made["file"], made.get("text") or made["line"], lacks)
    raise NotThere(f"There is no item {key} in this crossing.")


def _in_bodies(plan: Plan, values: Iterable[Any]) -> Iterator[tuple[Lack, str]]:
    """What the pictures, forms and films in bodies lack."""
    said = {one.form for one in plan.refit.forms}
    for value in values:
        for thing in walk(value.blocks) if isinstance(value, Blocks) else ():
            if isinstance(thing, Picture) and not thing.alt:
                yield Lack.TEXT, thing.src
            elif isinstance(thing, Form) and mark_of(thing) not in said:
                yield Lack.FORM, thing.action
            elif isinstance(thing, Embed) and thing.without_picture:
                yield Lack.FILM, thing.src


def without_template(plan: Plan, kinds: Iterable[KindPlan]) -> list[str]:
    """Of kinds those for whose items the plan names no template, where the target has one for each item."""
    profile = plan.land.as_markdown if plan.land is not None and plan.land.target == "markdown" else None
    if profile is None or not profile.template or profile.template in profile.always:
        return []
    return [kind.name for kind in kinds if kind.makes_items and kind.name not in profile.templates]


class Landed(NamedTuple):
    """A folder: where it lies, how many files of the crossing are in it, and why it cannot be read."""

    place: str
    files: int
    fault: str


def landed(crossing: int) -> Landed:
    plan = crossings.load_plan(crossing)
    _settings(plan)
    place = folder_of(plan)
    try:
        files = {entry.file for entry in read_ledger(place)}
    except FerryError as problem:
        return Landed(str(place), 0, str(problem))
    return Landed(str(place), len(files), "")


def packed(crossing: int) -> Path:
    """The folder as a zip, in a temporary file. Raises NotThere when nothing has landed in it."""
    plan = crossings.load_plan(crossing)
    _settings(plan)
    place = folder_of(plan)
    if not place.is_dir():
        raise NotThere("Nothing has landed in the folder yet.")
    with tempfile.NamedTemporaryFile(prefix="grandferry-", suffix=".zip", delete=False) as out:
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
            for file in sorted(place.rglob("*")):
                if file.is_file() and not file.is_symlink():
                    archive.write(file, file.relative_to(place))
        return Path(out.name)
