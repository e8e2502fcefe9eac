-- Version 12: the make of a page, and the groups of pages that are made alike.

ALTER TABLE page_facts ADD COLUMN make BLOB NOT NULL DEFAULT x'';
CREATE TABLE made_group (
  crossing_id INTEGER NOT NULL,
  cut INTEGER NOT NULL,
  number INTEGER NOT NULL,
  pages INTEGER NOT NULL,
  address_id INTEGER NOT NULL,
  name TEXT NOT NULL,
  rule TEXT NOT NULL,
  "right" INTEGER NOT NULL,
  missed INTEGER NOT NULL,
  wrong INTEGER NOT NULL,
  drawing TEXT NOT NULL,
  PRIMARY KEY (crossing_id, cut, number),
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE,
  FOREIGN KEY (address_id) REFERENCES address (id) ON DELETE CASCADE
);
CREATE TABLE page_group (
  address_id INTEGER NOT NULL,
  crossing_id INTEGER NOT NULL,
  cut INTEGER NOT NULL,
  number INTEGER NOT NULL,
  PRIMARY KEY (crossing_id, cut, number, address_id),
  FOREIGN KEY (address_id) REFERENCES address (id) ON DELETE CASCADE,
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE
);
CREATE INDEX made_group_address_id ON made_group (address_id);
CREATE INDEX page_group_address_id ON page_group (address_id);
