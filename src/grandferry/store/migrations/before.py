"""What brings a file older than version 7 to it, as it was when version 7 was released: statements, never models.

A new file is not made this way but from ``now.sql``.
"""

from __future__ import annotations

import peewee


def _run(database: peewee.SqliteDatabase, statements: list[str]) -> None:
    for statement in statements:
        database.execute_sql(statement)


def _columns(database: peewee.SqliteDatabase, table: str) -> set[str]:
    return {row[1] for row in database.execute_sql(f"PRAGMA table_info({table})").fetchall()}


def _add_column(database: peewee.SqliteDatabase, table: str, name: str, kind: str) -> None:
    if name not in _columns(database, table):
        database.execute_sql(f"ALTER TABLE {table} ADD COLUMN {name} {kind}")


def to_2(database: peewee.SqliteDatabase) -> None:
    """Change sets, landings by thing, lines handed over; and lists by key without a sort."""
    _run(
        database,
        [
            'CREATE TABLE "change" ("id" INTEGER NOT NULL PRIMARY KEY, "crossing_id" INTEGER NOT NULL, "at" TEXT NOT '
            'NULL, "by" TEXT NOT NULL, "text" TEXT NOT NULL, "before" TEXT NOT NULL, "undone" INTEGER NOT NULL, '
            'FOREIGN KEY ("crossing_id") REFERENCES "crossing" ("id") ON DELETE CASCADE);',
            'CREATE INDEX "change_crossing_id" ON "change" ("crossing_id");',
            'CREATE TABLE "handed" ("crossing_id" INTEGER NOT NULL, "match" TEXT NOT NULL, "old" TEXT NOT NULL, "new" '
            'TEXT NOT NULL, "server" TEXT NOT NULL, "at" TEXT NOT NULL, PRIMARY KEY ("crossing_id", "match", "old"), '
            'FOREIGN KEY ("crossing_id") REFERENCES "crossing" ("id") ON DELETE CASCADE);',
            'CREATE INDEX "handed_crossing_id" ON "handed" ("crossing_id");',
            'CREATE TABLE "landing_row" ("landing_id" INTEGER NOT NULL, "sort" TEXT NOT NULL, "key" TEXT NOT NULL, '
            '"title" TEXT NOT NULL, "place" TEXT NOT NULL, "state" TEXT NOT NULL, "reason" TEXT NOT NULL, PRIMARY KEY '
            '("landing_id", "sort", "key"), FOREIGN KEY ("landing_id") REFERENCES "landing" ("id") ON DELETE CASCADE);',
            'CREATE INDEX "landingrow_landing_id" ON "landing_row" ("landing_id");',
            "CREATE INDEX address_in_order ON address (crossing_id, side, key, id);",
        ],
    )


def to_3(database: peewee.SqliteDatabase) -> None:
    """What steps took and which constructs there are, counted body by body (constructs with the next refit)."""
    _run(
        database,
        [
            'CREATE TABLE "refit_count" ("item_id" INTEGER NOT NULL, "field" TEXT NOT NULL, "sort" TEXT NOT NULL, '
            '"name" TEXT NOT NULL, "count" INTEGER NOT NULL, PRIMARY KEY ("item_id", "field", "sort", "name"), '
            'FOREIGN KEY ("item_id") REFERENCES "item" ("id") ON DELETE CASCADE);',
            'CREATE INDEX "refitcount_item_id" ON "refit_count" ("item_id");',
            "INSERT INTO refit_count SELECT r.item_id, r.field, 'step', e.key, e.value FROM refit r, "
            "json_each(r.account, '$.removed') e;",
        ],
    )


def to_4(database: peewee.SqliteDatabase) -> None:
    """Later surveys: which one asked an address last, and what it found changed. What is there counts as the first."""
    _add_column(database, "address", "run", "INTEGER NOT NULL DEFAULT 0")
    _add_column(database, "address", "first_run", "INTEGER NOT NULL DEFAULT 0")
    _add_column(database, "address", "change", "TEXT NOT NULL DEFAULT ''")
    _run(
        database,
        [
            'CREATE TABLE "address_change" ("crossing_id" INTEGER NOT NULL, "run" INTEGER NOT NULL, "address_id" '
            'INTEGER NOT NULL, "change" TEXT NOT NULL, "what" TEXT NOT NULL, PRIMARY KEY ("run", "address_id"), '
            'FOREIGN KEY ("crossing_id") REFERENCES "crossing" ("id") ON DELETE CASCADE, FOREIGN KEY ("address_id") '
            'REFERENCES "address" ("id") ON DELETE CASCADE);',
            'CREATE INDEX "addresschange_address_id" ON "address_change" ("address_id");',
            'CREATE TABLE "survey_run" ("crossing_id" INTEGER NOT NULL, "number" INTEGER NOT NULL, "started" TEXT NOT '
            'NULL, "ended" TEXT NOT NULL, "stopped" TEXT NOT NULL, PRIMARY KEY ("crossing_id", "number"), FOREIGN KEY '
            '("crossing_id") REFERENCES "crossing" ("id") ON DELETE CASCADE);',
            'CREATE INDEX "surveyrun_crossing_id" ON "survey_run" ("crossing_id");',
            "UPDATE address SET run = (state != 'waiting'), first_run = 1;",
            "INSERT INTO survey_run (crossing_id, number, started, ended) SELECT crossing_id, 1, min(at), max(at) "
            "FROM capture GROUP BY crossing_id;",
        ],
    )


