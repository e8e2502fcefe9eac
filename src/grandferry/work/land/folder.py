"""A crossing in a folder: items as JSON lines, bodies as Markdown, the redirect map, the plan, and the account."""

from __future__ import annotations

import csv
import json
import os
import re
import shutil
from collections import Counter
from collections.abc import Iterator
from dataclasses import asdict
from pathlib import Path
from typing import Any
from urllib.parse import unquote

from grandferry.core.because import sentence
from grandferry.core.errors import FerryError
from grandferry.core.kinds import FieldPlan, KindPlan
from grandferry.core.lift.schema import schema_of
from grandferry.core.mapping import Blocks
from grandferry.core.refit.write import to_html, to_markdown
from grandferry.core.refit.written import Differs, read_back
from grandferry.core.route.fate import FATES
from grandferry.core.route.slug import distinct
from grandferry.ports.planfolder import PlanFolder, write_plan
from grandferry.store import carried, crossings, edits, lift, refit, route, sort
from grandferry.work.land.content import Contents
from grandferry.work.land.items import row_of, write_lines
from grandferry.work.refit.shared import every_part
from grandferry.work.route.run import redirect_map

ACCOUNT = "account.json"
_UNSAFE = re.compile(r"[^\w.~ -]+")
_LONGEST = 100  # characters of a file's name


def check_folder(out: Path) -> None:
    """Raise FerryError when a folder holds something else than what was written there before."""
    if not out.exists():
        return
    if not out.is_dir():
        raise FerryError(f"{out} is a file.", "Name a folder.")
    if any(out.iterdir()) and not (out / ACCOUNT).is_file():
        raise FerryError(f"The folder {out} holds other things.", "Name a new or an empty one.")


def write_folder(crossing: int, out: Path) -> dict[str, Any]:
    """Write the folder; gives the account. What stood there before is replaced only when all is written. Raises
    FerryError when it cannot be written."""
    check_folder(out)
    fresh = out.with_name(f".{out.name}.{os.getpid()}")
    try:
        fresh.mkdir(parents=True)
        differs: list[tuple[str, Differs]] = []
        write_lines(fresh / "items.jsonl", _with_bodies(crossing, fresh / "bodies", differs))
        _write_map(crossing, fresh / "redirects.csv")
        _write_schemas(crossing, fresh / "schemas")
        _write_shared(crossing, fresh / "shared.jsonl")
        plan = crossings.load_plan(crossing)
        write_plan(fresh / "plan", PlanFolder(plan, crossings.load_pairs(crossing), edits.edits(crossing)))
        account = account_of(crossing)
        account["open"] += _of_writing(differs)
        (fresh / ACCOUNT).write_text(json.dumps(account, ensure_ascii=False, indent=1) + "\n", "utf-8")
        if out.exists():
            shutil.rmtree(out)
        os.replace(fresh, out)
    except OSError as problem:
        raise FerryError(f"{out} cannot be written: {problem.strerror}.") from None
    finally:
        shutil.rmtree(fresh, ignore_errors=True)
    return account


def _with_bodies(crossing: int, folder: Path, differs: list[tuple[str, Differs]]) -> Iterator[dict[str, Any]]:
    """The rows of all items; each body is written to a file of its own, which the row names, and read back: what that
    lost or added is put to ``differs`` with the item's key."""
    taken: set[str] = set()
    plan = crossings.load_plan(crossing)
    for content in Contents(crossing, plan, every=True):
        row = row_of(content, plan.refit.choices)
        files: dict[str, str] = {}
        for field in content.kind.fields:
            if field.type != "blocks":
                continue
            name = distinct(file_of(content.item.new_path or content.item.key, field.name), taken)
            taken.add(name)
            path = folder / name
            path.parent.mkdir(parents=True, exist_ok=True)
            text = row[f"{field.name}_markdown"]
            path.write_text(text, "utf-8", errors="surrogatepass")
            value = content.fields[field.name]
            blocks = value.blocks if isinstance(value, Blocks) else ()
            differs += [(content.item.key, one) for one in read_back(blocks, text, plan.refit.choices)]
            files[field.name] = f"bodies/{name}"
        yield row | {"files": files}


def file_of(path: str, field: str) -> str:
    """Where a body is kept: its item's path, every part of it a name that any file system takes."""
    parts = [_UNSAFE.sub("-", unquote(part)).strip(". ")[:_LONGEST] for part in path.lstrip("/").split("/")]
    tail = parts.pop() or "index"
    folders = [f"{part}-" if part.lower().endswith(".md") else part for part in parts if part]  # no file is called so
    name = "/".join([*folders, tail])
    return f"{name}.md" if field == "body" else f"{name}.{field}.md"


def _write_schemas(crossing: int, folder: Path) -> None:
    """A JSON Schema for each kind that items are made of: what a row of it holds."""
    folder.mkdir()
    for kind in crossings.load_plan(crossing).every_kind:
        if kind.makes_items:
            text = json.dumps(schema_of(kind), ensure_ascii=False, indent=1) + "\n"
            (folder / f"{kind.name}.json").write_text(text, "utf-8")


