"""The plan as a folder (or its zip): plan.yaml, pairs.csv, edits.jsonl. Every fault with its line and reason."""

from __future__ import annotations

import csv
import io
import json
import zipfile
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import yaml
from pydantic import BaseModel, ValidationError

from grandferry.core.errors import FerryError, PlanError
from grandferry.core.plan import Edit, Pair, Plan
from grandferry.core.plancheck import check_plan

SIZE_CAP = 64_000_000


@dataclass(slots=True)
class PlanFolder:
    """A plan as read: the model, its pairs in order, its edits, and the folder's other files by name."""

    plan: Plan
    pairs: list[Pair] = field(default_factory=list)
    edits: list[Edit] = field(default_factory=list)
    extra: dict[str, bytes] = field(default_factory=dict)


def _sources(path: Path) -> dict[str, bytes]:
    if path.is_dir():
        return {
            str(p.relative_to(path)): p.read_bytes()
            for p in sorted(path.rglob("*"))
            if p.is_file() and not p.is_symlink() and p.stat().st_size <= SIZE_CAP
        }
    if path.is_file() and zipfile.is_zipfile(path):
        with zipfile.ZipFile(path) as archive:
            infos = [i for i in archive.infolist() if not i.is_dir() and i.file_size <= SIZE_CAP]
            names = [i.filename for i in infos]
            # a zip of the folder itself has the folder's name before every entry
            lead = names[0].partition("/")[0] + "/" if names and all("/" in n for n in names) else ""
            return {i.filename.removeprefix(lead): archive.read(i) for i in infos}
    raise PlanError(f"{path} is neither a plan folder nor its zip.", hint="Give a folder that holds plan.yaml.")


def read_plan(path: Path | str) -> PlanFolder:
    """Read a plan. Raises PlanError naming file, line and reason."""
    files = _sources(Path(path))
    if "plan.yaml" not in files:
        raise PlanError(f"{path} holds no plan.yaml.")
    plan = parse_yaml(files.pop("plan.yaml"), Plan, "plan.yaml")
    check_plan(plan)
    pairs = parse_pairs(files.pop("pairs.csv", b""), "pairs.csv")
    edits = _parse_edits(files.pop("edits.jsonl", b""))
    return PlanFolder(plan, pairs, edits, files)


def parse_yaml(text: bytes, model: type[Plan], file: str) -> Plan:
    """A YAML document checked against a model. Raises PlanError with the line of the first fault."""
    try:
        tree = yaml.compose(text, Loader=yaml.SafeLoader)
        data = yaml.safe_load(text)
    except yaml.YAMLError as problem:
        mark = getattr(problem, "problem_mark", None)
        reason = getattr(problem, "problem", None) or str(problem)
        raise PlanError(f"not readable as YAML: {reason}.", file=file, line=mark.line + 1 if mark else 0) from None
    except UnicodeDecodeError:
        raise PlanError("not readable as UTF-8.", file=file) from None
    try:
        return model.model_validate(data)
    except ValidationError as problem:
        first = problem.errors()[0]
        line = _line_of(tree, [str(p) for p in first["loc"]])
        raise PlanError(_sentence(first, model), file=file, line=line) from None


def _sentence(error: Any, model: type[BaseModel]) -> str:
    where = ".".join(str(p) for p in error["loc"])
    if error["type"] == "extra_forbidden":
        return f"“{where}” is not a key a plan knows."
    if error["type"] == "missing":
        return f"“{where}” is missing."
    reason = error["msg"].removeprefix("Value error, ")
    return f"“{where}”: {reason}." if where else f"{reason}."


def _line_of(node: yaml.Node | None, path: list[str]) -> int:
    """The 1-based line of the deepest node along the path (of the key itself for a key that is wrong)."""
    line = node.start_mark.line + 1 if node is not None else 0
    for part in path:
        if isinstance(node, yaml.MappingNode):
            for key, value in node.value:
                if key.value == part:
                    line, node = key.start_mark.line + 1, value
                    break
            else:
                return line
        elif isinstance(node, yaml.SequenceNode) and part.isdigit() and int(part) < len(node.value):
            node = node.value[int(part)]
            line = node.start_mark.line + 1
        else:
            return line
    return line


