"""How many addresses of a survey still wait, kept until something changes."""

from __future__ import annotations

from grandferry.core.side import Side

from ..db import one
from . import columns, windows


def waiting(side: Side) -> int:
    """Addresses that are known and that the survey which is not at its end has not asked yet."""
    last = one("SELECT max(number) FROM survey_run WHERE crossing_id = ? AND side = ? AND ended = ''", *side)
    if last is None:
        return dict(windows.choices(side, windows.Selection(), "state")).get("waiting", 0)

    def count() -> int:
        return int(
            one(
                "SELECT count(*) FROM address WHERE crossing_id = ? AND side = ? AND (state = 'waiting' OR (state IN "
                "('done', 'failed') AND run < ?))",
                *side,
                last,
            )
        )

    return columns.keep(side, ("waiting", last), count, found=True)
