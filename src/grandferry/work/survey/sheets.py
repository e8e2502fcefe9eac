"""What is decided of every old address as a table to alter in a spreadsheet, and that table brought back.

Each row carries a mark of what it said when it was given out. So a row that nobody altered changes nothing, whatever
has been decided since; and one that was altered there and here is told, not taken in silence.
"""

from __future__ import annotations

import csv
import hashlib
import io
import re
from dataclasses import dataclass, field
from pathlib import Path

from grandferry.core.address import split_href
from grandferry.core.because import sentence
from grandferry.core.errors import FerryError
from grandferry.core.patterns import compile_pattern
from grandferry.core.plan import Aside, Pair, Plan
from grandferry.core.route.decided import COLUMNS, MARK, is_decisions
from grandferry.core.route.fate import FATES, Decision
from grandferry.core.route.redirects import neutral
from grandferry.ports.sources.table import table_rows
from grandferry.ports.targets.sheet import write_sheet
from grandferry.store import changes, crossings, route
from grandferry.work.names import safe_cell
from grandferry.work.route.decisions import MOST, asides_of, keys_of

OPEN = "unaccounted"  # the word for an address for which nothing is decided


@dataclass(frozen=True, slots=True)
class Altered:
    """A row that says something else than when it was given out: ``was`` and ``says`` are (decision, new address, why).
    ``meanwhile``: it was decided anew here since then."""

    number: int
    address: str
    was: tuple[str, str, str]
    says: tuple[str, str, str]
    meanwhile: bool = False


@dataclass(slots=True)
class Read:
    """A table brought back: how many rows say nothing new, which do, and which cannot be taken, with why."""

    rows: int = 0
    same: int = 0
    altered: list[Altered] = field(default_factory=list)
    bad: list[tuple[int, str, str]] = field(default_factory=list)  # row, address, why


def _mark(*cells: str) -> str:
    return hashlib.blake2b("\x00".join(cells).encode("utf-8", "surrogatepass"), digest_size=6).hexdigest()


def _said(decision: Decision) -> tuple[str, str, str]:
    return decision.fate or OPEN, decision.target, sentence(decision.reason)


def _written(cells: tuple[str, ...]) -> tuple[str, ...]:
    return tuple(str(safe_cell(cell)).strip() for cell in cells)


def write_decisions(crossing: int, out: Path) -> int:
    """Write the table as CSV or XLSX, by the ending of ``out``; gives the number of its rows."""
    table = []
    more = route.titles_and_visits(crossing)
    for key, decision in route.decisions(crossing).items():
        title, visits = more.get(key, ("", 0))
        cells = _written((key, *_said(decision)))
        table.append((*cells, safe_cell(title), visits, _mark(*cells)))
    if out.name.lower().endswith(".xlsx"):
        write_sheet(out, "decisions", COLUMNS, table, crossings.last_change(crossing))
    else:
        text = io.StringIO()
        lines = csv.writer(text)
        lines.writerow(COLUMNS)
        lines.writerows(table)
        out.write_text(text.getvalue(), "utf-8-sig", newline="")  # the mark by which spreadsheets know UTF-8
    return len(table)


def read_decisions(crossing: int, path: Path) -> Read:
    """Hold a table brought back against what is decided now. Raises FerryError when it is no such table."""
    lines = table_rows(path)
    head = [name.strip().lower() for name in next(lines, [])]
    if not is_decisions(head):
        raise FerryError("This is no table of decisions that was given out here.", f"It needs the column “{MARK}”.")
    at = {name: head.index(name) for name in COLUMNS if name in head}
    now = route.decisions(crossing)
    asides = crossings.load_plan(crossing).route.aside
    read = Read()
    seen: set[str] = set()
    for number, line in enumerate(lines, 2):
        cells = {name: line[place].strip() if place < len(line) else "" for name, place in at.items()}
        if not any(cells.values()):
            continue
        read.rows += 1
        key = cells["address"]
        says = (cells["decision"].lower(), cells.get("new address", ""), cells.get("why", ""))
        if key in seen:
            read.bad.append((number, key, "stands in an earlier row as well"))
            continue
        seen.add(key)
        if key not in now:
            read.bad.append((number, key, "is no address of this crossing's account"))
            continue
        was = _written(_said(now[key]))
        if _mark(key, *says) == cells[MARK] or says == was:
            read.same += 1
            continue
        problem = _problem(key, says) if says[0] != OPEN else _held(key, now[key], asides)
        if problem:
            read.bad.append((number, key, problem))
            continue
        meanwhile = bool(cells[MARK]) and _mark(key, *was) != cells[MARK]
        read.altered.append(Altered(number, key, (was[0], was[1], was[2]), says, meanwhile))
    return read