def read_table(text: bytes, file: str) -> tuple[list[str], list[tuple[int, list[str]]]]:
    """A CSV's header (lower case) and its rows with their line numbers. Raises PlanError."""
    try:
        decoded = text.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise PlanError("not readable as UTF-8.", file=file, hint="Save it as CSV in UTF-8.") from None
    if "\x00" in decoded:
        raise PlanError("holds a zero byte, so it is no CSV text.", file=file)
    sample = decoded.split("\n", 1)[0]
    delimiter = ";" if sample.count(";") > sample.count(",") else "\t" if "\t" in sample and "," not in sample else ","
    reader = csv.reader(io.StringIO(decoded, newline=""), delimiter=delimiter)
    header: list[str] = []
    body = []
    try:
        for row in reader:
            if not any(cell.strip() for cell in row):
                continue
            if not header:
                header = [cell.strip().lower() for cell in row]
            else:
                body.append((reader.line_num, row))
    except csv.Error as problem:
        raise PlanError(f"not readable as CSV: {problem}.", file=file, line=reader.line_num) from None
    return header, body


def parse_pairs(text: bytes, file: str) -> list[Pair]:
    """The lines of a pairs.csv (columns old,new,status,match; the last two may be missing). Raises PlanError."""
    header, body = read_table(text, file)
    if not body:
        return []
    if "old" not in header or "new" not in header:
        raise PlanError(
            f"the first line must name the columns old,new,status,match; it says {','.join(header)}.", file=file, line=1
        )
    unknown = [name for name in header if name and name not in ("old", "new", "status", "match")]
    if unknown:
        raise PlanError(f"“{unknown[0]}” is not a column pairs know.", file=file, line=1)
    pairs = []
    for line, row in body:
        cells = dict(zip(header, (cell.strip() for cell in row), strict=False))
        if len(row) > len(header) and any(cell.strip() for cell in row[len(header) :]):
            raise PlanError("more cells than columns.", file=file, line=line, hint="Quote cells that hold a comma.")
        status = cells.get("status") or ("410" if not cells.get("new") else "301")
        try:
            pair = Pair(
                old=cells.get("old", ""),
                new=cells.get("new", ""),
                status=int(status),  # type: ignore[arg-type]
                match=cells.get("match") or "exact",
            )  # type: ignore[arg-type]
            _ = pair.redirect
        except ValidationError as problem:
            raise PlanError(_sentence(problem.errors()[0], Pair), file=file, line=line) from None
        except ValueError:
            raise PlanError(f"“{status}” is not a status.", file=file, line=line, hint="301, 308 or 410.") from None
        except FerryError as problem:
            raise PlanError(str(problem), file=file, line=line) from None
        pairs.append(pair)
    return pairs


def _parse_edits(text: bytes) -> list[Edit]:
    edits = []
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip():
            continue
        try:
            edits.append(Edit.model_validate_json(line))
        except ValidationError as problem:
            raise PlanError(_sentence(problem.errors()[0], Edit), file="edits.jsonl", line=number) from None
    return edits


def write_plan(folder: Path, content: PlanFolder) -> None:
    """Write a plan folder; the same plan gives the same bytes."""
    folder.mkdir(parents=True, exist_ok=True)
    data = content.plan.model_dump(mode="json", exclude_defaults=True) | {"format": 1}
    (folder / "plan.yaml").write_text(
        yaml.safe_dump(
            {"format": 1, **{k: v for k, v in data.items() if k != "format"}},
            sort_keys=False,
            allow_unicode=True,
            width=110,
        ),
        "utf-8",
    )
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["old", "new", "status", "match"])
    writer.writerows([p.old, p.new, p.status, p.match] for p in content.pairs)
    (folder / "pairs.csv").write_text(out.getvalue(), "utf-8")
    if content.edits:
        lines = (json.dumps(e.model_dump(mode="json"), ensure_ascii=False, sort_keys=True) for e in content.edits)
        (folder / "edits.jsonl").write_text("".join(line + "\n" for line in lines), "utf-8")
