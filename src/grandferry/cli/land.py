"""``grandferry land``: the content of a crossing delivered to a target."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

import typer
import yaml
from pydantic import ValidationError

from grandferry.core.errors import FerryError
from grandferry.core.land.back import reason
from grandferry.core.land.profile import PROFILES, Profile
from grandferry.core.plan import FOLDERS, TARGETS, LandSettings
from grandferry.store import crossings
from grandferry.store.workspace import close_workspace, open_workspace, ready_folder
from grandferry.work.jobs.supervisor import Supervisor

from .common import DONE, OPEN, AsJson, Data, default_data, guarded, print_json, progress, say

ProfileName = Annotated[
    str, typer.Option("--profile", help=f"how Markdown is written: {', '.join(PROFILES)}, or a YAML file of your own")
]


def profile_of(name: str) -> Profile | None:
    """A ready profile by its name, or one from a file; None for "". Raises FerryError."""
    if not name or name in PROFILES:
        return PROFILES.get(name)
    path = Path(name)
    hint = f"Ready ones are: {', '.join(PROFILES)}."
    try:
        return Profile.model_validate(yaml.safe_load(path.read_text("utf-8")))
    except OSError as problem:
        raise FerryError(f"The profile {name} cannot be read: {problem.strerror}.", hint) from None
    except (yaml.YAMLError, UnicodeDecodeError) as problem:
        raise FerryError(f"The profile {name} is no YAML: {' '.join(str(problem).split())}.", hint) from None
    except ValidationError as problem:
        first = problem.errors()[0]
        at = ".".join(map(str, first["loc"])) or "it"
        raise FerryError(f"The profile {name} cannot be used: {at}: {first['msg']}.", hint) from None


def wanted_target(target: str, profile: str, base: str = "", land: LandSettings | None = None) -> dict[str, Any]:
    """The settings to land with: those of a plan (``land``) but for what is said here. Raises FerryError."""
    if target not in TARGETS:
        raise FerryError(f"There is no target “{target}”.", f"One of: {', '.join(TARGETS)}.")
    if profile and target != "markdown":
        raise FerryError("A profile is for Markdown alone.", "Leave out --profile, or land as markdown.")
    said = land.model_dump(exclude_defaults=True) if land is not None else {}
    said |= {"target": target} | ({"base": base} if base else {})
    chosen = profile_of(profile)
    if chosen is not None:
        said["profile"] = chosen.model_dump()
    try:
        return LandSettings.model_validate(said).model_dump(mode="json")
    except ValidationError as problem:
        raise FerryError(f"It cannot be landed so: {problem.errors()[0]['msg']}.", "Name it with --base.") from None


@guarded
def command(
    plan: Annotated[Path | None, typer.Argument(help="a plan to run first, up to its addresses")] = None,
    target: Annotated[str, typer.Option(help=f"where to: {', '.join(TARGETS)}; without it where the plan says")] = "",
    out: Annotated[Path | None, typer.Option(help="the folder to land in")] = None,
    base: Annotated[str, typer.Option(help="the base address of a system to land at")] = "",
    profile: ProfileName = "",
    dry_run: Annotated[bool, typer.Option("--dry-run", help="only say what would be done")] = False,
    over: Annotated[bool, typer.Option("--over", help="write over what a person changed in the folder")] = False,
    take_back: Annotated[bool, typer.Option("--take-back", help="take away what was landed there")] = False,
    read_back: Annotated[
        bool, typer.Option("--read-back", help="take in what a person altered in the folder; with --dry-run only tell")
    ] = False,
    data: Data = None,
    crossing: Annotated[int | None, typer.Option(help="the number of the crossing, where there are several")] = None,
    as_json: AsJson = False,
) -> None:
    """Deliver files, items and redirects. Safe to repeat: only what is new or has changed is written."""
    folder = ready_folder(data or default_data())
    try:
        with Supervisor(folder, anew=True):
            open_workspace(folder)
            if read_back:
                result = _read_back(target, out, profile, dry_run, over, crossing)
            else:
                result = _work(plan, target, out, base, profile, dry_run, over, take_back, crossing)
    finally:
        close_workspace()
    if not read_back:
        tell_landed(result)
    if as_json:
        print_json(result)
    raise typer.Exit(OPEN if result.get("refused") or result.get("kept") or result.get("left") else DONE)


def _work(
    plan: Path | None,
    target: str,
    out: Path | None,
    base: str,
    profile: str,
    dry: bool,
    over: bool,
    take_back: bool,
    crossing: int | None,
) -> dict[str, Any]:
    from grandferry.work.jobs.running import run_job

    number = crossings.meant(crossing) if plan is None else _run_plan(plan)
    land = crossings.load_plan(number).land
    named = target or (land.target if land is not None else "")
    if not named:
        raise FerryError("The plan names no target to land at.", f"Name one with --target: {', '.join(TARGETS)}.")
    if out is not None and named not in FOLDERS:
        raise FerryError(f"{named} is no folder.", "Leave out --out, or name another target.")
    if base and named in FOLDERS:
        raise FerryError(f"{named} is a folder, and has no base address.", "Leave out --base, and name it with --out.")
    told: dict[str, Any] = {"dry": dry, "over": over, "take_back": take_back}
    if target or base or profile:
        told["target"] = wanted_target(named, profile, base, land)
    if out is not None:
        told["out"] = str(out.resolve())
    with progress() as watch:
        return run_job("land", number, told, watch)


def _read_back(
    target: str, out: Path | None, profile: str, dry: bool, over: bool, crossing: int | None
) -> dict[str, Any]:
    """Take in what was altered in a folder, or tell of it. ``over``: also where the crossing has changed since."""
    from grandferry.work.land.back import look, take_in
    from grandferry.work.plan.leave import user

    number = crossings.meant(crossing)
    land = crossings.load_plan(number).land
    named = target or (land.target if land is not None else "")
    wanted = LandSettings.model_validate(wanted_target(named, profile, land=land)) if target or profile else None
    place = out.resolve() if out is not None else None
    looked = look(number, place, wanted)
    for one in looked.found:
        why = (
            f" [not taken: {reason(one.why, one.about)}]" if one.why else " [changed here as well]" if one.newer else ""
        )
        say(f"{one.file}: {one.name}: “{one.ours}” is “{one.theirs}”{why}")
    for name, says in looked.faults:
        say(f"{name}: {says}")
    say(f"{looked.altered:,} files are not as they were written; {len(looked.same):,} of them say the same.")
    rows = [
        {"file": one.file, "key": one.key, "field": one.name, "ours": one.ours, "theirs": one.theirs, "why": one.why}
        for one in looked.found
    ]
    told: dict[str, Any] = {"altered": looked.altered, "found": rows, "faults": looked.faults, "dry": dry}
    if dry:
        return told
    taken = take_in(number, user(), looked, {one.key for one in looked.found} if over else ())
    say(f"Taken in: {taken.taken:,} of {len(looked.found):,}, of {taken.items:,} items.")
    return told | {"taken": taken.taken, "left": taken.left + len(looked.faults)}


def _run_plan(path: Path) -> int:
    """Run a plan up to its addresses, as far as it is behind; gives the crossing."""
    from grandferry.work.plan import leave
    from grandferry.work.plan.plans import bring_in
    from grandferry.work.plan.stages import run_stages

    crossing, content = bring_in(path)
    leave.check(content.plan, "Say in plan.yaml who gave it: old: permission: {by:, date:}.")
    with progress() as watch:
        run_stages(crossing.id, content.plan, "route", watch)
    return crossing.id


def tell_landed(result: dict[str, Any]) -> None:
    """What a landing did, in lines for a person."""
    if "taken_back" in result:
        say(f"Taken away: {result['taken_back']:,} things.")
    for thing in ("file", "item", "redirect"):
        counts = result.get(thing)
        if counts:
            say(f"{thing}s: " + ", ".join(f"{number:,} {done}" for done, number in sorted(counts.items())))
    for row in result["refused"]:
        say(f"  refused: {row['thing']} {row['key']}: {row['reason']}")
    for name, why in result.get("kept", ()):
        say(f"  left: {name}: {why}")
    if result.get("folder") and not result["dry"]:
        more = f"; {result['removed']:,} files that are no more of it were taken away" if result.get("removed") else ""
        say(f"Landed in {result['folder']}{more}.")
