"""The plan as a folder (or its zip): plan.yaml, pairs.csv, media.csv, edits.jsonl. Every fault with line and reason."""

from __future__ import annotations

import csv
import io
import json
import zipfile
import zlib
from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import yaml
from pydantic import BaseModel, ValidationError

from grandferry.core.errors import FerryError, PlanError
from grandferry.core.media.said import FileSaid
from grandferry.core.plan import Edit, Pair, Plan
from grandferry.core.plancheck import check_plan
from grandferry.core.route.redirects import check_old, without_host

PLAN_CAP = 4_000_000  # bytes of plan.yaml
FAULTS = 20  # lines of a list that are told with what is wrong in them
SIZE_CAP = 64_000_000  # bytes of any other file of a plan


@dataclass(slots=True)
class PlanFolder:
    """A plan as read: the model, its pairs in order, its edits, the access logs packed with it by name, and what is
    said of files."""

    plan: Plan
    pairs: list[Pair] = field(default_factory=list)
    edits: list[Edit] = field(default_factory=list)
    extra: dict[str, bytes] = field(default_factory=dict)
    files: list[FileSaid] = field(default_factory=list)


def _reader(path: Path) -> Callable[[str, int], bytes | None]:
    """A function that gives a file of a plan by its name, None when it is not there. It raises PlanError for one of
    more bytes than are given. Nothing outside the folder is read."""
    if path.is_dir():

        def beside(name: str, most: int) -> bytes | None:
            file = path / name
            if file.is_symlink() or not file.is_file():
                return None
            if file.stat().st_size > most:
                raise PlanError(f"is larger than {most / 1e6:,.0f} MB.", file=name)
            return file.read_bytes()

        return beside
    if not path.is_file() or not zipfile.is_zipfile(path):
        raise PlanError(f"{path} is neither a plan folder nor its zip.", hint="Give a folder that holds plan.yaml.")

    def packed(name: str, most: int) -> bytes | None:
        try:
            with zipfile.ZipFile(path) as archive:
                infos = {info.filename: info for info in archive.infolist() if not info.is_dir()}
                # a zip of the folder itself has the folder's name before every entry
                lead = next(iter(infos), "").partition("/")[0] + "/"
                lead = lead if infos and all(found.startswith(lead) for found in infos) else ""
                info = infos.get(lead + name)
                if info is None:
                    return None
                with archive.open(info) as file:
                    content = file.read(most + 1)  # what it unpacks to, whatever the zip says of its size
        except (zipfile.BadZipFile, NotImplementedError, RuntimeError, OSError, EOFError, zlib.error) as problem:
            raise PlanError(f"cannot be unpacked: {problem}.", file=name, hint="Pack the folder anew.") from None
        if len(content) > most:
            raise PlanError(f"unpacks to more than {most / 1e6:,.0f} MB.", file=name)
        return content

    return packed


def read_plan(path: Path | str) -> PlanFolder:
    """Read a plan. Raises PlanError naming file, line and reason."""
    path = Path(path)
    read = _reader(path)
    text = read("plan.yaml", PLAN_CAP)
    if text is None:
        raise PlanError(f"{path} holds no plan.yaml.")
    plan = parse_yaml(text, Plan, "plan.yaml")
    check_plan(plan)
    pairs = parse_pairs(read("pairs.csv", SIZE_CAP) or b"", "pairs.csv", plan.our_hosts)
    edits = _parse_edits(read("edits.jsonl", SIZE_CAP) or b"")
    extra = {}
    if path.is_file():  # what lies beside a folder is read where it lies
        for name in plan.survey.logs:
            if (log := read(name, SIZE_CAP)) is not None:
                extra[name] = log
    files = parse_files(read("media.csv", SIZE_CAP) or b"", "media.csv")
    return PlanFolder(plan, pairs, edits, extra, files)


# the parser in C where the package has it: the same language, a tenth of the time
_LOADER = getattr(yaml, "CSafeLoader", yaml.SafeLoader)


MOST_NODES = 200_000  # of a plan, its aliases written out
DEEPEST = 40  # lists and mappings within each other


def _written_out(text: bytes) -> int:
    """How many nodes a document comes to once its aliases are written out; stops soon after MOST_NODES, and gives more
    for one that is nested too deeply. Raises yaml.YAMLError."""
    sizes: dict[str, int] = {}
    open_: list[tuple[str | None, int]] = []  # the anchors of what is open, and the nodes in it
    total = 0
    for event in yaml.parse(text, Loader=_LOADER):
        if isinstance(event, yaml.CollectionStartEvent):
            open_.append((event.anchor, 1))
            if len(open_) > DEEPEST:
                return MOST_NODES + 1
            continue
        if isinstance(event, yaml.CollectionEndEvent):
            anchor, size = open_.pop()
        elif isinstance(event, yaml.AliasEvent):
            anchor, size = None, sizes.get(event.anchor, 1)
        elif isinstance(event, yaml.ScalarEvent):
            anchor, size = event.anchor, 1
        else:
            continue
        if anchor:
            sizes[anchor] = size
        if open_:
            open_[-1] = (open_[-1][0], open_[-1][1] + size)
        total = max(total, size, open_[-1][1] if open_ else 0)
        if total > MOST_NODES:
            break
    return total


