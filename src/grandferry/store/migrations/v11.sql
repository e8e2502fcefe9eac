-- Version 11: why a pair is as it is, in a person's words; how far a job has come over all its tries.

ALTER TABLE pair ADD COLUMN reason TEXT NOT NULL DEFAULT '';
ALTER TABLE job ADD COLUMN reached TEXT NOT NULL DEFAULT '{}';
