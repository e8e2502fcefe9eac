-- Version 14: what each clean-up step takes of each page; which values are read beside the words of their nodes.

ALTER TABLE item_field ADD COLUMN beside INTEGER NOT NULL DEFAULT 0;
CREATE TABLE taken (
  item_id INTEGER NOT NULL,
  step TEXT NOT NULL,
  version INTEGER NOT NULL,
  words INTEGER NOT NULL,
  PRIMARY KEY (item_id, step),
  FOREIGN KEY (item_id) REFERENCES item (id) ON DELETE CASCADE
);
