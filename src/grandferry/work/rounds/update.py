"""Bringing up to date as one job: what is behind, and that alone, in the order of the stages."""

from __future__ import annotations

from typing import Any

from grandferry.work.jobs.context import Context
from grandferry.work.lift import run as lift
from grandferry.work.refit import run as refit
from grandferry.work.route import run as route
from grandferry.work.sort import run as sort

STAGES = (("sort", sort.run), ("lift", lift.run), ("refit", refit.run), ("route", route.run))


def run(context: Context) -> dict[str, Any]:
    """Sort, lift, refit and decide what is behind. The result says of each stage how many rows were done and how many
    left as they were."""
    told: dict[str, Any] = {}
    for stage, work in STAGES:
        context.counters.clear()
        context.progress(force=True, stage=stage)
        found = work(context)
        told[stage] = {"done": found["done"], "left": found["left"]}
    context.counters.clear()
    done, left = (sum(row[name] for row in told.values()) for name in ("done", "left"))
    context.progress(force=True, done=done, all=done + left, left=left)
    return told
