"""What no longer agrees with what it was made from, stage by stage; counted, listed, and known again only after a
change."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Generic, NamedTuple, TypeVar

from grandferry.core.jobs import Stage
from grandferry.core.made import Behind
from grandferry.core.plan import Plan
from grandferry.store import changes, crossings, jobs, stamps
from grandferry.store import sort as sort_store
from grandferry.store.db import transaction
from grandferry.store.survey import surveyed
from grandferry.work.lift import run as lift
from grandferry.work.refit import run as refit
from grandferry.work.rounds.stamping import land_stamp
from grandferry.work.route import run as route
from grandferry.work.sort import run as sort

_KEPT = 20  # crossings
T = TypeVar("T")


class Late(NamedTuple):
    """A finding that is behind: the stage, the old key, the field (of a body) or "", and why."""

    stage: Stage
    key: str
    field: str
    why: Behind


class _Known(Generic[T]):
    """What was found of a crossing, until its plan changes or a job ends."""

    def __init__(self, find: Callable[[int], T]):
        self._find = find
        self._kept: dict[tuple[str, int], tuple[tuple[int, int], T]] = {}
        self._lock = threading.Lock()

    def of(self, crossing: int) -> T:
        place = (jobs.sign_of_life().as_posix(), crossing)
        moment = (changes.revision(crossing), jobs.last_end(crossing))
        with self._lock:
            kept = self._kept.get(place)
            if kept is not None and kept[0] == moment:
                return kept[1]
        found = self._find(crossing)
        with self._lock:
            if len(self._kept) >= _KEPT:
                self._kept.clear()
            self._kept[place] = (moment, found)
        return found


def late(crossing: int) -> list[Late]:
    """Everything in a crossing that is behind, in the order of the stages. What hangs on something that is behind
    itself is named once that is done."""
    return _late.of(crossing)


def _find(crossing: int) -> list[Late]:
    plan = crossings.load_plan(crossing)
    _adopt_kinds(crossing, plan)
    found: list[Late] = []
    if plan.kinds:
        found += [Late(Stage.SORT, page.key, "", why) for page, why in sort.behind_pages(crossing, plan)]
    lifting, gone = lift.behind_work(crossing, plan)
    found += [Late(Stage.LIFT, work.page.key, "", why) for work, why in lifting]
    found += [Late(Stage.LIFT, made.key, "", Behind.GONE) for made in gone]
    found += [Late(Stage.REFIT, w.field.key, w.field.field, why) for w, why in refit.behind_work(crossing, plan)]
    found += [Late(Stage.ROUTE, key, "", Behind.CHANGED) for key in route.behind_keys(crossing, plan)]
    return found


def _adopt_kinds(crossing: int, plan: Plan) -> None:
    """Kinds found by a version that did not note what they were made from count as made from what is there, if nobody
    changed anything since: they are found by the same rules in the same way."""
    if not sort_store.unnoted(crossing) or jobs.changed_since(crossing, "sort"):
        return
    pages = [page for page in surveyed.pages(crossing) if page.made_from == ""]
    with transaction():
        sort_store.restamp(list(zip(sort.stamps(plan, pages), (page.address for page in pages), strict=True)))


def counts(crossing: int) -> dict[Stage, int]:
    """How many findings of each stage are behind, those with any."""
    told: dict[Stage, int] = {}
    for one in late(crossing):
        told[one.stage] = told.get(one.stage, 0) + 1
    return told


def unsent(crossing: int) -> bool:
    """Whether what would be landed has changed since it was landed last."""
    return _unsent.of(crossing)


def _find_unsent(crossing: int) -> bool:
    plan = crossings.load_plan(crossing)
    stamp = stamps.get(crossing, "land")
    return plan.land is not None and bool(stamp) and stamp != land_stamp(crossing, plan)


_late = _Known(_find)
_unsent = _Known(_find_unsent)