def _write_shared(crossing: int, path: Path) -> None:
    """What clean-up steps take of all pages, once each: header, footer, menus, boxes; where they differ and miss."""
    lines = (
        {
            "name": part.step.name,
            "remove": part.step.finds,
            "pages": part.pages,
            "html": to_html(part.blocks),
            "markdown": to_markdown(part.blocks),
            "versions": [{k: v for k, v in asdict(one).items() if k != "address"} for one in part.versions],
            "versions_all": part.versions_all,
            "kinds": {kind: {"on": on, "of": of} for kind, on, of in part.kinds},
            "missing": [row.key for row in part.missing],
            "missing_all": part.missing_all,
        }
        for part in every_part(crossing)
    )
    write_lines(path, lines)


def _write_map(crossing: int, path: Path) -> None:
    """The redirect map as pairs: old, new, status, match."""
    with path.open("w", encoding="utf-8", newline="") as handle:
        lines = csv.writer(handle)
        lines.writerow(("old", "new", "status", "match"))
        lines.writerows((line.old, line.new, line.status, line.match) for line in redirect_map(crossing).redirects)


def _of_writing(differs: list[tuple[str, Differs]]) -> list[dict[str, Any]]:
    """What bodies lost or gained as they were written, each sort with how often and where first."""
    found: dict[tuple[str, bool], list[str]] = {}
    counts: Counter[tuple[str, bool]] = Counter()
    for key, one in differs:
        sort = (one.what.value, one.lost)
        found.setdefault(sort, []).append(f"{key}: {' '.join(one.said[:3])[:200]}")
        counts[sort] += one.number
    return [
        {
            "what": what,
            "count": counts[what, lost],
            "why": f"{'lost' if lost else 'added'} in writing, first in {at[0]}",
        }
        for (what, lost), at in found.items()
    ]


def account_of(crossing: int) -> dict[str, Any]:
    """What became of every address, page, word and file, and what is open."""
    plan = crossings.load_plan(crossing)
    found = crossings.account_of(crossing)
    pages, coverage = sort.kind_counts(crossing), lift.coverage(crossing)
    items = Counter(made.kind for made in lift.made(crossing).values())
    return {
        "addresses": {fate: sum(found.get(fate, {}).values()) for fate in FATES},
        "kinds": [
            {
                "name": kind.name,
                "pages": pages.get(kind.name, 0),
                "items": items[kind.name],
                "confidence": _confidence(kind),
                "fields": [
                    {
                        "name": field.name,
                        "filled": coverage.get(kind.name, {}).get(field.name, {}).get("filled", 0),
                        "confidence": _confidence(field),
                    }
                    for field in kind.fields
                ],
            }
            for kind in plan.every_kind
        ],
        "words": _words(crossing),
        "files": carried.fates(crossing),
        "open": _open(crossing),
    }


def _confidence(part: KindPlan | FieldPlan) -> float:
    """Of what a person decided: 1."""
    return 1.0 if part.proposed is None else round(part.proposed.confidence, 3)


def _words(crossing: int) -> dict[str, int]:
    totals = refit.totals(crossing)
    removed = sum(words for _, words in refit.removed_by_step(crossing).values())
    said = {
        "have": totals["words"],
        "blocks": totals["in_blocks"],
        "islands": totals["in_islands"],
        "removed": removed,
        "unaccounted": totals["unaccounted"],
    }
    other = said["have"] - said["blocks"] - said["islands"] - said["removed"] - said["unaccounted"]
    return said | {"other": other, "raw_html": totals["in_raw_html"]}


def _open(crossing: int) -> list[dict[str, Any]]:
    """What still waits for a person, with why."""
    found: list[dict[str, Any]] = []
    whys = Counter(sentence(row.why) for row in route.open_addresses(crossing) if row.fate == "unaccounted")
    found += [{"what": "addresses", "count": count, "why": why} for why, count in whys.most_common()]
    unsorted = sort.kind_counts(crossing).get("", 0)
    if unsorted:
        found.append({"what": "pages", "count": unsorted, "why": "no kind takes them"})
    for row in lift.without_address(crossing):
        found.append({"what": f"items of {row.kind}", "count": row.items, "why": sentence(row.reason)})
    states = Counter((row.kind, row.field, row.state) for row in lift.exceptions(crossing))
    for (kind, field, state), count in sorted(states.items()):
        found.append({"what": f"{field} of {kind}", "count": count, "why": state})
    lost = refit.totals(crossing)["unaccounted"]
    if lost:
        found.append({"what": "words", "count": lost, "why": "in no block, and taken out by nobody"})
    found += [
        {"what": one.name, "count": one.lost, "why": "in the bodies, and not in their blocks"}
        for one in refit.things(crossing)
        if one.lost
    ]
    return found
