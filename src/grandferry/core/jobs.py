"""Every kind of long work: what it is told, of which stage it is, and what it changes. One table for API, worker,
command line, caches and interface.

The module of ``work`` that does it is named in ``room``; its ``run`` takes the job's context and gives its result.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from .errors import FerryError
from .side import SideName


class Stage(StrEnum):
    SURVEY = "survey"
    SORT = "sort"
    LIFT = "lift"
    REFIT = "refit"
    ROUTE = "route"
    LAND = "land"


class Finding(StrEnum):
    """What a job changes: ``ADDRESSES`` what is known of addresses, ``DECISIONS`` what is decided and judged of them,
    ``ITEMS`` what is made of pages, ``OUTSIDE`` another system or a file given out."""

    ADDRESSES = "addresses"
    DECISIONS = "decisions"
    ITEMS = "items"
    OUTSIDE = "outside"


class Told(BaseModel):
    """What a job is told; unknown names are refused."""

    model_config = ConfigDict(extra="forbid")


class Nothing(Told):
    pass


class Again(Told):
    """``all``: everything anew, not only what is behind."""

    all: bool = False


class Pages(Again):
    """``only``: the number of one address, whose page alone is done."""

    only: int = Field(0, ge=0, le=2**62)


class OfSide(Told):
    """``side``: which of the two sites."""

    side: SideName = "old"


class SurveyTold(OfSide):
    """``again``: ask every address anew in a survey that has ended; ``only``: one address; ``archive``: read from
    it."""

    only: int = Field(0, ge=0, le=2**62)
    again: bool = False
    archive: str = Field("", max_length=300)


class Trial(OfSide):
    """``pages``: so many are read, and nothing of them is kept."""

    pages: int = Field(4, ge=0, le=50)


class LogTold(Told):
    """``file``: the token of an uploaded log; ``own``: machines whose visits do not count; ``by``: who handed it
    over."""

    file: str
    name: str
    own: list[str] = []
    by: str = ""


class LandTold(Told):
    """``dry``: only say what would be done; ``trial``: the old key of the one item to send; ``over``: what a person
    changed in a folder is written over; ``out``: a folder to land in, and ``target``: settings to land with, instead of
    those of the plan; ``take_back``: what was landed is taken away."""

    dry: bool = False
    trial: str = Field("", max_length=2000)
    over: bool = False
    out: str = Field("", max_length=4000)
    target: dict[str, Any] = {}
    take_back: bool = False


class CheckTold(Told):
    """``against``: the host to ask, else the plan's interim host; ``failed``: only what the latest round there has not
    proven."""

    against: str = Field("", max_length=2000)
    failed: bool = False


class CompareTold(Told):
    """``against``: what was lifted (""), the plan before a change (``change:N``), that of a crossing
    (``crossing:N``)."""

    against: str = Field("", max_length=60)


@dataclass(frozen=True, slots=True)
class JobKind:
    """``doing``: what it is called while it runs. ``by_hand``: a person may start it as it is (others are begun by
    handing something over). ``pauses``: it can be held and go on."""

    name: str
    doing: str
    stage: Stage
    room: str
    told: type[Told] = Nothing
    changes: frozenset[Finding] = frozenset()
    by_hand: bool = True
    pauses: bool = False

    @property
    def sided(self) -> bool:
        """Whether it is of one of the two sites, to be said with it."""
        return issubclass(self.told, OfSide)


def _all(*changes: Finding) -> frozenset[Finding]:
    return frozenset(changes)


_ADDRESSES, _DECISIONS = _all(Finding.ADDRESSES), _all(Finding.DECISIONS)
_ITEMS, _OUTSIDE = _all(Finding.ITEMS), _all(Finding.OUTSIDE)
_TABLE = (
    JobKind("sound", "Soundings", Stage.SURVEY, "survey.soundings", Trial),
    JobKind("survey", "Survey", Stage.SURVEY, "survey.run", SurveyTold, _ADDRESSES, pauses=True),
    JobKind("log", "Reading the log", Stage.SURVEY, "survey.ownerlists", LogTold, _ADDRESSES, by_hand=False),
    JobKind("copy", "Offline copy", Stage.SURVEY, "survey.offline", OfSide, _OUTSIDE),
    JobKind("group", "Grouping", Stage.SORT, "sort.group", Nothing),
    JobKind("sort", "Sorting", Stage.SORT, "sort.run", Again, _ADDRESSES),
    JobKind("lift", "Lifting", Stage.LIFT, "lift.run", Pages, _ITEMS),
    JobKind("compare", "Comparing", Stage.LIFT, "lift.compare", CompareTold),
    JobKind("refit", "Refitting", Stage.REFIT, "refit.run", Pages, _ITEMS),
    JobKind("route", "Deciding fates", Stage.ROUTE, "route.run", Nothing, _DECISIONS),
    JobKind("suggest", "Suggesting pairs", Stage.ROUTE, "route.suggesting"),
    JobKind("update", "Bringing up to date", Stage.ROUTE, "rounds.update", Nothing, _ADDRESSES | _ITEMS | _DECISIONS),
    JobKind("draft", "Drafting", Stage.SORT, "rounds.draft", Nothing, _ADDRESSES | _ITEMS | _DECISIONS),
    JobKind("land", "Landing", Stage.LAND, "land.run", LandTold, _OUTSIDE),
    JobKind("check", "Checking", Stage.ROUTE, "route.check", CheckTold, _DECISIONS),
)
JOBS: dict[str, JobKind] = {kind.name: kind for kind in _TABLE}
NAMES = tuple(kind.name for kind in _TABLE)
STARTED_BY_HAND = tuple(kind.name for kind in _TABLE if kind.by_hand)
FINDING = tuple(kind.name for kind in _TABLE if Finding.ADDRESSES in kind.changes)


def told(kind: str, params: dict[str, Any]) -> dict[str, Any]:
    """What a job of a kind is told, checked, without what is as it is anyway. Raises FerryError."""
    try:
        return JOBS[kind].told.model_validate(params).model_dump(exclude_defaults=True)
    except KeyError:
        raise FerryError(f"“{kind}” is no kind of work.", f"One of: {', '.join(JOBS)}.") from None
    except ValidationError as problem:
        first = problem.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        raise FerryError(f"A job of the kind {kind} cannot be told “{where}”: {first['msg']}.") from None
