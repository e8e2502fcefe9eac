-- Version 20: titles of addresses that a list names, for a new site that cannot be walked; what a suggested rule
-- settles, and its visits.

ALTER TABLE given_address ADD COLUMN title TEXT NOT NULL DEFAULT '';
ALTER TABLE suggested_rule ADD COLUMN settled TEXT NOT NULL DEFAULT '[]';
ALTER TABLE suggested_rule ADD COLUMN visits INTEGER NOT NULL DEFAULT 0;
