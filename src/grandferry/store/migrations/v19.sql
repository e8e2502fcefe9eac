-- Version 19: pairs and rules that are suggested; the status of a decided redirect; rounds that ask
-- only what failed.

CREATE TABLE suggestion (
  address_id INTEGER NOT NULL PRIMARY KEY REFERENCES address (id) ON DELETE CASCADE,
  crossing_id INTEGER NOT NULL REFERENCES crossing (id) ON DELETE CASCADE,
  new TEXT NOT NULL,
  confidence REAL NOT NULL,
  reasons TEXT NOT NULL,
  others TEXT NOT NULL
);
CREATE TABLE suggested_rule (
  crossing_id INTEGER NOT NULL REFERENCES crossing (id) ON DELETE CASCADE,
  position INTEGER NOT NULL,
  old TEXT NOT NULL,
  new TEXT NOT NULL,
  settles INTEGER NOT NULL,
  disagrees TEXT NOT NULL,
  catches TEXT NOT NULL,
  PRIMARY KEY (crossing_id, position)
);
CREATE INDEX suggestion_crossing_id ON suggestion (crossing_id);
ALTER TABLE address ADD COLUMN decision_status INTEGER NOT NULL DEFAULT 301;
ALTER TABLE round ADD COLUMN taken_over INTEGER NOT NULL DEFAULT 0;
