"""Columns of a side's addresses as arrays, made once and kept until the data they come from changes.

All arrays of a side go by the same addresses in order of their ids, so that a filter is a mask and an order a
permutation. What a survey found changes only with the next survey, so of a large side it lies on disk as well: made
at the end of the job, it is there for whoever opens a list.
"""

from __future__ import annotations

import functools
import json
import shutil
import threading
import time
from collections import OrderedDict
from collections.abc import Callable, Iterable
from contextvars import ContextVar
from dataclasses import dataclass
from pathlib import Path
from typing import Any, ParamSpec, TypeVar

import numpy as np
from numpy.typing import NDArray

from grandferry.core.jobs import FINDING
from grandferry.core.side import Side

from ..db import one, rows, workspace_folder

KEPT = 80  # columns, orders and trees kept in memory, at the most 8 bytes an address each
LARGE = 50_000  # addresses; the columns of a smaller side are made in no time
SETTLES = 5.0  # seconds for which a large side's lists stand still while a job writes
TABLE = "FROM address WHERE crossing_id = ? AND side = ? AND id <= ?"

K = TypeVar("K")
P = ParamSpec("P")
_lock = threading.Lock()
_made: OrderedDict[tuple[Any, ...], Any] = OrderedDict()
_turns: dict[tuple[Any, ...], threading.Lock] = {}


@dataclass(frozen=True, slots=True)
class State:
    """A side's data at one moment: ``found`` and ``decided`` grow with what changes either; ``top``: its last
    address; ``large``: it has LARGE addresses or more."""

    folder: str
    found: int
    decided: int
    top: int
    large: bool


_states: dict[tuple[str, Side], tuple[float, State]] = {}
_moment: ContextVar[dict[tuple[str, Side], State] | None] = ContextVar("moment", default=None)


def one_moment(function: Callable[P, K]) -> Callable[P, K]:
    """While the function runs, the data of a side counts as it was when first looked at: all arrays it is given are
    equally long, whatever a job writes meanwhile."""

    @functools.wraps(function)
    def inner(*args: P.args, **named: P.kwargs) -> K:
        if _moment.get() is not None:
            return function(*args, **named)
        token = _moment.set({})
        try:
            return function(*args, **named)
        finally:
            _moment.reset(token)

    return inner


def state(side: Side) -> State:
    """A side's data as it is now; of a large one, while a job writes, as it was some seconds ago."""
    known = (str(workspace_folder()), side)
    moment = _moment.get()
    if moment is None:
        return _state(*known)
    if known not in moment:
        moment[known] = _state(*known)
    return moment[known]


def _state(folder: str, side: Side) -> State:
    decided, running = rows(
        "SELECT (SELECT coalesce(max(id), 0) FROM event WHERE crossing = ?), EXISTS (SELECT 1 FROM job WHERE "
        "crossing_id = ? AND state = 'running')",
        side.crossing,
        side.crossing,
    )[0]
    before = _states.get((folder, side))
    if before is not None and before[1].decided == decided:
        return before[1]
    if running and before is not None and before[1].large and time.monotonic() - before[0] < SETTLES:
        return before[1]
    marks = ",".join("?" * len(FINDING))
    found = one(
        "SELECT e.id FROM event e LEFT JOIN job j ON j.id = e.job WHERE e.crossing = ? AND (j.kind IS NULL OR j.kind "
        f"IN ({marks})) ORDER BY e.id DESC LIMIT 1",
        side.crossing,
        *FINDING,
    )
    top = one("SELECT max(id) FROM address WHERE crossing_id = ? AND side = ?", *side) or 0
    large = one(f"SELECT EXISTS (SELECT 1 {TABLE} LIMIT 1 OFFSET ?)", *side, top, LARGE - 1)
    now = State(folder, found or 0, decided, top, bool(large))
    _states[folder, side] = (time.monotonic(), now)
    return now


