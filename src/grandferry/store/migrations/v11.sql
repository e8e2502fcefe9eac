-- Version 11: why a pair is as it is, in a person's words.

ALTER TABLE pair ADD COLUMN reason TEXT NOT NULL DEFAULT '';
