-- Version 10: what the content of a landing page was found to be, held against what the old page says.

ALTER TABLE address ADD COLUMN seen TEXT NOT NULL DEFAULT '';
ALTER TABLE round_verdict ADD COLUMN seen TEXT NOT NULL DEFAULT '';