def parse_yaml(text: bytes, model: type[Plan], file: str) -> Plan:
    """A YAML document checked against a model. Raises PlanError with the line of the first fault."""
    try:
        if _written_out(text) > MOST_NODES:
            told = (
                f"comes to more than {MOST_NODES:,} values once its aliases are written out, or is nested too deeply."
            )
            raise PlanError(told, file=file, hint="Is it a plan?")
        data = yaml.load(text, Loader=_LOADER)
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
        tree = yaml.compose(text, Loader=yaml.SafeLoader)
        line = _line_of(tree, [str(p) for p in first["loc"]])
        raise PlanError(_sentence(first, model), file=file, line=line) from None


def _sentence(error: Any, model: type[BaseModel]) -> str:
    where = ".".join(str(p) for p in error["loc"])
    if error["type"] == "extra_forbidden":
        return f"“{where}” is not a key a plan knows."
    if error["type"] == "missing":
        return f"“{where}” is missing."
    reason = error["msg"].removeprefix("Value error, ").rstrip(".")
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


def parse_pairs(text: bytes, file: str, ours: Collection[str] = ()) -> list[Pair]:
    """The lines of a pairs.csv (columns old,new,status,match,reason; the last three may be missing). ``ours``: the
    hosts that no line may hold; with them, an old address of another host is refused. Raises PlanError."""
    header, body = read_table(text, file)
    if not body:
        return []
    if "old" not in header or "new" not in header:
        raise PlanError(
            f"the first line must name the columns old,new,status,match; it says {','.join(header)}.", file=file, line=1
        )
    unknown = [name for name in header if name and name not in ("old", "new", "status", "match", "reason")]
    if unknown:
        raise PlanError(f"“{unknown[0]}” is not a column pairs know.", file=file, line=1)
    pairs, faults = list[Pair](), list[PlanError]()
    for line, row in body:
        try:
            pairs.append(_pair(header, row, file, line, ours))
        except PlanError as fault:
            faults.append(fault)
    if len(faults) > 1:
        others = "; ".join(fault.told for fault in faults[1:FAULTS])
        more = f"; and {len(faults) - FAULTS:,} more" if len(faults) > FAULTS else ""
        first = faults[0]
        raise PlanError(
            f"{first.told}; {others}{more}.", file=file, hint=f"{len(faults):,} lines cannot be read; none was taken."
        )
    if faults:
        raise faults[0]
    return pairs


def _pair(header: list[str], row: list[str], file: str, line: int, ours: Collection[str]) -> Pair:
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
            reason=cells.get("reason", ""),
        )  # type: ignore[arg-type]
        _ = pair.redirect
        if ours and pair.match != "pattern":
            check_old(cells.get("old", ""), ours)
        pair.new = without_host(pair.new, ours)
    except ValidationError as problem:
        raise PlanError(_sentence(problem.errors()[0], Pair), file=file, line=line) from None
    except ValueError:
        raise PlanError(
            f"“{status}” is not a status.", file=file, line=line, hint="301, 302, 307, 308 or 410."
        ) from None
    except FerryError as problem:
        raise PlanError(str(problem), file=file, line=line) from None
    return pair


_YES_NO = ("over", "same")
_OF_FILES = tuple(FileSaid.model_fields)


def parse_files(text: bytes, file: str) -> list[FileSaid]:
    """The lines of a media.csv: a file each, and what is said of it (columns as FileSaid has them, “yes” for what is
    so; all but the first may be missing). Raises PlanError."""
    header, body = read_table(text, file)
    unknown = [name for name in header if name not in _OF_FILES]
    if header and ("file" not in header or unknown):
        fault = f"“{unknown[0]}” is no column of it" if unknown else "the column “file” is missing"
        raise PlanError(f"{fault}; there are: {', '.join(_OF_FILES)}.", file=file, line=1)
    found: dict[str, FileSaid] = {}
    for line, row in body:
        cells = dict(zip(header, (cell.strip() for cell in row), strict=False))
        if len(row) > len(header) and any(cell.strip() for cell in row[len(header) :]):
            raise PlanError("more cells than columns.", file=file, line=line, hint="Quote cells that hold a comma.")
        marks = {name: cells.get(name, "").lower() for name in _YES_NO}
        odd = next((said for said in marks.values() if said not in ("", "yes", "no", "true", "false")), None)
        if odd is not None:
            raise PlanError(f"“{odd}” is neither yes nor no.", file=file, line=line)
        try:
            made = FileSaid.model_validate(cells | {name: said in ("yes", "true") for name, said in marks.items()})
        except ValidationError as problem:
            raise PlanError(_sentence(problem.errors()[0], FileSaid), file=file, line=line) from None
        if made.file in found:
            raise PlanError(f"{made.file} stands there twice.", file=file, line=line)
        found[made.file] = made
    return list(found.values())


def write_files(said: Iterable[FileSaid]) -> str:
    """What is said of files as media.csv."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(_OF_FILES)
    for one in said:
        cells = one.model_dump()
        writer.writerow([("yes" if cells[name] else "") if name in _YES_NO else cells[name] for name in _OF_FILES])
    return out.getvalue()


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
    said = any(p.reason for p in content.pairs)
    writer.writerow(["old", "new", "status", "match", *(["reason"] if said else [])])
    writer.writerows([p.old, p.new, p.status, p.match, *([p.reason] if said else [])] for p in content.pairs)
    (folder / "pairs.csv").write_text(out.getvalue(), "utf-8")
    if content.files:
        (folder / "media.csv").write_text(write_files(content.files), "utf-8")
    if content.edits:
        lines = (json.dumps(e.model_dump(mode="json"), ensure_ascii=False, sort_keys=True) for e in content.edits)
        (folder / "edits.jsonl").write_text("".join(line + "\n" for line in lines), "utf-8")
