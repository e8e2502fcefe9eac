-- Version 8: what a person sets by hand stands apart from what is found; a field says its type; findings remember what
-- they were made from.

CREATE TABLE edit (
  crossing_id INTEGER NOT NULL REFERENCES crossing (id) ON DELETE CASCADE,
  old TEXT NOT NULL, field TEXT NOT NULL, block TEXT NOT NULL, act TEXT NOT NULL,
  value TEXT NOT NULL, over TEXT NOT NULL, by TEXT NOT NULL, at TEXT NOT NULL,
  PRIMARY KEY (crossing_id, old, field, block, act)
);
ALTER TABLE item_field ADD COLUMN type TEXT NOT NULL DEFAULT '';
UPDATE item_field SET type = 'blocks' WHERE lifted LIKE '{"nodes"%';
-- an edit of a body remembered where the body stood and not its words: what it lies over is told with the next lift
INSERT INTO edit SELECT i.crossing_id, i.key, f.field, '', 'set', f.edited,
  CASE WHEN f.type = 'blocks' AND f.edited_over = f.lifted_hash THEN '' ELSE f.edited_over END, f.edited_by, f.edited_at
  FROM item_field f JOIN item i ON i.id = f.item_id WHERE f.edited IS NOT NULL AND i.place = -1;
ALTER TABLE item_field DROP COLUMN edited;
ALTER TABLE item_field DROP COLUMN edited_over;
ALTER TABLE item_field DROP COLUMN edited_by;
ALTER TABLE item_field DROP COLUMN edited_at;
ALTER TABLE item ADD COLUMN made_from TEXT NOT NULL DEFAULT '';
ALTER TABLE item ADD COLUMN outside BLOB;
ALTER TABLE sorted ADD COLUMN made_from TEXT NOT NULL DEFAULT '';
ALTER TABLE refit ADD COLUMN made_from TEXT NOT NULL DEFAULT '';
CREATE TABLE stamp (
  crossing_id INTEGER NOT NULL REFERENCES crossing (id) ON DELETE CASCADE,
  stage TEXT NOT NULL, made_from TEXT NOT NULL, at TEXT NOT NULL,
  PRIMARY KEY (crossing_id, stage)
);