def to_5(database: peewee.SqliteDatabase) -> None:
    """What is kept out knows who links to it; a reference no more says its node."""
    _add_column(database, "capture", "rendered", "TEXT NOT NULL DEFAULT ''")
    _add_column(database, "survey_run", "stopped", "TEXT NOT NULL DEFAULT ''")
    _run(
        database,
        [
            'CREATE TABLE "out_reference" ("id" INTEGER NOT NULL PRIMARY KEY, "crossing_id" INTEGER NOT NULL, '
            '"source_id" INTEGER NOT NULL, "target_id" INTEGER NOT NULL, "how" TEXT NOT NULL, "raw" TEXT NOT NULL, '
            '"words" TEXT NOT NULL, FOREIGN KEY ("crossing_id") REFERENCES "crossing" ("id") ON DELETE CASCADE, '
            'FOREIGN KEY ("source_id") REFERENCES "address" ("id") ON DELETE CASCADE, FOREIGN KEY ("target_id") '
            'REFERENCES "shut_out" ("id") ON DELETE CASCADE);',
            'CREATE INDEX "outreference_source_id" ON "out_reference" ("source_id");',
            'CREATE INDEX "outreference_target_id" ON "out_reference" ("target_id");',
            "ALTER TABLE capture ADD COLUMN content TEXT GENERATED ALWAYS AS (CASE rendered WHEN '' THEN body ELSE "
            "rendered END) VIRTUAL;",
            'CREATE TABLE "given" ("id" INTEGER NOT NULL PRIMARY KEY, "crossing_id" INTEGER NOT NULL, "name" TEXT NOT '
            'NULL, "sort" TEXT NOT NULL, "at" TEXT NOT NULL, "by" TEXT NOT NULL, "report" TEXT NOT NULL, "from_plan" '
            'INTEGER NOT NULL, FOREIGN KEY ("crossing_id") REFERENCES "crossing" ("id") ON DELETE CASCADE);',
            'CREATE INDEX "given_crossing_id" ON "given" ("crossing_id");',
            'CREATE TABLE "given_address" ("given_id" INTEGER NOT NULL, "host" TEXT NOT NULL, "target" TEXT NOT NULL, '
            '"count" INTEGER NOT NULL, PRIMARY KEY ("given_id", "host", "target"), FOREIGN KEY ("given_id") '
            'REFERENCES "given" ("id") ON DELETE CASCADE);',
            'CREATE TABLE "likeness" ("crossing_id" INTEGER NOT NULL, "sort" TEXT NOT NULL, "number" INTEGER NOT '
            'NULL, "address_id" INTEGER NOT NULL, "why" TEXT NOT NULL, PRIMARY KEY ("crossing_id", "sort", '
            '"address_id"), FOREIGN KEY ("crossing_id") REFERENCES "crossing" ("id") ON DELETE CASCADE, FOREIGN KEY '
            '("address_id") REFERENCES "address" ("id") ON DELETE CASCADE);',
            'CREATE INDEX "likeness_crossing_id" ON "likeness" ("crossing_id");',
            'CREATE INDEX "likeness_address_id" ON "likeness" ("address_id");',
            'CREATE INDEX "likeness_crossing_id_sort_number" ON "likeness" ("crossing_id", "sort", "number");',
            "CREATE INDEX address_by_title ON address (crossing_id, side, title, id);",
        ],
    )
    if "id" in _columns(database, "shut_out"):
        return  # it was made by a later program
    _run(
        database,
        [
            "INSERT INTO given (crossing_id, name, sort, at, by, report, from_plan) SELECT DISTINCT crossing_id, "
            "'access log', 'log', '', '', '{}', 1 FROM log_visit",
            "INSERT INTO given_address SELECT g.id, v.host, v.target, v.count FROM log_visit v JOIN given g ON "
            "g.crossing_id = v.crossing_id",
            "DROP TABLE log_visit",
            "ALTER TABLE shut_out RENAME TO shut_out_before",
            "DROP INDEX IF EXISTS shutout_crossing_id",
            'CREATE TABLE "shut_out" ("id" INTEGER NOT NULL PRIMARY KEY, "crossing_id" INTEGER NOT NULL, "url" TEXT '
            'NOT NULL, "host" TEXT NOT NULL, "reason" TEXT NOT NULL, "wants_file" INTEGER NOT NULL, "depth" INTEGER '
            'NOT NULL, "how" TEXT NOT NULL, "pages" INTEGER NOT NULL, FOREIGN KEY ("crossing_id") REFERENCES '
            '"crossing" ("id") ON DELETE CASCADE);',
            'CREATE INDEX "shutout_crossing_id" ON "shut_out" ("crossing_id");',
            'CREATE UNIQUE INDEX "shutout_crossing_id_url" ON "shut_out" ("crossing_id", "url");',
            "INSERT INTO shut_out (crossing_id, url, host, reason, wants_file, depth, how, pages) SELECT crossing_id, "
            "url, host, reason, wants_file, depth, '', 0 FROM shut_out_before",
            "DROP TABLE shut_out_before",
            "ALTER TABLE reference DROP COLUMN node",
        ],
    )


def to_6(database: peewee.SqliteDatabase) -> None:
    """Two indices that others begin with."""
    _run(database, ["DROP INDEX IF EXISTS address_crossing_id", "DROP INDEX IF EXISTS found_address_id"])


def to_7(database: peewee.SqliteDatabase) -> None:
    """Indices that no question needs any more: each has to be kept up with every address that is met and answered."""
    names = ("address_by_title", "address_crossing_id_state", "address_crossing_id_key")
    _run(database, [f"DROP INDEX IF EXISTS {name}" for name in names])


STEPS = {1: to_2, 2: to_3, 3: to_4, 4: to_5, 5: to_6, 6: to_7}
