-- The schema of today, for new files: what the files of the versions come to. Made anew with each version.

CREATE TABLE crossing (
  id INTEGER NOT NULL PRIMARY KEY,
  name TEXT NOT NULL,
  created TEXT NOT NULL
);
CREATE TABLE address (
  id INTEGER NOT NULL PRIMARY KEY,
  crossing_id INTEGER NOT NULL,
  side TEXT NOT NULL,
  url TEXT NOT NULL,
  host TEXT NOT NULL,
  key TEXT NOT NULL,
  folder TEXT NOT NULL,
  wants_file INTEGER NOT NULL,
  depth INTEGER NOT NULL,
  state TEXT NOT NULL,
  reason TEXT NOT NULL,
  status INTEGER NOT NULL,
  type TEXT NOT NULL,
  mime TEXT NOT NULL,
  target TEXT NOT NULL,
  capture INTEGER,
  title TEXT NOT NULL,
  words INTEGER NOT NULL,
  bytes INTEGER NOT NULL,
  visits INTEGER NOT NULL,
  in_links INTEGER NOT NULL,
  counted INTEGER NOT NULL,
  decision TEXT NOT NULL,
  decision_target TEXT NOT NULL,
  decision_origin TEXT NOT NULL,
  decision_reason TEXT NOT NULL,
  verdict TEXT NOT NULL,
  judged TEXT NOT NULL,
  fate TEXT NOT NULL,
  proven INTEGER NOT NULL,
  why TEXT NOT NULL,
  run INTEGER NOT NULL,
  first_run INTEGER NOT NULL,
  change TEXT NOT NULL,
  seen TEXT NOT NULL DEFAULT '',
  decision_status INTEGER NOT NULL DEFAULT 301,
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE
);
CREATE TABLE looked (
  body TEXT NOT NULL PRIMARY KEY,
  mime TEXT NOT NULL,
  width INTEGER NOT NULL,
  height INTEGER NOT NULL,
  fault TEXT NOT NULL
) WITHOUT ROWID;
CREATE TABLE aimed (
  address_id INTEGER NOT NULL,
  fragment TEXT NOT NULL,
  links INTEGER NOT NULL,
  PRIMARY KEY (address_id, fragment),
  FOREIGN KEY (address_id) REFERENCES address (id) ON DELETE CASCADE
) WITHOUT ROWID;
CREATE TABLE capture (
  id INTEGER NOT NULL PRIMARY KEY,
  crossing_id INTEGER NOT NULL,
  address_id INTEGER NOT NULL,
  at TEXT NOT NULL,
  status INTEGER NOT NULL,
  headers TEXT NOT NULL,
  body TEXT NOT NULL,
  rendered TEXT NOT NULL,
  bytes INTEGER NOT NULL,
  seconds REAL NOT NULL,
  encoding TEXT NOT NULL,
  doubtful TEXT NOT NULL,
  content TEXT GENERATED ALWAYS AS (CASE rendered WHEN '' THEN body ELSE rendered END) VIRTUAL,
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE,
  FOREIGN KEY (address_id) REFERENCES address (id) ON DELETE CASCADE
);
CREATE TABLE event (
  id INTEGER NOT NULL PRIMARY KEY,
  crossing INTEGER,
  job INTEGER,
  at TEXT NOT NULL,
  kind TEXT NOT NULL,
  text TEXT NOT NULL,
  data TEXT NOT NULL
);
CREATE TABLE file (
  id INTEGER NOT NULL PRIMARY KEY,
  crossing_id INTEGER NOT NULL,
  body TEXT NOT NULL,
  name TEXT NOT NULL,
  mime TEXT NOT NULL,
  bytes INTEGER NOT NULL,
  new_path TEXT NOT NULL,
  alt TEXT NOT NULL,
  fate TEXT NOT NULL,
  reason TEXT NOT NULL,
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE
);
CREATE TABLE file_source (
  file_id INTEGER NOT NULL,
  address_id INTEGER NOT NULL,
  PRIMARY KEY (file_id, address_id),
  FOREIGN KEY (file_id) REFERENCES file (id) ON DELETE CASCADE,
  FOREIGN KEY (address_id) REFERENCES address (id) ON DELETE CASCADE
);
CREATE TABLE found (
  crossing_id INTEGER NOT NULL,
  address_id INTEGER NOT NULL,
  how TEXT NOT NULL,
  PRIMARY KEY (address_id, how),
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE,
  FOREIGN KEY (address_id) REFERENCES address (id) ON DELETE CASCADE
);
CREATE TABLE item (
  id INTEGER NOT NULL PRIMARY KEY,
  crossing_id INTEGER NOT NULL,
  kind TEXT NOT NULL,
  key TEXT NOT NULL,
  place INTEGER NOT NULL,
  title TEXT NOT NULL,
  new_path TEXT NOT NULL,
  note TEXT NOT NULL,
  lifted_by INTEGER NOT NULL,
  made_from TEXT NOT NULL DEFAULT '',
  outside BLOB,
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE
);
CREATE TABLE difference (
  crossing_id INTEGER NOT NULL,
  position INTEGER NOT NULL,
  address_id INTEGER NOT NULL,
  kind_before TEXT NOT NULL,
  kind_after TEXT NOT NULL,
  field TEXT NOT NULL,
  before TEXT NOT NULL,
  after TEXT NOT NULL,
  only_before INTEGER NOT NULL,
  only_after INTEGER NOT NULL,
  PRIMARY KEY (crossing_id, position),
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE,
  FOREIGN KEY (address_id) REFERENCES address (id) ON DELETE CASCADE
);
CREATE TABLE item_field (
  item_id INTEGER NOT NULL,
  field TEXT NOT NULL,
  lifted TEXT,
  lifted_hash TEXT NOT NULL,
  locator INTEGER NOT NULL,
  nodes TEXT NOT NULL,
  state TEXT NOT NULL,
  note TEXT NOT NULL,
  type TEXT NOT NULL DEFAULT '',
  unlike TEXT NOT NULL DEFAULT '',
  beside INTEGER NOT NULL DEFAULT 0,
  PRIMARY KEY (item_id, field),
  FOREIGN KEY (item_id) REFERENCES item (id) ON DELETE CASCADE
);
CREATE TABLE item_source (
  item_id INTEGER NOT NULL,
  address_id INTEGER NOT NULL,
  place INTEGER NOT NULL,
  PRIMARY KEY (item_id, address_id, place),
  FOREIGN KEY (item_id) REFERENCES item (id) ON DELETE CASCADE,
  FOREIGN KEY (address_id) REFERENCES address (id) ON DELETE CASCADE
);
CREATE TABLE job (
  id INTEGER NOT NULL PRIMARY KEY,
  crossing_id INTEGER,
  kind TEXT NOT NULL,
  params TEXT NOT NULL,
  state TEXT NOT NULL,
  counters TEXT NOT NULL,
  result TEXT NOT NULL,
  error TEXT NOT NULL,
  lease INTEGER NOT NULL,
  idle_tries INTEGER NOT NULL,
  heartbeat REAL NOT NULL,
  wish TEXT NOT NULL,
  created TEXT NOT NULL,
  started TEXT NOT NULL,
  ended TEXT NOT NULL,
  reached TEXT NOT NULL DEFAULT '{}',
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE
);
CREATE TABLE landing (
  id INTEGER NOT NULL PRIMARY KEY,
  crossing_id INTEGER NOT NULL,
  target TEXT NOT NULL,
  dry INTEGER NOT NULL,
  started TEXT NOT NULL,
  ended TEXT NOT NULL,
  counts TEXT NOT NULL,
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE
);
CREATE TABLE ledger (
  crossing_id INTEGER NOT NULL,
  target TEXT NOT NULL,
  type TEXT NOT NULL,
  key TEXT NOT NULL,
  remote TEXT NOT NULL,
  sent TEXT NOT NULL,
  at TEXT NOT NULL,
  PRIMARY KEY (crossing_id, target, type, key),
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE
);
CREATE TABLE made_group (
  crossing_id INTEGER NOT NULL,
  cut INTEGER NOT NULL,
  number INTEGER NOT NULL,
  pages INTEGER NOT NULL,
  address_id INTEGER NOT NULL,
  name TEXT NOT NULL,
  rule TEXT NOT NULL,
  "right" INTEGER NOT NULL,
  missed INTEGER NOT NULL,
  wrong INTEGER NOT NULL,
  drawing TEXT NOT NULL,
  PRIMARY KEY (crossing_id, cut, number),
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE,
  FOREIGN KEY (address_id) REFERENCES address (id) ON DELETE CASCADE
);
CREATE TABLE page_facts (
  address_id INTEGER NOT NULL PRIMARY KEY,
  crossing_id INTEGER NOT NULL,
  facts TEXT NOT NULL,
  findings TEXT NOT NULL,
  make BLOB NOT NULL DEFAULT x'',
  FOREIGN KEY (address_id) REFERENCES address (id) ON DELETE CASCADE,
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE
);
CREATE TABLE page_group (
  address_id INTEGER NOT NULL,
  crossing_id INTEGER NOT NULL,
  cut INTEGER NOT NULL,
  number INTEGER NOT NULL,
  PRIMARY KEY (crossing_id, cut, number, address_id),
  FOREIGN KEY (address_id) REFERENCES address (id) ON DELETE CASCADE,
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE
);
CREATE TABLE pair (
  id INTEGER NOT NULL PRIMARY KEY,
  crossing_id INTEGER NOT NULL,
  position INTEGER NOT NULL,
  old TEXT NOT NULL,
  new TEXT NOT NULL,
  status INTEGER NOT NULL,
  match TEXT NOT NULL,
  reason TEXT NOT NULL DEFAULT '',
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE
);
CREATE TABLE plan_row (
  id INTEGER NOT NULL PRIMARY KEY,
  crossing_id INTEGER NOT NULL,
  part TEXT NOT NULL,
  position INTEGER NOT NULL,
  name TEXT NOT NULL,
  content TEXT NOT NULL,
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE
);
CREATE TABLE record (
  id INTEGER NOT NULL PRIMARY KEY,
  crossing_id INTEGER NOT NULL,
  source TEXT NOT NULL,
  key TEXT NOT NULL,
  kind TEXT NOT NULL,
  state TEXT NOT NULL,
  data TEXT NOT NULL,
  hash TEXT NOT NULL,
  page TEXT NOT NULL DEFAULT '',
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE
);
CREATE TABLE reference (
  id INTEGER NOT NULL PRIMARY KEY,
  crossing_id INTEGER NOT NULL,
  source_id INTEGER NOT NULL,
  target_id INTEGER NOT NULL,
  how TEXT NOT NULL,
  raw TEXT NOT NULL,
  words TEXT NOT NULL,
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE,
  FOREIGN KEY (source_id) REFERENCES address (id) ON DELETE CASCADE,
  FOREIGN KEY (target_id) REFERENCES address (id) ON DELETE CASCADE
);
CREATE TABLE refit (
  item_id INTEGER NOT NULL,
  field TEXT NOT NULL,
  blocks TEXT NOT NULL,
  account TEXT NOT NULL,
  words INTEGER NOT NULL,
  in_blocks INTEGER NOT NULL,
  in_islands INTEGER NOT NULL,
  unaccounted INTEGER NOT NULL,
  made_from TEXT NOT NULL DEFAULT '',
  PRIMARY KEY (item_id, field),
  FOREIGN KEY (item_id) REFERENCES item (id) ON DELETE CASCADE
);
CREATE TABLE round (
  id INTEGER NOT NULL PRIMARY KEY,
  crossing_id INTEGER NOT NULL,
  base TEXT NOT NULL,
  started TEXT NOT NULL,
  ended TEXT NOT NULL,
  counts TEXT NOT NULL,
  taken_over INTEGER NOT NULL DEFAULT 0,
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE
);
CREATE TABLE round_verdict (
  round_id INTEGER NOT NULL,
  address_id INTEGER NOT NULL,
  verdict TEXT NOT NULL,
  judged TEXT NOT NULL,
  status INTEGER NOT NULL,
  hops TEXT NOT NULL,
  final TEXT NOT NULL,
  seen TEXT NOT NULL DEFAULT '',
  PRIMARY KEY (round_id, address_id),
  FOREIGN KEY (round_id) REFERENCES round (id) ON DELETE CASCADE,
  FOREIGN KEY (address_id) REFERENCES address (id) ON DELETE CASCADE
);
CREATE TABLE shared (
  crossing_id INTEGER NOT NULL,
  hash INTEGER NOT NULL,
  pages INTEGER NOT NULL,
  PRIMARY KEY (crossing_id, hash),
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE
);
CREATE TABLE shut_out (
  id INTEGER NOT NULL PRIMARY KEY,
  crossing_id INTEGER NOT NULL,
  url TEXT NOT NULL,
  host TEXT NOT NULL,
  reason TEXT NOT NULL,
  wants_file INTEGER NOT NULL,
  depth INTEGER NOT NULL,
  how TEXT NOT NULL,
  pages INTEGER NOT NULL,
  side TEXT NOT NULL DEFAULT 'old',
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE
);
CREATE TABLE sorted (
  address_id INTEGER NOT NULL PRIMARY KEY,
  crossing_id INTEGER NOT NULL,
  kind TEXT NOT NULL,
  rule INTEGER NOT NULL,
  also TEXT NOT NULL,
  made_from TEXT NOT NULL DEFAULT '',
  FOREIGN KEY (address_id) REFERENCES address (id) ON DELETE CASCADE,
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE
);
CREATE TABLE spelling (
  crossing_id INTEGER NOT NULL,
  address_id INTEGER NOT NULL,
  url TEXT NOT NULL,
  PRIMARY KEY (address_id, url),
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE,
  FOREIGN KEY (address_id) REFERENCES address (id) ON DELETE CASCADE
);
CREATE TABLE taken (
  item_id INTEGER NOT NULL,
  step TEXT NOT NULL,
  version INTEGER NOT NULL,
  words INTEGER NOT NULL,
  PRIMARY KEY (item_id, step),
  FOREIGN KEY (item_id) REFERENCES item (id) ON DELETE CASCADE
);
CREATE TABLE tally (
  crossing INTEGER NOT NULL,
  folder TEXT NOT NULL,
  fate TEXT NOT NULL,
  proven INTEGER NOT NULL,
  count INTEGER NOT NULL,
  PRIMARY KEY (crossing, folder, fate, proven)
);
CREATE TABLE change (
  id INTEGER NOT NULL PRIMARY KEY,
  crossing_id INTEGER NOT NULL,
  at TEXT NOT NULL,
  by TEXT NOT NULL,
  text TEXT NOT NULL,
  before TEXT NOT NULL,
  undone INTEGER NOT NULL,
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE
);
CREATE TABLE handed (
  crossing_id INTEGER NOT NULL,
  match TEXT NOT NULL,
  old TEXT NOT NULL,
  new TEXT NOT NULL,
  server TEXT NOT NULL,
  at TEXT NOT NULL,
  PRIMARY KEY (crossing_id, match, old),
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE
);
CREATE TABLE landing_row (
  landing_id INTEGER NOT NULL,
  type TEXT NOT NULL,
  key TEXT NOT NULL,
  title TEXT NOT NULL,
  place TEXT NOT NULL,
  state TEXT NOT NULL,
  reason TEXT NOT NULL,
  PRIMARY KEY (landing_id, type, key),
  FOREIGN KEY (landing_id) REFERENCES landing (id) ON DELETE CASCADE
);
CREATE TABLE refit_count (
  item_id INTEGER NOT NULL,
  field TEXT NOT NULL,
  type TEXT NOT NULL,
  name TEXT NOT NULL,
  count INTEGER NOT NULL,
  PRIMARY KEY (item_id, field, type, name),
  FOREIGN KEY (item_id) REFERENCES item (id) ON DELETE CASCADE
);
CREATE TABLE address_change (
  crossing_id INTEGER NOT NULL,
  run INTEGER NOT NULL,
  address_id INTEGER NOT NULL,
  change TEXT NOT NULL,
  what TEXT NOT NULL,
  side TEXT NOT NULL DEFAULT 'old',
  PRIMARY KEY (run, address_id),
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE,
  FOREIGN KEY (address_id) REFERENCES address (id) ON DELETE CASCADE
);
CREATE TABLE out_reference (
  id INTEGER NOT NULL PRIMARY KEY,
  crossing_id INTEGER NOT NULL,
  source_id INTEGER NOT NULL,
  target_id INTEGER NOT NULL,
  how TEXT NOT NULL,
  raw TEXT NOT NULL,
  words TEXT NOT NULL,
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE,
  FOREIGN KEY (source_id) REFERENCES address (id) ON DELETE CASCADE,
  FOREIGN KEY (target_id) REFERENCES shut_out (id) ON DELETE CASCADE
);
CREATE TABLE given (
  id INTEGER NOT NULL PRIMARY KEY,
  crossing_id INTEGER NOT NULL,
  name TEXT NOT NULL,
  type TEXT NOT NULL,
  at TEXT NOT NULL,
  by TEXT NOT NULL,
  report TEXT NOT NULL,
  from_plan INTEGER NOT NULL,
  side TEXT NOT NULL DEFAULT 'old',
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE
);
CREATE TABLE given_address (
  given_id INTEGER NOT NULL,
  host TEXT NOT NULL,
  target TEXT NOT NULL,
  count INTEGER NOT NULL,
  title TEXT NOT NULL DEFAULT '',
  PRIMARY KEY (given_id, host, target),
  FOREIGN KEY (given_id) REFERENCES given (id) ON DELETE CASCADE
);
CREATE TABLE likeness (
  crossing_id INTEGER NOT NULL,
  type TEXT NOT NULL,
  number INTEGER NOT NULL,
  address_id INTEGER NOT NULL,
  why TEXT NOT NULL,
  side TEXT NOT NULL DEFAULT 'old',
  PRIMARY KEY (crossing_id, type, address_id),
  FOREIGN KEY (crossing_id) REFERENCES crossing (id) ON DELETE CASCADE,
  FOREIGN KEY (address_id) REFERENCES address (id) ON DELETE CASCADE
);
CREATE TABLE edit (
  crossing_id INTEGER NOT NULL REFERENCES crossing (id) ON DELETE CASCADE,
  old TEXT NOT NULL,
  field TEXT NOT NULL,
  block TEXT NOT NULL,
  act TEXT NOT NULL,
  value TEXT NOT NULL,
  over TEXT NOT NULL,
  by TEXT NOT NULL,
  at TEXT NOT NULL,
  PRIMARY KEY (crossing_id, old, field, block, act)
);
CREATE TABLE said (
  crossing_id INTEGER NOT NULL REFERENCES crossing (id) ON DELETE CASCADE,
  file TEXT NOT NULL,
  content TEXT NOT NULL,
  PRIMARY KEY (crossing_id, file)
);
CREATE TABLE suggestion (
  address_id INTEGER NOT NULL PRIMARY KEY REFERENCES address (id) ON DELETE CASCADE,
  crossing_id INTEGER NOT NULL REFERENCES crossing (id) ON DELETE CASCADE,
  new TEXT NOT NULL,
  confidence REAL NOT NULL,
  reasons TEXT NOT NULL,
  others TEXT NOT NULL
);
CREATE TABLE suggested_rule (
  crossing_id INTEGER NOT NULL REFERENCES crossing (id) ON DELETE CASCADE,
  position INTEGER NOT NULL,
  old TEXT NOT NULL,
  new TEXT NOT NULL,
  settles INTEGER NOT NULL,
  disagrees TEXT NOT NULL,
  catches TEXT NOT NULL,
  settled TEXT NOT NULL DEFAULT '[]',
  visits INTEGER NOT NULL DEFAULT 0,
  PRIMARY KEY (crossing_id, position)
);
CREATE TABLE stamp (
  crossing_id INTEGER NOT NULL REFERENCES crossing (id) ON DELETE CASCADE,
  stage TEXT NOT NULL,
  made_from TEXT NOT NULL,
  at TEXT NOT NULL,
  PRIMARY KEY (crossing_id, stage)
);
CREATE TABLE survey_run (
  crossing_id INTEGER NOT NULL REFERENCES crossing (id) ON DELETE CASCADE,
  side TEXT NOT NULL,
  number INTEGER NOT NULL,
  started TEXT NOT NULL,
  ended TEXT NOT NULL,
  stopped TEXT NOT NULL,
  PRIMARY KEY (crossing_id, side, number)
);
CREATE TABLE sounding (
  crossing_id INTEGER NOT NULL REFERENCES crossing (id) ON DELETE CASCADE,
  side TEXT NOT NULL,
  name TEXT NOT NULL,
  content TEXT NOT NULL,
  PRIMARY KEY (crossing_id, side, name)
);
CREATE UNIQUE INDEX crossing_name ON crossing (name);
CREATE UNIQUE INDEX address_crossing_id_side_url ON address (crossing_id, side, url);
CREATE INDEX difference_address_id ON difference (address_id);
CREATE INDEX address_crossing_id_counted_fate ON address (crossing_id, counted, fate);
CREATE INDEX capture_address_id ON capture (address_id);
CREATE INDEX file_crossing_id ON file (crossing_id);
CREATE UNIQUE INDEX file_crossing_id_body ON file (crossing_id, body);
CREATE INDEX filesource_file_id ON file_source (file_id);
CREATE INDEX filesource_address_id ON file_source (address_id);
CREATE INDEX item_crossing_id ON item (crossing_id);
CREATE UNIQUE INDEX item_crossing_id_key_place ON item (crossing_id, key, place);
CREATE INDEX item_crossing_id_kind ON item (crossing_id, kind);
CREATE INDEX itemfield_item_id ON item_field (item_id);
CREATE INDEX itemsource_item_id ON item_source (item_id);
CREATE INDEX itemsource_address_id ON item_source (address_id);
CREATE INDEX job_crossing_id ON job (crossing_id);
CREATE INDEX landing_crossing_id ON landing (crossing_id);
CREATE INDEX ledger_crossing_id ON ledger (crossing_id);
CREATE INDEX pair_crossing_id ON pair (crossing_id);
CREATE INDEX pair_crossing_id_position ON pair (crossing_id, position);
CREATE INDEX pair_crossing_id_old ON pair (crossing_id, old);
CREATE INDEX planrow_crossing_id ON plan_row (crossing_id);
CREATE UNIQUE INDEX planrow_crossing_id_part_position ON plan_row (crossing_id, part, position);
CREATE INDEX record_crossing_id_key ON record (crossing_id, key);
CREATE INDEX record_crossing_id_page ON record (crossing_id, page);
CREATE INDEX reference_source_id ON reference (source_id);
CREATE INDEX reference_target_id ON reference (target_id);
CREATE INDEX refit_item_id ON refit (item_id);
CREATE INDEX round_crossing_id ON round (crossing_id);
CREATE INDEX roundverdict_round_id ON round_verdict (round_id);
CREATE INDEX roundverdict_address_id ON round_verdict (address_id);
CREATE INDEX shared_crossing_id ON shared (crossing_id);
CREATE INDEX shutout_crossing_id ON shut_out (crossing_id);
CREATE INDEX sorted_crossing_id_kind ON sorted (crossing_id, kind);
CREATE INDEX spelling_address_id ON spelling (address_id);
CREATE INDEX change_crossing_id ON change (crossing_id);
CREATE INDEX handed_crossing_id ON handed (crossing_id);
CREATE INDEX landingrow_landing_id ON landing_row (landing_id);
CREATE INDEX address_in_order ON address (crossing_id, side, key, id);
CREATE INDEX refitcount_item_id ON refit_count (item_id);
CREATE INDEX addresschange_address_id ON address_change (address_id);
CREATE INDEX outreference_source_id ON out_reference (source_id);
CREATE INDEX outreference_target_id ON out_reference (target_id);
CREATE INDEX given_crossing_id ON given (crossing_id);
CREATE INDEX likeness_crossing_id ON likeness (crossing_id);
CREATE INDEX likeness_address_id ON likeness (address_id);
CREATE UNIQUE INDEX shutout_crossing_id_side_url ON shut_out (crossing_id, side, url);
CREATE INDEX likeness_crossing_id_side_type_number ON likeness (crossing_id, side, type, number);
CREATE TRIGGER tally_in AFTER INSERT ON address WHEN NEW.counted BEGIN INSERT INTO tally VALUES (NEW.crossing_id, NEW.folder, NEW.fate, NEW.proven, 1) ON CONFLICT DO UPDATE SET count = count + 1; END;
CREATE TRIGGER tally_out AFTER DELETE ON address WHEN OLD.counted BEGIN UPDATE tally SET count = count - 1 WHERE crossing = OLD.crossing_id AND folder = OLD.folder AND fate = OLD.fate AND proven = OLD.proven; END;
CREATE TRIGGER tally_off AFTER UPDATE OF counted, fate, proven ON address WHEN OLD.counted BEGIN UPDATE tally SET count = count - 1 WHERE crossing = OLD.crossing_id AND folder = OLD.folder AND fate = OLD.fate AND proven = OLD.proven; END;
CREATE TRIGGER tally_on AFTER UPDATE OF counted, fate, proven ON address WHEN NEW.counted BEGIN INSERT INTO tally VALUES (NEW.crossing_id, NEW.folder, NEW.fate, NEW.proven, 1) ON CONFLICT DO UPDATE SET count = count + 1; END;
CREATE INDEX suggestion_crossing_id ON suggestion (crossing_id);
CREATE INDEX made_group_address_id ON made_group (address_id);
CREATE INDEX page_group_address_id ON page_group (address_id);
