"""Records taken into a crossing: joined to its pages by address, from where locators read them."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator, Mapping
from dataclasses import asdict, dataclass
from itertools import count as numbers
from pathlib import Path

from grandferry.core.errors import FerryError
from grandferry.core.records.page import name_of_record
from grandferry.core.records.record import RECORD, Found, Record, Wanted, count
from grandferry.core.survey.scope import scope_of
from grandferry.ports.sources.feeds import DamagedFile
from grandferry.store import crossings, records
from grandferry.store.db import transaction
from grandferry.store.survey import surveyed
from grandferry.work.records.pages import settle
from grandferry.work.records.read import read_records

MOST = 500_000  # records of a file
AT_A_TIME = 200


@dataclass(frozen=True, slots=True)
class Taken:
    """What was taken: counted; how many are joined to a captured page; how many lie on another host; how many are made
    pages of their own; how many public ones, of all files, lie at an address that no survey has met; where the file is
    damaged ("" where it is not)."""

    found: Found
    joined: int
    elsewhere: int
    own: int
    unknown: int
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
    known: set[str] = set()

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
                page = _page_key(source, name_of_record(asdict(record)), known)
                waiting.append(records.NewRecord(key, record.kind, record.state, data, hashed, page))
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
    with transaction():
        surveyed.count_accounts(crossing, plan.side("old").host)
    settle(crossing)
    joined, own = next((one.joined, one.own) for one in records.sources(crossing) if one.source == source)
    return Taken(found, joined, elsewhere, own, records.unknown(crossing), "".join(damaged))


def _page_key(source: str, name: str, known: set[str]) -> str:
    """The key of the page of a record, by its name in its file; a name that several have gets a number."""
    plain = " ".join(f"{source}/{name}".replace("#", "%23").split())
    made = next(key for n in numbers(1) if (key := RECORD + (plain if n == 1 else f"{plain} ({n})")) not in known)
    known.add(made)
    return made


def forget_records(crossing: int, source: str) -> None:
    """Forget the records of a file, and the pages made of them."""
    with transaction():
        records.drop(crossing, source)
        surveyed.count_accounts(crossing, crossings.load_plan(crossing).side("old").host)
    settle(crossing)
