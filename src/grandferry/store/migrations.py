"""Schema versions: one step a version, each in a transaction of its own."""

from __future__ import annotations

import peewee

from .db import APPLICATION_ID, Migration, StoreError
from .schema import (
    Address,
    AddressChange,
    Capture,
    Change,
    Crossing,
    Event,
    File,
    FileSource,
    Found,
    Given,
    GivenAddress,
    Handed,
    Item,
    ItemField,
    ItemSource,
    Job,
    Landing,
    LandingRow,
    Ledger,
    Likeness,
    OutReference,
    PageFacts,
    Pair,
    PlanRow,
    Reference,
    Refit,
    RefitCount,
    Round,
    RoundVerdict,
    Shared,
    ShutOut,
    Sorted,
    Sounding,
    Spelling,
    SurveyRun,
    Tally,
)

FIRST: list[type[peewee.Model]] = [
    Crossing,
    PlanRow,
    Pair,
    Address,
    Found,
    Spelling,
    Reference,
    Capture,
    PageFacts,
    Sounding,
    ShutOut,
    Sorted,
    Item,
    ItemSource,
    ItemField,
    Refit,
    Shared,
    File,
    FileSource,
    Round,
    RoundVerdict,
    Landing,
    Ledger,
    Job,
    Event,
    Tally,
]

_PLUS = (
    "INSERT INTO tally VALUES (NEW.crossing_id, NEW.folder, NEW.fate, NEW.proven, 1) "
    "ON CONFLICT DO UPDATE SET count = count + 1;"
)
_MINUS = (
    "UPDATE tally SET count = count - 1 WHERE crossing = OLD.crossing_id AND folder = OLD.folder "
    "AND fate = OLD.fate AND proven = OLD.proven;"
)


def _first(database: peewee.SqliteDatabase) -> None:
    database.create_tables(FIRST, safe=False)
    database.execute_sql(f"CREATE TRIGGER tally_in AFTER INSERT ON address WHEN NEW.counted BEGIN {_PLUS} END")
    database.execute_sql(f"CREATE TRIGGER tally_out AFTER DELETE ON address WHEN OLD.counted BEGIN {_MINUS} END")
    changed = "AFTER UPDATE OF counted, fate, proven ON address"
    database.execute_sql(f"CREATE TRIGGER tally_off {changed} WHEN OLD.counted BEGIN {_MINUS} END")
    database.execute_sql(f"CREATE TRIGGER tally_on {changed} WHEN NEW.counted BEGIN {_PLUS} END")


def _second(database: peewee.SqliteDatabase) -> None:
    """Change sets, landings by thing, lines handed over; and lists by key without a sort."""
    database.create_tables([Change, LandingRow, Handed], safe=False)
    database.execute_sql("CREATE INDEX address_in_order ON address (crossing_id, side, key, id)")


def _third(database: peewee.SqliteDatabase) -> None:
    """What steps took and which constructs there are, counted body by body (constructs with the next refit)."""
    database.create_tables([RefitCount], safe=False)
    database.execute_sql(
        "INSERT INTO refit_count SELECT r.item_id, r.field, 'step', e.key, e.value FROM refit r, "
        "json_each(r.account, '$.removed') e"
    )


def _columns(database: peewee.SqliteDatabase, table: str) -> set[str]:
    return {row[1] for row in database.execute_sql(f"PRAGMA table_info({table})").fetchall()}


def _add_column(database: peewee.SqliteDatabase, table: str, name: str, kind: str) -> None:
    """Add a column that an older file does not have (a new file was made with it)."""
    if name not in _columns(database, table):
        database.execute_sql(f"ALTER TABLE {table} ADD COLUMN {name} {kind}")


