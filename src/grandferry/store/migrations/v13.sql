-- Version 13: why a lifted value wants a look though it was read; in what two plans differ; records handed over.

ALTER TABLE item_field ADD COLUMN unlike TEXT NOT NULL DEFAULT '';
CREATE TABLE difference (
  crossing_id INTEGER NOT NULL,
  position INTEGER NOT NULL,
  address_id INTEGER NOT NULL,
  kind_before TEXT NOT NULL,
  kind_after TEXT NOT NULL,
  field TEXT NOT NULL,
  before TEXT NOT NULL,
  after TEXT NOT NULL,
  only_before INTEGER NOT NULL,
  only_after INTEGER NOT NULL,
  PRIMARY KEY (crossing_id, position),
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE,
  FOREIGN KEY (address_id) REFERENCES address (id) ON DELETE CASCADE
);
CREATE INDEX difference_address_id ON difference (address_id);
CREATE TABLE record (
  id INTEGER NOT NULL PRIMARY KEY,
  crossing_id INTEGER NOT NULL,
  source TEXT NOT NULL,
  key TEXT NOT NULL,
  kind TEXT NOT NULL,
  state TEXT NOT NULL,
  data TEXT NOT NULL,
  hash TEXT NOT NULL,
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE
);
CREATE INDEX record_crossing_id_key ON record (crossing_id, key);
