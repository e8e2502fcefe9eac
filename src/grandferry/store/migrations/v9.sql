-- Version 9: what a survey finds is of a side of the crossing, the old site or the new one.

CREATE TABLE survey_run_9 (
  crossing_id INTEGER NOT NULL REFERENCES crossing (id) ON DELETE CASCADE,
  side TEXT NOT NULL, number INTEGER NOT NULL, started TEXT NOT NULL, ended TEXT NOT NULL, stopped TEXT NOT NULL,
  PRIMARY KEY (crossing_id, side, number)
);
INSERT INTO survey_run_9 SELECT crossing_id, 'old', number, started, ended, stopped FROM survey_run;
DROP TABLE survey_run;
ALTER TABLE survey_run_9 RENAME TO survey_run;
CREATE TABLE sounding_9 (
  crossing_id INTEGER NOT NULL REFERENCES crossing (id) ON DELETE CASCADE,
  side TEXT NOT NULL, name TEXT NOT NULL, content TEXT NOT NULL,
  PRIMARY KEY (crossing_id, side, name)
);
INSERT INTO sounding_9 SELECT crossing_id, 'old', name, content FROM sounding;
DROP TABLE sounding;
ALTER TABLE sounding_9 RENAME TO sounding;
ALTER TABLE shut_out ADD COLUMN side TEXT NOT NULL DEFAULT 'old';
DROP INDEX shutout_crossing_id_url;
CREATE UNIQUE INDEX shutout_crossing_id_side_url ON shut_out (crossing_id, side, url);
ALTER TABLE likeness ADD COLUMN side TEXT NOT NULL DEFAULT 'old';
DROP INDEX likeness_crossing_id_sort_number;
CREATE INDEX likeness_crossing_id_side_sort_number ON likeness (crossing_id, side, sort, number);
ALTER TABLE address_change ADD COLUMN side TEXT NOT NULL DEFAULT 'old';
ALTER TABLE given ADD COLUMN side TEXT NOT NULL DEFAULT 'old';
-- one word, one thing: a finding is behind, a picture is a backdrop
UPDATE refit SET account = replace(replace(account, '"why":"behind"', '"why":"backdrop"'), '"why": "behind"', '"why": "backdrop"')
  WHERE account LIKE '%"behind"%';
