"""What goes along with items in a folder: the redirect map, the account, shared parts, schemas, and the plan."""

from __future__ import annotations

import csv
import io
import json
import tempfile
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import asdict
from pathlib import Path
from typing import Any

from grandferry.core.because import sentence
from grandferry.core.lift.schema import schema_of
from grandferry.core.plan import LandSettings, Plan
from grandferry.core.refit.write import to_html, to_markdown
from grandferry.core.refit.written import Differs
from grandferry.ports.planfolder import write_plan
from grandferry.store import media
from grandferry.work.media.standing import as_kept, standing
from grandferry.work.names import safe_cell
from grandferry.work.plan.sharing import plan_folder
from grandferry.work.refit.shared import every_part
from grandferry.work.route.run import redirect_map

from .account import account_of
from .along import Along
from .places import without_template

ACCOUNT = "account.json"


def documents(
    crossing: int,
    plan: Plan,
    settings: LandSettings,
    along: Along,
    missed: Counter[tuple[str, str]],
    open_: Iterable[dict[str, Any]],
) -> Iterator[tuple[str, bytes]]:
    """(name, content) of each document, made one after the other. ``missed``: links (page, target) to pages that do not
    go over; ``open_``: what the account says is open beside what it knows itself."""
    yield "redirects.csv", _redirects(crossing)
    yield "files.csv", _files(crossing, plan)
    yield "shared.jsonl", _lines(_shared(crossing))
    if missed:
        rows = ((page, target, number) for (page, target), number in sorted(missed.items()))
        yield "links.csv", _table(("page", "leads_to", "times"), rows)
    if along.forms:
        yield "forms.json", _json(along.forms)
    for name, comments in along.comments.items():
        yield name, _lines(comments)
    if settings.target in ("json", "jsonl"):
        mappings = plan.mappings
        for kind in plan.every_kind:
            if kind.makes_items:
                yield f"schemas/{kind.name}.json", _json(schema_of(kind, mappings.get(kind.name, [])))
    with tempfile.TemporaryDirectory(prefix="grandferry-") as temporary:
        whole = plan_folder(crossing)
        whole.plan = plan  # with the target that is landed at
        write_plan(Path(temporary), whole)
        for file in sorted(Path(temporary).iterdir()):
            yield f"plan/{file.name}", file.read_bytes()
    account = account_of(crossing)
    bare = without_template(plan, [kind for kind in plan.every_kind if kind.name in along.kinds])
    for name in bare:
        account["open"].append({"what": f"items of {name}", "count": along.kinds[name], "why": "no template is named"})
    account["open"] += [*along.open(missed), *open_]
    account["comments"] = {
        "items": len(along.comments),
        "comments": sum(map(len, along.comments.values())),
        "left_out": along.left_out,
    }
    yield ACCOUNT, _json(account)


def _json(value: Any) -> bytes:
    return (json.dumps(value, ensure_ascii=False, indent=1) + "\n").encode("utf-8", "surrogatepass")


def _lines(rows: Iterable[dict[str, Any]]) -> bytes:
    return "".join(json.dumps(row, ensure_ascii=False) + "\n" for row in rows).encode("utf-8", "surrogatepass")


def _table(columns: Sequence[str], rows: Iterable[Sequence[object]]) -> bytes:
    out = io.StringIO(newline="")
    lines = csv.writer(out)
    lines.writerow(columns)
    lines.writerows([safe_cell(cell) for cell in row] for row in rows)
    return out.getvalue().encode("utf-8", "surrogatepass")


def _redirects(crossing: int) -> bytes:
    """The redirect map as pairs: old, new, status, match."""
    lines = redirect_map(crossing).redirects
    return _table(("old", "new", "status", "match"), ((line.old, line.new, line.status, line.match) for line in lines))


FILES = (
    "new",
    "type",
    "bytes",
    "width",
    "height",
    "pages",
    "texts",
    "addresses",
    "fate",
    "why",
    "role",
    "unsuited",
    "focus",
)


def _files(crossing: int, plan: Plan) -> bytes:
    """Every file once: where it goes, what it is, which texts stand for it, the addresses it was had from."""
    addresses, texts = media.every_address(crossing), media.every_text(crossing)
    stands = standing(crossing, plan)
    focus = {body: one.said.focus for body, one in stands.items() if one.said is not None}
    for body, one in stands.items():
        if one.said is not None and one.said.alt:
            texts[body] = [one.said.alt, *(text for text in texts.get(body, ()) if not one.said.over)]
    rows = (
        (
            one.new_path, (one.new_path and one.becomes) or one.mime, one.bytes, one.width or "", one.height or "",
            one.pages,
            " | ".join(texts.get(one.body, ())), " ".join(addresses[one.body]), one.fate, sentence(one.reason),
            one.role, one.unsuited, focus.get(one.body, ""),
        )
        for one in media.every(crossing, plan.side("old").host, as_kept(stands))
    )  # fmt: skip
    return _table(FILES, rows)


def _shared(crossing: int) -> Iterator[dict[str, Any]]:
    """What clean-up steps take of all pages, once each: header, footer, menus, boxes; where they differ and miss."""
    for part in every_part(crossing):
        yield {
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


def of_writing(differs: Iterable[tuple[str, Differs]]) -> list[dict[str, Any]]:
    """What bodies lost or gained as they were written (with the old key), each sort with how often and where first."""
    found: dict[tuple[str, bool], list[str]] = {}
    counts: Counter[tuple[str, bool]] = Counter()
    for key, one in differs:
        sort = (str(one.what), one.lost)
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
