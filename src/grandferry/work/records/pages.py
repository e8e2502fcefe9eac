"""The own pages of records of which no page is captured."""

from __future__ import annotations

import json
from urllib.parse import urldefrag

from grandferry.core.records.page import page_of_record
from grandferry.store import bodies, crossings, jobs, records
from grandferry.store.db import transaction

AT_A_TIME = 200
MIME = "text/html"


def settle(crossing: int, at_its_end: bool = False) -> int:
    """Make the pages of records that have none, take away those that are no longer wanted; gives how many were made.
    While a survey runs nothing is done: it numbers addresses by itself, and comes to the same ``at_its_end``."""
    if not at_its_end and jobs.is_running(crossing, "survey"):
        return 0
    start = crossings.load_plan(crossing).old.start
    wanted = records.lone(crossing)
    with transaction():
        records.drop_pages(crossing)
    for first in range(0, len(wanted), AT_A_TIME):
        pages, packed = [], []
        for one in wanted[first : first + AT_A_TIME]:
            data = json.loads(one.data)
            body = page_of_record(data).encode("utf-8", "replace")
            name = bodies.digest(body)
            packed.append((name, len(body), *bodies.pack(body, MIME)))
            base = data["address"] if data["address"].startswith(("http://", "https://")) else start
            headers = json.dumps({"content-type": f"{MIME}; charset=utf-8", "record": one.hash})
            url = f"{urldefrag(base).url}#{one.page}"
            pages.append(records.NewPage(one.page, url, data["title"], headers, name, len(body)))
        bodies.put_many(packed)
        with transaction():
            records.add_pages(crossing, pages)
    return len(wanted)
