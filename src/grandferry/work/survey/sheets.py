"""What is decided of every old address as a table to alter in a spreadsheet, and that table brought back.

Each row carries a mark of what it said when it was given out. So a row that nobody altered changes nothing, whatever
has been decided since; and one that was altered there and here is told, not taken in silence.
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, field
from pathlib import Path

from grandferry.core.because import sentence
from grandferry.core.errors import FerryError
from grandferry.core.patterns import compile_pattern
from grandferry.core.plan import Aside
from grandferry.core.route.decided import COLUMNS, MARK, is_decisions
from grandferry.core.route.fate import Decision
from grandferry.ports.sources.table import table_rows
from grandferry.ports.targets.sheet import write_table
from grandferry.store import changes, crossings, route
from grandferry.work.names import safe_cell
from grandferry.work.route.decisions import MOST, OPEN, Said, keys_of, problem_of, settle


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
    write_table(out, "decisions", COLUMNS, table, crossings.last_change(crossing))
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
        problem = problem_of(key, says) if says[0] != OPEN else _held(key, now[key], asides)
        if problem:
            read.bad.append((number, key, problem))
            continue
        meanwhile = bool(cells[MARK]) and _mark(key, *was) != cells[MARK]
        read.altered.append(Altered(number, key, (was[0], was[1], was[2]), says, meanwhile))
    return read


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
    by_hand = {pair.old: pair for pair in crossings.load_pairs(crossing)}
    said = []
    for row in rows:
        decision, target, why = row.says
        if why == row.was[2] and decision != "set aside":  # nobody's new words: a person's stay, ours are made anew
            why = by_hand[row.address].reason if row.address in by_hand else ""
        said.append(Said(row.address, decision, target, why))
    lines, gone = settle(plan, said)
    number = len(rows)
    text = f"{number:,} row{'s' if number != 1 else ''} of a table brought back"
    drop = [key for key in gone if key in by_hand]
    changes.change_all(crossing, plan, revision, lines, drop, by, text)
    path.unlink(missing_ok=True)
    return number, text
