"""Records taken into a crossing: joined to its pages by address, from where locators read them."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

from grandferry.core.errors import FerryError
from grandferry.core.records.record import Found, Record, Wanted, count
from grandferry.core.survey.scope import scope_of
from grandferry.ports.sources.feeds import DamagedFile
from grandferry.store import crossings, records
from grandferry.store.db import transaction
from grandferry.work.records.read import read_records

MOST = 500_000  # records of a file


@dataclass(frozen=True, slots=True)
class Taken:
    """What was taken: counted; how many are joined to a captured page; how many lie on another host; where the file is
    damaged ("" where it is not)."""

    found: Found
    joined: int
    elsewhere: int
    damaged: str


def take_records(
    crossing: int, path: Path, source: str, wanted: Wanted, columns: Mapping[str, str] | None = None
) -> Taken:
    """Take the records of a file that are meant, in the place of those that a file of this name (``source``) gave
    before. Raises FerryError for a file that cannot be read or holds none."""
    plan = crossings.load_plan(crossing)
    scope, start = scope_of(plan.side("old")), plan.old.start
    kept: list[records.NewRecord] = []
    bare: list[Record] = []
    damaged = ""
    elsewhere = 0
    try:
        for record in read_records(path, columns):
            if not wanted.holds(record):
                continue
            address = scope.normal(record.address, start) if record.address else None
            key = address.key if address is not None and address.host in scope.hosts else ""
            elsewhere += bool(record.address) and not key
            data = json.dumps(record.as_json(), ensure_ascii=False)
            hashed = hashlib.blake2b(data.encode("utf-8", "surrogatepass"), digest_size=8).hexdigest()
            kept.append(records.NewRecord(key, record.kind, record.state, data, hashed))
            record.content = record.summary = ""
            bare.append(record)
            if len(kept) > MOST:
                raise FerryError(
                    f"The file holds more than {MOST:,} records.", "Take in a part of it, by kind or date."
                )
    except DamagedFile as problem:
        damaged = str(problem)
    if not kept:
        raise FerryError(f"{path.name} holds no record that is meant, so nothing was taken.", damaged)
    with transaction():
        records.put(crossing, source, kept)
    joined = next(one.joined for one in records.sources(crossing) if one.source == source)
    return Taken(count(bare), joined, elsewhere, damaged)
