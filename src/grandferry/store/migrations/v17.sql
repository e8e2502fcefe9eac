-- Version 17: what files are by their content, looked at once each.

CREATE TABLE looked (
  body TEXT NOT NULL PRIMARY KEY,
  mime TEXT NOT NULL,
  width INTEGER NOT NULL,
  height INTEGER NOT NULL,
  fault TEXT NOT NULL
) WITHOUT ROWID;
