"""Bringing a plan into the workspace, and running its stages one after the other as jobs."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import NamedTuple

from grandferry.core.errors import NotThere, PlanError
from grandferry.core.made import made_from
from grandferry.core.side import Side
from grandferry.ports.planfolder import PlanFolder, read_plan
from grandferry.ports.sources.serverlog import LogCount, count_visits, log_lines
from grandferry.store import changes, crossings, stamps
from grandferry.store.db import transaction
from grandferry.store.schema import Crossing
from grandferry.store.survey import given
from grandferry.store.survey.given import Visits
from grandferry.work.plan.leave import entered, user


def bring_in(path: Path) -> tuple[Crossing, PlanFolder]:
    """Read a plan and make its decisions, and the visits of its logs, those of the crossing of its name (made
    when new). Gives the crossing and the plan as read. Raises PlanError.
    """
    content = read_plan(path)
    sources = _logs(content, path)
    found = crossings.crossing_named(content.plan.name) or crossings.make_crossing(content.plan.name)
    host = content.plan.side("old").host
    mark = made_from(1, host, {name: source.mark for name, source in sources.items()})
    counted = {} if stamps.get(found.id, "logs") == mark else {name: source.count() for name, source in sources.items()}
    for name, count in counted.items():
        if count.lines and count.unreadable == count.lines:
            raise PlanError(f"“{name}” holds no line in Combined Log Format.", hint="Is it an access log?")
    _set_plan(found.id, content)
    if stamps.get(found.id, "logs") != mark:
        with transaction():
            given.drop_of_plan(found.id)
            for name, count in counted.items():
                number = given.add(Side(found.id), name, "log", report=count.report(), from_plan=True)
                given.add_visits(number, [Visits(host, target, visits) for target, visits in count.visits.items()])
            stamps.put(found.id, "logs", mark)
    return found, content


def _set_plan(crossing: int, content: PlanFolder) -> None:
    """Make a plan's decisions those of a crossing, as a change that can be taken back; none when they are so already.
    What was set by hand here and is not named in the plan stays."""
    pairs = crossings.load_pairs(crossing)
    try:
        here = crossings.load_plan(crossing)
    except NotThere:
        content.plan = entered(content.plan, None, user())
    else:
        content.plan = entered(content.plan, here.old.permission, user())
        if not content.plan.survey.preset:  # what was recognised here
            content.plan.survey.preset = here.survey.preset
    text = f"plan “{content.plan.name}” brought in"
    try:
        same = crossings.load_plan(crossing) == content.plan and pairs == content.pairs
    except NotThere:  # a new crossing
        crossings.save_plan(crossing, content.plan, content.pairs)
        same = True
    if not same:
        drop = [pair.old for pair in pairs]
        changes.change_all(crossing, content.plan, None, content.pairs, drop, "", text, content.edits, content.files)
    else:
        changes.change_by_hand(crossing, content.edits, content.files, "", text)


class _Log(NamedTuple):
    """An access log of a plan: what tells it from another one of its name, and how to count it."""

    mark: str
    count: Callable[[], LogCount]


def _logs(content: PlanFolder, path: Path) -> dict[str, _Log]:
    """The plan's access logs by name. Raises PlanError for one that is not there."""
    logs: dict[str, _Log] = {}
    for name in content.plan.survey.logs:
        beside = path / name if path.is_dir() else None
        if beside is not None and not beside.resolve().is_relative_to(path.resolve()):
            raise PlanError(f"the access log “{name}” lies outside the plan's folder.", file="plan.yaml")
        if beside is not None and beside.is_file():
            with beside.open("rb") as file:
                mark = hashlib.file_digest(file, "sha256").hexdigest()
            logs[name] = _Log(mark, partial(_count_file, beside))
        elif name in content.extra:
            lines = content.extra[name]
            logs[name] = _Log(hashlib.sha256(lines).hexdigest(), partial(count_visits, lines.splitlines()))
        else:
            raise PlanError(f"the access log “{name}” is not in the plan's folder.", file="plan.yaml")
    return logs


def _count_file(path: Path) -> LogCount:
    return count_visits(log_lines(path))
