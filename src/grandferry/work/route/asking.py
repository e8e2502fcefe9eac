"""Questions to the owner of the old site: asked of many addresses at once, given out as a sheet, answered one by one or
by the sheet that comes back. Until then they lead on for now."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import dataclass, field
from pathlib import Path
from typing import NamedTuple

from grandferry.core.errors import FerryError
from grandferry.core.plan import Plan, Question
from grandferry.core.route.redirects import without_host
from grandferry.core.side import Side
from grandferry.ports.sources.table import table_rows
from grandferry.ports.targets.sheet import write_table
from grandferry.store import changes, crossings, route
from grandferry.store.db import now
from grandferry.store.lists import windows
from grandferry.work.names import safe_cell
from grandferry.work.route.decisions import MOST, Said, problem_of, settle

COLUMNS = ("address", "title", "visits", "question", "leads for now to", "answer", "new address", "why", "answered by")
NEEDED = ("address", "question", "answer")
ANSWERS = ("stays", "moved", "retired", "set aside")


class Asked(NamedTuple):
    """An old address that the owner is asked about. ``address``: its id, 0 when it is not in the account any more;
    ``target``: where it leads now, by its question or otherwise (``origin``)."""

    address: int
    key: str
    title: str
    visits: int
    asked: str
    until: str
    fate: str
    proven: bool
    origin: str
    target: str
    answer: str
    by: str
    at: str


def questions(crossing: int) -> list[Asked]:
    """Every address that is or was asked about: the open ones first, the most visited first."""
    plan, about = crossings.load_plan(crossing), route.asked_about(crossing)
    found = []
    for question in plan.route.questions:
        for key in question.about:
            row = about.get(key) or route.AskedAbout(0, key, "", 0, "", False, "", "")
            found.append(
                Asked(
                    row.id,
                    key,
                    row.title,
                    row.visits,
                    question.asked,
                    question.until,
                    row.fate,
                    bool(row.proven),
                    row.origin,
                    row.target,
                    question.answer,
                    question.by,
                    question.at,
                )
            )
    return sorted(found, key=lambda one: (bool(one.answer), -one.visits, one.key))


def ask(crossing: int, chosen: windows.Selection, asked: str, until: str, by: str) -> tuple[int, str]:
    """Ask the owner about all counted addresses of a selection; gives how many, and the change in words. Who was asked
    about already is asked anew, in these words. Raises FerryError when nothing is chosen or no question is written."""
    rows = [row for row in windows.by_ids(windows.ordered(Side(crossing), chosen, "key").tolist()) if row.counted]
    if not rows:
        raise FerryError("None of the chosen addresses is in the account.", "Choose addresses of the old host itself.")
    if len(rows) > MOST:
        raise FerryError(f"{len(rows):,} addresses are too many for one question.", "Ask about fewer at once.")
    if len(asked.strip()) < 3:
        raise FerryError("No question is written.", "Say in a few words what the owner is to tell.")
    keys = [row.key for row in rows]
    plan = crossings.load_plan(crossing)
    ours = without_host(until.strip(), plan.our_hosts)
    _take_out(plan, set(keys), open_only=True)
    try:
        plan.route.questions.append(Question(about=keys, asked=asked.strip(), until=ours, at=now()))
    except ValueError:
        raise FerryError(
            f"“{until.strip()}” is no place to lead to for now.", "Give a new address, the page above, or nothing."
        ) from None
    some = keys[0] if len(keys) == 1 else f"{len(keys):,} addresses"
    text = f"the owner is asked about {some}: {asked.strip()}"[:300]
    had = {pair.old for pair in crossings.load_pairs(crossing)} & set(keys)
    changes.change_all(crossing, plan, changes.revision(crossing), [], sorted(had), by, text)
    return len(keys), text


class Answer(NamedTuple):
    """What the owner says of an address: one of ANSWERS, where it leads, why, and who says so."""

    key: str
    answer: str
    target: str = ""
    why: str = ""
    who: str = ""


def answer(crossing: int, answers: Collection[Answer], by: str) -> tuple[int, str]:
    """Put answers in the place of what was led to for now, as pairs and entries that are set aside, in one change; the
    questions stay, answered. Gives how many, and the change in words. Raises FerryError for one that says nothing that
    can be done, or is about nothing that was asked."""
    plan = crossings.load_plan(crossing)
    asked = plan.route.asked
    for one in answers:
        problem = _problem(one, asked)
        if problem:
            raise FerryError(f"{one.key}: {problem}.")
    if not answers:
        raise FerryError("No question is chosen.")
    _take_out(plan, {one.key for one in answers}, open_only=True)
    alike: dict[tuple[str, str, str, str], list[str]] = {}
    for one in answers:
        question = asked[one.key]
        words = f"{one.answer} {one.target}".strip() + (f": {one.why}" if one.why else "")
        alike.setdefault((question.asked, question.until, words[:2000], one.who or by), []).append(one.key)
    for (words, until, said, who), keys in alike.items():
        plan.route.questions.append(Question(about=keys, asked=words, until=until, answer=said, by=who, at=now()))
    lines, drop = settle(plan, (Said(one.key, one.answer, one.target, _reason(one)) for one in answers))
    text = f"answered: {_some(one.key for one in answers)}"
    had = {pair.old for pair in crossings.load_pairs(crossing)}
    gone = [key for key in drop if key in had]
    changes.change_all(crossing, plan, changes.revision(crossing), lines, gone, by, text)
    return len(answers), text


def withdraw(crossing: int, keys: Collection[str], by: str) -> tuple[int, str]:
    """Take questions back, answered or not; what answers decided stays. Gives how many, and the change in words."""
    plan = crossings.load_plan(crossing)
    there = {key for question in plan.route.questions for key in question.about} & set(keys)
    if not there:
        raise FerryError("None of these addresses is asked about.")
    _take_out(plan, there, open_only=False)
    text = f"no longer asked: {_some(sorted(there))}"
    changes.change_plan(crossing, plan, changes.revision(crossing), by, text)
    return len(there), text


def _some(keys: Iterable[str]) -> str:
    keys = list(keys)
    return keys[0][:200] if len(keys) == 1 else f"{len(keys):,} questions"


def _reason(one: Answer) -> str:
    said = f"the owner{f' ({one.who})' if one.who else ''} said so"
    return f"{said}: {one.why}" if one.why else said


def _problem(one: Answer, asked: dict[str, Question]) -> str:
    if one.key not in asked:
        return "no open question is about it"
    if one.answer not in ANSWERS:
        return f"“{one.answer}” is none of {', '.join(ANSWERS)}"
    return problem_of(one.key, (one.answer, one.target, _reason(one)))


def _take_out(plan: Plan, keys: set[str], *, open_only: bool) -> None:
    """Take addresses out of the questions about them; a question about nothing goes."""
    kept = []
    for question in plan.route.questions:
        if open_only and not question.open:
            kept.append(question)
            continue
        about = [key for key in question.about if key not in keys]
        if about:
            kept.append(question.model_copy(update={"about": about}))
    plan.route.questions = kept


def write_questions(crossing: int, out: Path) -> int:
    """Write the open questions as a sheet for the owner, as CSV or XLSX by the ending of ``out``; gives its rows."""
    table = [
        (
            safe_cell(one.key),
            safe_cell(one.title),
            one.visits,
            safe_cell(one.asked),
            safe_cell(one.target if one.origin == "question" else ""),
            "",
            "",
            "",
            "",
        )
        for one in questions(crossing)
        if not one.answer
    ]
    write_table(out, "questions", COLUMNS, table, crossings.last_change(crossing))
    return len(table)


@dataclass(slots=True)
class Returned:
    """A sheet that came back: ``answered`` rows were taken, ``empty`` ones hold no answer, ``bad`` ones (row, address,
    why) could not be taken."""

    answered: int = 0
    empty: int = 0
    bad: list[tuple[int, str, str]] = field(default_factory=list)


def read_questions(crossing: int, path: Path, by: str) -> Returned:
    """Take the answers of a sheet, in one change; rows that cannot be taken are told and change nothing. A row with a
    new address alone is moved there. Raises FerryError when it is no such sheet."""
    lines = table_rows(path)
    head = [name.strip().lower() for name in next(lines, [])]
    missing = [name for name in NEEDED if name not in head]
    if missing:
        raise FerryError(
            "This is no sheet of questions that was given out here.",
            f"It needs the column{'s' if len(missing) > 1 else ''} {', '.join(f'“{name}”' for name in missing)}.",
        )
    at = {name: head.index(name) for name in COLUMNS if name in head}
    asked = crossings.load_plan(crossing).route.asked
    read, answers = Returned(), dict[str, Answer]()
    for number, line in enumerate(lines, 2):
        cells = {name: line[place].strip() if place < len(line) else "" for name, place in at.items()}
        if not any(cells.values()):
            continue
        key, target = cells["address"].removeprefix("'"), cells.get("new address", "")
        said = " ".join(cells["answer"].lower().split()) or ("moved" if target else "")
        if not said:
            read.empty += 1
            continue
        one = Answer(key, said, target, cells.get("why", "")[:500], cells.get("answered by", "")[:100])
        problem = "stands in an earlier row as well" if key in answers else _problem(one, asked)
        if problem:
            read.bad.append((number, key, problem))
            continue
        answers[key] = one
    if answers:
        read.answered, _ = answer(crossing, list(answers.values()), by)
    return read