def _fourth(database: peewee.SqliteDatabase) -> None:
    """Later surveys: which one asked an address last, and what it found changed. What is there counts as the first."""
    _add_column(database, "address", "run", "INTEGER NOT NULL DEFAULT 0")
    _add_column(database, "address", "first_run", "INTEGER NOT NULL DEFAULT 0")
    _add_column(database, "address", "change", "TEXT NOT NULL DEFAULT ''")
    database.create_tables([SurveyRun, AddressChange], safe=False)
    database.execute_sql("UPDATE address SET run = (state != 'waiting'), first_run = 1")
    database.execute_sql(
        "INSERT INTO survey_run (crossing_id, number, started, ended) SELECT crossing_id, 1, min(at), max(at) FROM capture GROUP BY crossing_id"
    )


def _fifth(database: peewee.SqliteDatabase) -> None:
    """What is kept out knows who links to it; a reference no more says its node."""
    database.create_tables([OutReference], safe=False)
    _add_column(database, "capture", "rendered", "TEXT NOT NULL DEFAULT ''")
    database.execute_sql(
        "ALTER TABLE capture ADD COLUMN content TEXT GENERATED ALWAYS AS (CASE rendered WHEN '' THEN body ELSE rendered END) "
        "VIRTUAL"
    )
    _add_column(database, "survey_run", "stopped", "TEXT NOT NULL DEFAULT ''")
    database.create_tables([Given, GivenAddress, Likeness], safe=False)
    database.execute_sql("CREATE INDEX address_by_title ON address (crossing_id, side, title, id)")
    if "id" in _columns(database, "shut_out"):
        return  # a new file
    database.execute_sql(
        "INSERT INTO given (crossing_id, name, sort, at, by, report, from_plan) SELECT DISTINCT crossing_id, 'access log', "
        "'log', '', '', '{}', 1 FROM log_visit"
    )
    database.execute_sql(
        "INSERT INTO given_address SELECT g.id, v.host, v.target, v.count FROM log_visit v JOIN given g ON g.crossing_id = "
        "v.crossing_id"
    )
    database.execute_sql("DROP TABLE log_visit")
    database.execute_sql("ALTER TABLE shut_out RENAME TO shut_out_before")
    database.execute_sql("DROP INDEX IF EXISTS shutout_crossing_id")
    database.create_tables([ShutOut], safe=False)
    database.execute_sql(
        "INSERT INTO shut_out (crossing_id, url, host, reason, wants_file, depth) SELECT crossing_id, url, host, reason, "
        "wants_file, depth FROM shut_out_before"
    )
    database.execute_sql("DROP TABLE shut_out_before")
    database.execute_sql("ALTER TABLE reference DROP COLUMN node")


def _sixth(database: peewee.SqliteDatabase) -> None:
    """Two indices that others begin with."""
    for name in ("address_crossing_id", "found_address_id"):
        database.execute_sql(f"DROP INDEX IF EXISTS {name}")


def _seventh(database: peewee.SqliteDatabase) -> None:
    """Indices that no question needs any more: each has to be kept up with every address that is met and answered."""
    for name in ("address_by_title", "address_crossing_id_state", "address_crossing_id_key"):
        database.execute_sql(f"DROP INDEX IF EXISTS {name}")


MIGRATIONS: list[Migration] = [_first, _second, _third, _fourth, _fifth, _sixth, _seventh]
VERSION = len(MIGRATIONS)


def migrate(database: peewee.SqliteDatabase) -> None:
    """Bring the schema from its version to ours, one step a transaction. Raises StoreError for a newer file."""
    version = database.execute_sql("PRAGMA user_version").fetchone()[0]
    mark = database.execute_sql("PRAGMA application_id").fetchone()[0]
    if version > VERSION:
        raise StoreError(
            f"This workspace has schema version {version}; this program knows {VERSION}.",
            "Install a newer Grand Ferry.",
        )
    if version and mark != APPLICATION_ID:
        raise StoreError("The file grandferry.sqlite is not a Grand Ferry workspace.", "Choose another folder.")
    for number in range(version, VERSION):
        with database.atomic("EXCLUSIVE"):
            if database.execute_sql("PRAGMA user_version").fetchone()[0] > number:
                continue  # another process was quicker
            MIGRATIONS[number](database)
            database.execute_sql(f"PRAGMA user_version = {number + 1}")
            database.execute_sql(f"PRAGMA application_id = {APPLICATION_ID}")