def keep(side: Side, what: tuple[Any, ...], make: Callable[[], K], *, found: bool = False) -> K:
    """What was made for a side as it is now, else it is made and kept until the data changes. ``found``: it comes
    from what a survey found alone, whatever is decided of it."""
    now = state(side)
    scope = ("found", now.found) if found else ("decided", now.decided)
    known = (side, now.folder, scope, now.top, *what)
    with _lock:
        if known in _made:
            _made.move_to_end(known)
            return _made[known]  # type: ignore[no-any-return]
        turn = _turns.setdefault(known, threading.Lock())
    with turn:  # whoever asks for the same meanwhile waits for it
        with _lock:
            if known in _made:
                return _made[known]  # type: ignore[no-any-return]
        made = _read(side, now, what) if found else None
        if made is None:
            made = make()
        with _lock:
            _turns.pop(known, None)
            for old in [k for k in _made if k[:2] == known[:2] and k[2][0] == scope[0] and k[2:4] != known[2:4]]:
                del _made[old]
            _made[known] = made
            while len(_made) > KEPT:
                _made.popitem(last=False)
    return made


def ready(side: Side, *what: Any) -> bool:
    """Whether something of what was found is there for a side as it is now, in memory or on disk."""
    now = state(side)
    with _lock:
        if (side, now.folder, ("found", now.found), now.top, *what) in _made:
            return True
    return (_home(side, now) / "whole").exists()


# --- on disk ----------------------------------------------------------------------------------------


def _home(side: Side, now: State) -> Path:
    return Path(now.folder) / "lists" / f"{side.crossing}-{side.name}" / f"{now.found}-{now.top}"


def _file(what: tuple[Any, ...]) -> str:
    return "-".join(str(part) for part in what)


def _read(side: Side, now: State, what: tuple[Any, ...]) -> Any:
    home = _home(side, now)
    if not (home / "whole").exists():
        return None
    path = home / f"{_file(what)}.npy"
    if not path.exists():
        return None
    array = np.load(path, mmap_mode="r")
    values = home / f"{_file(what)}.json"
    return (json.loads(values.read_text("utf-8")), array) if values.exists() else array


def prepare(side: Side, wanted: Iterable[tuple[tuple[Any, ...], Callable[[Side], Any]]]) -> None:
    """Make columns of what was found, of a large side, and leave them on disk in the place of older ones."""
    now = state(side)
    if not now.large:
        return
    home = _home(side, now)
    if (home / "whole").exists():
        return
    home.mkdir(parents=True, exist_ok=True)
    for what, make in wanted:
        made = make(side)
        values, array = made if isinstance(made, tuple) else (None, made)
        np.save(home / f"{_file(what)}.npy", array)
        if values is not None:
            (home / f"{_file(what)}.json").write_text(json.dumps(values, ensure_ascii=False), "utf-8")
    (home / "whole").touch()
    for other in home.parent.iterdir():
        if other != home:
            shutil.rmtree(other, ignore_errors=True)
    with _lock:  # whoever made them need not keep them
        for known in [k for k in _made if k[0] == side]:
            del _made[known]


# --- from the database ------------------------------------------------------------------------------


def numbers(expression: str, rest: str, *values: Any) -> NDArray[np.int64]:
    """A column of whole numbers as an array. SQLite joins it to one text and NumPy reads that: no row becomes a Python
    object, which for a million rows is the difference between a tenth of a second and a whole one."""
    text = one(f"SELECT group_concat(v, ' ') FROM (SELECT {expression} AS v {rest} LIMIT -1)", *values)
    return np.fromstring(text, dtype=np.int64, sep=" ") if text else np.empty(0, dtype=np.int64)


def texts(expression: str, rest: str, *values: Any) -> str:
    """A column of texts, each but the last with a line end behind it; line ends within are blanks."""
    text = one(
        f"SELECT group_concat(v, char(10)) FROM (SELECT replace({expression}, char(10), ' ') AS v {rest} LIMIT -1)",
        *values,
    )
    return text or ""


def codes(expression: str, rest: str, *values: Any) -> tuple[list[str], NDArray[np.int32]]:
    """(the different values of a column, sorted; for each row which of them it has)."""
    value = f"replace(coalesce({expression}, ''), char(31), ' ')"
    text = one(f"SELECT group_concat(v, char(31)) FROM (SELECT {value} AS v {rest} LIMIT -1)", *values)
    each = text.split("\x1f") if text is not None else []
    different = sorted(set(each))
    place = {value: n for n, value in enumerate(different)}
    return different, np.fromiter(map(place.__getitem__, each), dtype=np.int32, count=len(each))
