-- Version 15: a record is known by a name in its file, and has a page of its own where none is captured.

ALTER TABLE record ADD COLUMN page TEXT NOT NULL DEFAULT '';
CREATE INDEX record_crossing_id_page ON record (crossing_id, page);
