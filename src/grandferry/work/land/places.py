"""Where a crossing's folder lies, what an item would be in it, and the folder as an archive."""

from __future__ import annotations

import tempfile
import zipfile
from pathlib import Path
from typing import NamedTuple

from grandferry.core.errors import FerryError, NotThere
from grandferry.core.land.going import Going
from grandferry.core.mapping import mapped
from grandferry.core.plan import LandSettings, Plan
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


class Shown(NamedTuple):
    """The file that an item would be: its name and its text."""

    file: str
    text: str


def file_of_item(crossing: int, key: str) -> Shown:
    """What would be written of one item. Raises NotThere for a key that no item has."""
    plan = crossings.load_plan(crossing)
    settings = _settings(plan)
    for item, kind, fields in Contents(crossing, plan, every=True, key=key):
        fields, _ = mapped(plan.mappings.get(kind.name, []), fields)
        opening = Opening(settings, folder_of(plan), False, plan.refit.choices)
        made = TARGETS[settings.target](opening).item(Going(item.key, item.new_path, item.title, kind, fields))
        return Shown(made["file"], made.get("text") or made["line"])
    raise NotThere(f"There is no item {key} in this crossing.")


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
