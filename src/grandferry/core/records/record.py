"""A record: one piece of content as a feed, an export file or a row of a table gives it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterable
from dataclasses import asdict, dataclass, field
from typing import Any

# the states in which everybody can read a record, as feeds, exports and tables call them
PUBLIC = frozenset("published publish public live online active approved yes true 1".split())
RECORD = "record:"  # with which the key of a record's own page begins, where an old key begins with "/"
OTHER = "entry"  # the kind of a record of which nothing says what it is


@dataclass(slots=True)
class Comment:
    """What a visitor said; ``state``: as the file has it."""

    author: str = ""
    at: str = ""
    state: str = ""
    text: str = ""


@dataclass(slots=True)
class Record:
    """``kind`` and ``state`` as the file names them (a feed has one of each); moments as ISO 8601; ``content`` and
    ``summary`` as HTML; ``terms`` by their sort; ``files``: addresses of what is attached; ``fields``: whatever else
    the file says by a name."""

    kind: str = OTHER
    state: str = "published"
    title: str = ""
    address: str = ""
    published: str = ""
    modified: str = ""
    author: str = ""
    terms: dict[str, list[str]] = field(default_factory=dict)
    summary: str = ""
    content: str = ""
    comments: list[Comment] = field(default_factory=list)
    files: list[str] = field(default_factory=list)
    fields: dict[str, Any] = field(default_factory=dict)
    line: int = 0  # at which it begins, 0 where that is not known

    def as_json(self) -> dict[str, Any]:
        return asdict(self)


@dataclass(frozen=True, slots=True)
class Wanted:
    """Which records are meant; what is empty lets all of them in. ``since`` and ``until``: days (ISO 8601), both of
    them within."""

    kinds: Collection[str] = ()
    states: Collection[str] = ()
    authors: Collection[str] = ()
    since: str = ""
    until: str = ""

    def holds(self, record: Record) -> bool:
        day = record.published[:10]
        return (
            (not self.kinds or record.kind in self.kinds)
            and (not self.states or record.state in self.states)
            and (not self.authors or record.author in self.authors)
            and (not self.since or (day != "" and day >= self.since))
            and (not self.until or (day != "" and day <= self.until))
        )


@dataclass(slots=True)
class Found:
    """What a file holds, counted: records by kind and state, by author; first and last day; terms by their sort,
    comments, files. ``doubles``: addresses that several records have."""

    kinds: dict[str, Counter[str]] = field(default_factory=dict)
    authors: Counter[str] = field(default_factory=Counter)
    terms: Counter[str] = field(default_factory=Counter)
    first: str = ""
    last: str = ""
    records: int = 0
    comments: int = 0
    files: int = 0
    doubles: int = 0
    without_address: int = 0

    def as_json(self) -> dict[str, Any]:
        plain = {name: getattr(self, name) for name in self.__slots__}
        return plain | {"kinds": {kind: dict(states) for kind, states in self.kinds.items()}}


def count(records: Iterable[Record]) -> Found:
    """Count what some records are."""
    found = Found()
    seen: Counter[str] = Counter()
    for record in records:
        found.records += 1
        found.kinds.setdefault(record.kind, Counter())[record.state] += 1
        found.authors[record.author] += 1
        found.comments += len(record.comments)
        found.files += len(record.files)
        found.terms.update({sort: len(names) for sort, names in record.terms.items()})
        seen[record.address] += bool(record.address)
        found.without_address += not record.address
        if day := record.published[:10]:
            found.first = min(found.first or day, day)
            found.last = max(found.last, day)
    found.doubles = sum(times > 1 for times in seen.values())
    return found
