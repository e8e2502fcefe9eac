"""A crossing's plan as one file, and parts of such a file taken over into another crossing."""

from __future__ import annotations

import io
import tempfile
import zipfile
from pathlib import Path

from grandferry.core.errors import FerryError
from grandferry.core.plan import Plan
from grandferry.ports.planfolder import PlanFolder, read_plan, write_plan
from grandferry.store import changes, crossings, edits, said

# what can be taken over by itself: its name, what it holds in words, and the plan's parts
PARTS: dict[str, tuple[str, tuple[str, ...]]] = {
    "bounds": ("bounds and manners of the survey", ("survey", "manners")),
    "kinds": ("kinds with their fields", ("kinds",)),
    "steps": ("clean-up steps", ("refit",)),
    "rules": ("rules of the redirect map", ("route", "leave_out")),
    "target": ("what the new system calls things", ("land",)),
    "pairs": ("pairs", ()),
    "edits": ("what was set by hand", ()),
    "media": ("roles of files, and how pictures are made anew", ("media",)),
    "files": ("what was said of files", ()),
}
MOST = 64_000_000


def plan_folder(crossing: int) -> PlanFolder:
    """All that a person decided in a crossing, as a plan folder holds it."""
    plan, pairs = crossings.load_plan(crossing), crossings.load_pairs(crossing)
    return PlanFolder(plan, pairs, edits.edits(crossing), files=said.every(crossing))


def packed(crossing: int) -> bytes:
    """The plan folder as a zip: plan.yaml, pairs.csv, media.csv and edits.jsonl; the same plan gives the same bytes.
    Access is never in it."""
    out = io.BytesIO()
    with tempfile.TemporaryDirectory() as temporary:
        folder = Path(temporary) / "plan"
        write_plan(folder, plan_folder(crossing))
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
            for path in sorted(folder.iterdir()):
                entry = zipfile.ZipInfo(path.name, (1980, 1, 1, 0, 0, 0))
                entry.compress_type = zipfile.ZIP_DEFLATED
                archive.writestr(entry, path.read_bytes())
    return out.getvalue()


def unpacked(content: bytes) -> PlanFolder:
    """A plan from a zip of its folder, or from plan.yaml alone. Raises PlanError naming file, line and reason."""
    with tempfile.TemporaryDirectory() as temporary:
        path = Path(temporary) / "plan.zip"
        path.write_bytes(content)
        if not zipfile.is_zipfile(path):
            path = Path(temporary) / "plan"
            path.mkdir()
            (path / "plan.yaml").write_bytes(content)
        return read_plan(path)


def take_parts(crossing: int, content: bytes, parts: list[str], by: str) -> str:
    """Set these parts of the plan to those of a file, as one change that can be taken back; gives it in words. Hosts,
    leave and logs stay this crossing's own. Raises FerryError, PlanError."""
    unknown = [part for part in parts if part not in PARTS]
    if unknown or not parts:
        raise FerryError(f"“{unknown[0]}” is no part of a plan." if unknown else "No part is chosen.")
    given = unpacked(content)
    known = changes.revision(crossing)
    plan = crossings.load_plan(crossing)
    data, theirs = plan.model_dump(mode="json"), given.plan.model_dump(mode="json")
    for part in parts:
        for name in PARTS[part][1]:
            data[name] = theirs[name]
    # lists that lie beside a plan, and single addresses, belong to one site alone
    data["survey"] |= {"logs": plan.survey.logs, "admit": plan.survey.admit}
    if "target" in parts and given.plan.land is not None and plan.interim:
        data["land"]["base"] = plan.interim
    lines = given.pairs if "pairs" in parts else []
    drop = [pair.old for pair in crossings.load_pairs(crossing)] if "pairs" in parts else []
    text = f"{', '.join(PARTS[part][0] for part in parts)} of {given.plan.name} taken over"
    by_hand = given.edits if "edits" in parts else []
    if "rules" in parts:  # what the owner of that site was asked is nothing to this one
        data["route"]["questions"] = [question.model_dump(mode="json") for question in plan.route.questions]
    changed = Plan.model_validate(data)
    files = given.files if "files" in parts else []
    changes.change_all(crossing, changed, known, list(lines), drop, by, text[:300], by_hand, files)
    return text
