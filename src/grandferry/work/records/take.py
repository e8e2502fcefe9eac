"""Records taken into a crossing: joined to its pages by address, from where locators read them."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator, Mapping
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
AT_A_TIME = 200


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
    damaged: list[str] = []
    elsewhere = 0

    def meant() -> Iterator[Record]:
        """The records that are meant, each kept, what it says at length then let go."""
        nonlocal elsewhere
        waiting: list[records.NewRecord] = []
        try:
            for number, record in enumerate(filter(wanted.holds, read_records(path, columns)), 1):
                if number > MOST:
                    raise FerryError(f"The file holds more than {MOST:,} records.", "Take in a part, by kind or date.")
                address = scope.normal(record.address, start) if record.address else None
                key = address.key if address is not None and address.host in scope.hosts else ""
                elsewhere += bool(record.address) and not key
                data = json.dumps(record.as_json(), ensure_ascii=False)
                hashed = hashlib.blake2b(data.encode("utf-8", "surrogatepass"), digest_size=8).hexdigest()
                waiting.append(records.NewRecord(key, record.kind, record.state, data, hashed))
                if len(waiting) == AT_A_TIME:
                    records.add(crossing, source, waiting)
                    waiting.clear()
                yield record
        except DamagedFile as problem:
            damaged.append(str(problem))
        records.add(crossing, source, waiting)

    with transaction():  # what the file gave before stays, when it cannot be read this time
        records.drop(crossing, source)
        found = count(meant())
        if not found.records:
            raise FerryError(f"{path.name} holds no record that is meant, so nothing was taken.", "".join(damaged))
    joined = next(one.joined for one in records.sources(crossing) if one.source == source)
    return Taken(found, joined, elsewhere, "".join(damaged))
