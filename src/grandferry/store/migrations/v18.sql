-- Version 18: what a person says of files.

CREATE TABLE said (
  crossing_id INTEGER NOT NULL REFERENCES crossing (id) ON DELETE CASCADE,
  file TEXT NOT NULL,
  content TEXT NOT NULL,
  PRIMARY KEY (crossing_id, file)
);