def _problem(key: str, says: tuple[str, str, str]) -> str:
    """Why a row cannot be taken, "" when it can."""
    decision, target, why = says
    if decision not in FATES:
        return f"“{decision}” is none of {', '.join(FATES)}"
    if decision == "set aside":
        return "" if len(why) >= 3 else "set aside needs a reason (why)"
    if decision == "retired":
        return ""
    if decision == "stays" and target in ("", key):
        return ""
    if not target:
        return f"{decision} needs a new address"
    try:
        Pair(old=neutral(key, target, 301, "exact").old, new=target)
    except ValueError as problem:
        return f"the new address cannot be read ({problem})"
    if not target.startswith("/") and split_href(target) is None:
        return "the new address begins with neither “/” nor “http”"
    return "" if not re.search(r"\s", target) else "the new address holds a blank"


def _held(key: str, decision: Decision, asides: list[Aside]) -> str:
    """Why what is decided of an address cannot be taken back by a row that says unaccounted, "" when it can."""
    if decision.origin == "pair":
        return ""
    if decision.origin != "aside":
        by = f"by its {decision.origin}" if decision.origin in ("item", "file") else f"by {decision.origin}"
        return f"says unaccounted, but it is decided {by}; that is changed where it stands, or by another decision"
    aside = next((aside for aside in asides if compile_pattern(aside.address).fullmatch(key)), None)
    if aside is None or key in keys_of(aside):
        return ""
    return f"says unaccounted, but it is set aside with others by the pattern {aside.address}; change that under Route"


def _without(plan: Plan, keys: set[str]) -> None:
    """Take addresses out of those that are set aside by name."""
    kept: list[Aside] = []
    for aside in plan.route.aside:
        named = keys_of(aside)
        if keys.isdisjoint(named):
            kept.append(aside)
        else:
            kept += asides_of([key for key in named if key not in keys], aside.reason)
    plan.route.aside = kept


def take_decisions(crossing: int, path: Path, over: list[int], by: str) -> tuple[int, str]:
    """Take the altered rows: as pairs, or as addresses set aside; one change that can be taken back. Rows that were
    decided here meanwhile are taken only when their numbers stand in ``over``. Gives how many, and the change in
    words."""
    read = read_decisions(crossing, path)
    rows = [row for row in read.altered if not row.meanwhile or row.number in set(over)]
    if not rows:
        raise FerryError("No row of the table says anything new.")
    if len(rows) > MOST:
        raise FerryError(f"{len(rows):,} altered rows are too many at once.", "Write a rule instead.")
    revision = changes.revision(crossing)
    plan = crossings.load_plan(crossing)
    lines: list[Pair] = []
    reasons: dict[str, list[str]] = {}
    by_hand = {pair.old: pair for pair in crossings.load_pairs(crossing)}
    back = {row.address for row in rows if row.says[0] == OPEN}
    _without(plan, {row.address for row in rows})  # what is said of an address now stands alone
    for row in rows:
        decision, target, why = row.says
        if decision == OPEN:
            continue
        if decision == "set aside":
            reasons.setdefault(why, []).append(row.address)
            continue
        status = 410 if decision == "retired" else 301
        line = neutral(row.address, "" if status == 410 else target or row.address, status, "exact")
        if why == row.was[2]:  # nobody's new words: what a person said before stays, ours are made anew
            why = by_hand[line.old].reason if line.old in by_hand else ""
        lines.append(Pair(old=line.old, new=line.new, status=status, reason=why))  # type: ignore[arg-type]
    lines = plan.cut(lines)
    gone = [key for keys in reasons.values() for key in keys] + sorted(back)
    plan.route.aside[:0] = [aside for why, keys in reasons.items() for aside in asides_of(keys, why)]
    number = len(rows)
    text = f"{number:,} row{'s' if number != 1 else ''} of a table brought back"
    changes.change_all(crossing, plan, revision, lines, [key for key in gone if key in by_hand], by, text)
    path.unlink(missing_ok=True)
    return number, text
