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
-- Reasons as codes with what they speak of, apart by tabs (core.because), in place of sentences.
UPDATE address SET why = CASE
  WHEN why = '' THEN ''
  WHEN why = 'nobody has decided; it would break' THEN 'undecided'
  WHEN why LIKE '% without a reason, though it is visited or linked' THEN 'unnamed' || char(9) || decision
  WHEN why LIKE 'decided as %, but the check says: %' THEN 'refuted' || char(9) || decision || char(9) || verdict
  ELSE '=' END WHERE why != '';
UPDATE address SET decision_reason = CASE
  WHEN decision_reason = 'answers 410 by decision' THEN 'gone'
  WHEN decision_origin IN ('pair', 'rule') THEN 'line' || char(9) ||
    substr(decision_reason, 1, instr(decision_reason, ' ') - 1) || char(9) ||
    substr(decision_reason, instr(decision_reason, ' ') + 1)
  WHEN decision_origin = 'family' THEN 'family' || char(9) || substr(decision_reason, 22)
  WHEN decision_reason = 'its redirects on the old site go in a circle' THEN 'circle'
  WHEN decision_reason LIKE 'redirects to %, for which nothing is decided' THEN 'open end' || char(9) ||
    substr(decision_reason, 14, length(decision_reason) - 13 - 30)
  WHEN decision_reason LIKE 'leads to % on the old site' THEN 'leads' || char(9) ||
    substr(decision_reason, 10, length(decision_reason) - 9 - 16)
  WHEN decision_reason LIKE 'leads to % on the old site (left out on purpose: %)' THEN 'leads' || char(9) ||
    substr(decision_reason, 10, instr(decision_reason, ' on the old site (') - 10) || char(9) || 'family' || char(9) ||
    substr(decision_reason, instr(decision_reason, '(left out on purpose: ') + 22,
      length(decision_reason) - instr(decision_reason, '(left out on purpose: ') - 22)
  WHEN decision_reason LIKE 'leads to % on the old site (answers 410 by decision)' THEN 'leads' || char(9) ||
    substr(decision_reason, 10, instr(decision_reason, ' on the old site (') - 10) || char(9) || 'gone'
  WHEN decision_reason LIKE 'leads to % on the old site (%)' THEN 'leads' || char(9) ||
    substr(decision_reason, 10, instr(decision_reason, ' on the old site (') - 10) || char(9) || 'said' || char(9) ||
    substr(decision_reason, instr(decision_reason, ' on the old site (') + 18,
      length(decision_reason) - instr(decision_reason, ' on the old site (') - 18)
  ELSE 'said' || char(9) || decision_reason END WHERE decision_reason != '';
UPDATE address SET why = decision_reason WHERE why = '=';
UPDATE item SET note = CASE
  WHEN note LIKE '% is another item''s place' THEN 'taken' || char(9) || substr(note, 1, length(note) - 24)
  WHEN note = 'its kind names no pattern for new addresses' THEN 'no pattern'
  WHEN note = 'set by a pair' THEN 'by pair'
  WHEN note = 'retired by a pair' THEN 'retired'
  WHEN note LIKE 'the plan has no kind “%” any more' THEN 'no kind' || char(9) || substr(note, 23, length(note) - 32)
  WHEN note LIKE '“%” has no value to make an address from.' THEN 'no value' || char(9) ||
    substr(note, 2, instr(note, '” has no value') - 2)
  WHEN note LIKE '“%” is not a date, so %' THEN 'no date' || char(9) || substr(note, 2, instr(note, '” is not a date') - 2)
    || char(9) || substr(note, instr(note, ', so ') + 5, length(note) - instr(note, ', so ') - 4 - 24)
  ELSE 'said' || char(9) || note END WHERE note != '';
UPDATE file SET reason = CASE WHEN reason = 'style, script or feed of the old site' THEN 'machinery'
  ELSE 'said' || char(9) || reason END WHERE reason != '';
UPDATE page_facts SET facts = json_set(json_remove(facts, '$.text'), '$.words_hash', json_extract(facts, '$.text'))
  WHERE json_extract(facts, '$.text') IS NOT NULL;
UPDATE sounding SET content = json_set(json_remove(content, '$.text'), '$.words_hash', json_extract(content, '$.text'))
  WHERE name = 'made-up address' AND json_extract(content, '$.text') IS NOT NULL;
-- "sort" is a stage and an order; what sort of thing a row is, is its type
ALTER TABLE address RENAME COLUMN sort TO type;
ALTER TABLE given RENAME COLUMN sort TO type;
DROP INDEX likeness_crossing_id_side_sort_number;
ALTER TABLE likeness RENAME COLUMN sort TO type;
CREATE INDEX likeness_crossing_id_side_type_number ON likeness (crossing_id, side, type, number);
ALTER TABLE landing_row RENAME COLUMN sort TO type;
ALTER TABLE ledger RENAME COLUMN sort TO type;
ALTER TABLE refit_count RENAME COLUMN sort TO type;
