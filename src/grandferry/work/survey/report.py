"""Lists given out: the addresses of a survey as CSV, JSON or XLSX, and its captures as WARC."""

from __future__ import annotations

import contextlib
import csv
import io
import json
import os
from collections.abc import Iterator
from pathlib import Path

from grandferry import __version__
from grandferry.core.because import sentence
from grandferry.core.errors import FerryError
from grandferry.core.side import Side
from grandferry.ports.targets.sheet import write_sheets
from grandferry.ports.targets.warc import Archived, write_warc
from grandferry.store import bodies, route
from grandferry.store.crossings import last_change, load_plan
from grandferry.store.survey import runs, surveyed
from grandferry.store.survey.surveyed import address_rows, captures
from grandferry.work.names import safe_cell
from grandferry.work.survey.fitness import NEVER
from grandferry.work.survey.offline import write_copy

COLUMNS = (
    "address",
    "status",
    "type",
    "target",
    "title",
    "depth",
    "found_by",
    "linked_from",
    "words",
    "bytes",
    "mime",
    "visits",
    "in_links",
    "note",
)
FORMATS = (".csv", ".json", ".xlsx", ".warc", ".warc.gz", ".zip")


def check_format(out: Path) -> None:
    """Raise FerryError for an ending that this version does not write."""
    if not out.name.lower().endswith(FORMATS):
        raise FerryError(f"“{out.name}” ends in a form this version does not write.", f"One of: {', '.join(FORMATS)}.")


def write_addresses(side: Side, out: Path) -> None:
    """Write one row an address (into an archive one record a capture, as .zip the offline copy). What stood there
    before is replaced only when all is written. Raises FerryError when the file cannot be written."""
    check_format(out)
    fresh = out.with_name(f".{out.name}.{os.getpid()}")
    try:
        out.parent.mkdir(parents=True, exist_ok=True)
        name = out.name.lower()
        at = last_change(side.crossing)
        if name.endswith((".warc", ".warc.gz")):
            with fresh.open("wb") as handle:
                write_warc(handle, out.name, _info(side), archived(side), at, packed=name.endswith(".gz"))
        elif name.endswith(".zip"):
            write_copy(side, fresh)
        elif name.endswith(".xlsx"):
            found = address_rows(side)
            table = ([row[name] for name in COLUMNS] for row in found)
            write_sheets(
                fresh,
                [
                    ("addresses", COLUMNS, table),
                    ("about this survey", ("what", "is"), about(side)),
                    ("left out on purpose", ("address", "why"), left_out(side)),
                ],
                at,
            )
        else:
            fresh.write_text(_as_text(side, json_=name.endswith(".json")), "utf-8")
        os.replace(fresh, out)
    except OSError as problem:
        raise FerryError(f"{out} cannot be written: {problem.strerror or problem}.") from None
    finally:
        with contextlib.suppress(OSError):
            fresh.unlink()


def _as_text(side: Side, json_: bool) -> str:
    found = address_rows(side)
    if json_:
        return json.dumps(found, ensure_ascii=False, indent=1) + "\n"
    buffer = io.StringIO(newline="")
    writer = csv.writer(buffer, lineterminator="\n")
    writer.writerow(COLUMNS)
    writer.writerows([safe_cell(row[name]) for name in COLUMNS] for row in found)
    return buffer.getvalue()


def about(side: Side) -> list[tuple[str, object]]:
    """What has to be known of a survey to put one's name to it: whose leave, when, within which bounds, what came of
    it, and what never carries."""
    plan = load_plan(side.crossing)
    here, leave = plan.side(side.name), plan.old.permission
    runs_ = runs.runs(side)
    summary = surveyed.summary(side)
    told: list[tuple[str, object]] = [
        (f"{side.name} site", here.start),
        ("leave to copy it given by", f"{leave.by}, {leave.date}" if leave else "nobody is named"),
        ("entered by", f"{leave.entered_by or 'somebody'}, {leave.entered_at}" if leave and leave.entered_at else "–"),
        ("surveys", len(runs_)),
        ("last survey", f"{runs_[-1].started} to {runs_[-1].ended or 'not ended'}" if runs_ else "none"),
        ("robots rules", here.manners.robots),
        ("asked as", here.manners.agent),
    ]
    told += [(name, summary[name]) for name in ("addresses", "pages", "files", "redirects", "failed")]
    told += [(f"kept out: {reason}", n) for reason, n in sorted(summary["shut_out"].items())]
    if side.name == "new":
        return told
    told += [
        (f"{'left out on purpose' if name in plan.leave_out else 'to carry'}: {name}", n)
        for name, n in route.family_counts(side.crossing).items()
    ]
    return told + [("never carries", sentence) for sentence in NEVER]


def left_out(side: Side) -> list[tuple[str, str]]:
    """Every address set aside on purpose, and of families that do not go over, with the reason. Of the new side none
    is: it has no part in the account."""
    if side.name == "new":
        return []
    plan = load_plan(side.crossing)
    out = {
        key: f"left out on purpose: {name}"
        for key, name in route.families(side.crossing).items()
        if name in plan.leave_out
    }
    aside = {
        key: sentence(reason) for key, fate, reason in route.reasons(side.crossing) if fate == "set aside" and reason
    }
    return sorted((out | aside).items())


def _info(side: Side) -> dict[str, str]:
    plan = load_plan(side.crossing)
    here, leave = plan.side(side.name), plan.old.permission
    info = {
        "software": f"Grand Ferry {__version__}",
        "format": "WARC File Format 1.1",
        "isPartOf": plan.name,
        "robots": here.manners.robots,
        "http-header-user-agent": here.manners.agent,
        "description": "Bodies without their transfer and content codings.",
    }
    return info | ({"operator": f"{leave.by}, {leave.date}"} if leave else {})


def archived(side: Side) -> Iterator[Archived]:
    """Every capture of a side whose content is kept, and every redirect, in the order they were made."""
    for url, at, status, headers, body in captures(side):
        path = bodies.path_of(body) if body else None
        content: bytes | Path = path if path is not None else bodies.get(body) if body else b""
        yield Archived(url, at, status, json.loads(headers), content)
