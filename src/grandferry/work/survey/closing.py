"""What is known of a side only when a survey of it has come to its end, or was stopped: how far each address is from
the start, what leads to it, what is alike, what belongs to the account."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

from grandferry.core.address import Address
from grandferry.core.media.facts import Facts, look
from grandferry.core.side import Side
from grandferry.store import bodies, media
from grandferry.store.db import connection
from grandferry.store.survey import aims, depths, likeness, sounded, surveyed
from grandferry.work.jobs.context import Context
from grandferry.work.survey.likeness import find

AT_A_TIME = 20_000  # rows in one transaction
FILES_AT_A_TIME = 500


def close(context: Context, start: Address) -> None:
    """Measure a side anew, and write down what differs."""
    side = context.side
    with ThreadPoolExecutor(1) as beside:
        alike_ = beside.submit(_alike, side)
        apart, links = depths.measure(side, str(start))
        alike = alike_.result()
    for rows, store in ((apart, depths.store), (links, depths.store_links)):
        for first in range(0, len(rows), AT_A_TIME):  # others write as well, and wait only so long
            with context.writing():
                store(rows[first : first + AT_A_TIME])
    with context.writing():
        likeness.clear(side)
    for first in range(0, len(alike), AT_A_TIME):
        with context.writing():
            likeness.add(side, alike[first : first + AT_A_TIME])
    if side.name == "old":
        with context.writing():
            surveyed.count_accounts(context.crossing, context.plan.side("old").host)
    with context.writing():
        aims.measure(side)
    with context.writing():
        surveyed.count_shut_out(side)
    look_at_files(context)
    with context.writing():
        known = sounded.soundings(side).get("start") or {}
        sounded.sound(side, "start", known | sounded.start_facts(side, str(start)))


def look_at_files(context: Context) -> None:
    """Look at the files that nobody has looked at: what they are, by their content."""
    found: list[tuple[str, Facts]] = []
    for body, mime, size in media.unlooked(context.side):
        with bodies.opened(body) as stream:
            found.append((body, look(stream, mime, size)))
        if len(found) >= FILES_AT_A_TIME:
            with context.writing():
                media.store(found)
            found = []
    if found:
        with context.writing():
            media.store(found)


def _alike(side: Side) -> list[likeness.Alike]:
    """What is alike, found in a thread of its own."""
    with connection():
        return find(side)
