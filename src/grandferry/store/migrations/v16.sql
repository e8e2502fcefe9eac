-- Version 16: the places within pages that links of the crossing lead to.

CREATE TABLE aimed (
  address_id INTEGER NOT NULL,
  fragment TEXT NOT NULL,
  links INTEGER NOT NULL,
  PRIMARY KEY (address_id, fragment),
  FOREIGN KEY (address_id) REFERENCES address (id) ON DELETE CASCADE
) WITHOUT ROWID;
INSERT INTO aimed (address_id, fragment, links) SELECT target_id, substr(raw, instr(raw, '#') + 1), count(*) FROM reference WHERE how IN ('a', 'area') AND instr(raw, '#') > 0 AND substr(raw, -1) != '#' GROUP BY 1, 2;
