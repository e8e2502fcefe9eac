"""Two lists of addresses, with titles where they are known, held against each other: pairs, and rules behind them."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from grandferry.core.address import to_key
from grandferry.core.encoding import decode
from grandferry.core.errors import AddressError, FerryError
from grandferry.core.route.suggest import Known, find_tables, suggested
from grandferry.ports.sources.table import is_workbook, look, table_rows


@dataclass(slots=True)
class Addresses:
    """Those of a file, each once, in their order; ``again``: how many lines repeat one, ``odd``: lines that hold none
    (number, what stands there)."""

    known: list[Known] = field(default_factory=list)
    again: int = 0
    odd: list[tuple[int, str]] = field(default_factory=list)


def read_addresses(path: Path) -> Addresses:
    """The addresses of a file: one a line, or a table (CSV, XLSX) with a column of addresses and one of titles. Full
    addresses are cut to path and query. Raises FerryError for a file that cannot be read or holds none."""
    try:
        rows = _rows(path)
    except OSError as problem:
        raise FerryError(f"{path} cannot be read: {problem.strerror}.") from None
    made = Addresses()
    seen: dict[str, int] = {}
    for number, address, title in rows:
        try:
            key = to_key(address)
        except AddressError:
            made.odd.append((number, address[:100]))
            continue
        if key in seen:
            made.again += 1
            if title and not made.known[seen[key]].title:
                made.known[seen[key]] = Known(key, title)
            continue
        seen[key] = len(made.known)
        made.known.append(Known(key, title))
    if not made.known:
        raise FerryError(f"{path} holds no address.", "One a line, or a table with a column of addresses.")
    return made


def _rows(path: Path) -> list[tuple[int, str, str]]:
    """(line, address, title) of each line that is not empty."""
    if not is_workbook(path):
        with path.open("rb") as handle:
            first = decode(handle.read(4096)).text.lstrip().split("\n", 1)[0].strip()
        if first.startswith(("/", "http://", "https://")) and not {",", ";", "\t"} & set(first):
            lines = decode(path.read_bytes()).text.splitlines()
            return [(number, line.strip(), "") for number, line in enumerate(lines, 1) if line.strip()]
    told = look(path)
    found = []
    for number, row in enumerate(table_rows(path), 1):
        if number <= told.head or told.address >= len(row) or not row[told.address].strip():
            continue
        found.append((number, row[told.address].strip(), row[told.title].strip() if 0 <= told.title < len(row) else ""))
    return found


def suggest_files(old: Path, new: Path, accept: float) -> dict[str, Any]:
    """Pairs and rules of two files, as ``grandferry route suggest`` prints them."""
    olds, news = read_addresses(old), read_addresses(new)
    made = suggested(olds.known, news.known, accept)
    best = {pair.old: (pair.candidates[0].new, pair.confidence) for pair in made.pairs if pair.candidates}
    settled = {key for rule in made.rules for key in rule.settles}
    tables = find_tables(best, [one.address for one in olds.known], settled)
    wanted = {pair.candidates[0].new for pair in made.pairs if pair.confidence >= accept}
    return {
        "pairs": [
            {
                "old": pair.old,
                "new": pair.candidates[0].new if pair.candidates else None,
                "confidence": pair.confidence,
                "accepted": pair.confidence >= accept,
                "reasons": pair.candidates[0].why if pair.candidates else [],
                "next": [{"new": one.new, "confidence": one.confidence} for one in pair.candidates[1:]],
            }
            for pair in made.pairs
        ],
        "rules": [
            {
                "old": rule.old,
                "new": rule.new,
                "match": "pattern",
                "settles": len(rule.settles),
                "disagrees": len(rule.disagrees),
                "wrongly_catches": len(rule.catches),
                "disagrees_with": list(rule.disagrees),
                "catches": list(rule.catches),
            }
            for rule in made.rules
        ],
        "tables": [{"old": one.old, "new": one.new, "settles": one.settles, "left": one.left} for one in tables],
        "only_new": [one.address for one in news.known if one.address not in wanted],
        "read": {
            name: {"addresses": len(one.known), "again": one.again, "odd": [list(line) for line in one.odd]}
            for name, one in (("old", olds), ("new", news))
        },
    }
