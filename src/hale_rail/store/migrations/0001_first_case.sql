-- A unit's sheet: a pattern to start cases from, or one case's own copy.
CREATE TABLE sheet (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL,
    topology TEXT NOT NULL,
    is_pattern INTEGER NOT NULL DEFAULT 0 CHECK (is_pattern IN (0, 1))
) STRICT;

CREATE TABLE rail (
    id INTEGER PRIMARY KEY,
    sheet_id INTEGER NOT NULL REFERENCES sheet (id),
    place INTEGER NOT NULL,
    key TEXT NOT NULL,
    nominal_v REAL NOT NULL,
    regulation TEXT NOT NULL,
    load_min_a REAL,
    load_max_a REAL,
    tolerance_low REAL,
    tolerance_high REAL,
    ripple_mv REAL,
    ohm_isolated REAL,
    ohm_attached REAL,
    UNIQUE (sheet_id, key)
) STRICT;

CREATE TABLE station (
    id INTEGER PRIMARY KEY,
    sheet_id INTEGER NOT NULL REFERENCES sheet (id),
    ref TEXT NOT NULL,
    kind TEXT NOT NULL,
    line TEXT NOT NULL,
    place INTEGER NOT NULL,
    value REAL,
    volt REAL,
    family TEXT,
    role TEXT NOT NULL DEFAULT '',
    bank TEXT NOT NULL DEFAULT '',
    board TEXT NOT NULL DEFAULT '',
    safety_class TEXT NOT NULL DEFAULT '',
    tolerance_low REAL,
    tolerance_high REAL,
    grade TEXT NOT NULL DEFAULT 'general',
    year INTEGER,
    is_primary INTEGER NOT NULL DEFAULT 0 CHECK (is_primary IN (0, 1)),
    is_store INTEGER NOT NULL DEFAULT 0 CHECK (is_store IN (0, 1)),
    note TEXT NOT NULL DEFAULT '',
    rails TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX station_of_sheet ON station (sheet_id);

CREATE TABLE bench_case (
    id INTEGER PRIMARY KEY,
    number TEXT NOT NULL UNIQUE COLLATE NOCASE,
    machine TEXT NOT NULL,
    symptom TEXT NOT NULL,
    before TEXT NOT NULL DEFAULT '',
    sheet_id INTEGER NOT NULL UNIQUE REFERENCES sheet (id),
    school TEXT NOT NULL,
    tolerance TEXT NOT NULL,
    opened_at TEXT NOT NULL,
    closed_at TEXT,
    version INTEGER NOT NULL DEFAULT 1
) STRICT;

-- Readings are never edited: a correction names the one it supersedes, a strike puts one aside.
CREATE TABLE reading (
    id INTEGER PRIMARY KEY,
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    station_id INTEGER REFERENCES station (id),
    rail_key TEXT NOT NULL DEFAULT '',
    quantity TEXT NOT NULL,
    setting TEXT NOT NULL DEFAULT '',
    polarity TEXT NOT NULL DEFAULT '',
    typed TEXT NOT NULL,
    value REAL NOT NULL,
    high REAL NOT NULL,
    digit REAL NOT NULL DEFAULT 0,
    ampere REAL,
    taken_at TEXT NOT NULL,
    supersedes INTEGER UNIQUE REFERENCES reading (id),
    CHECK ((station_id IS NULL) <> (rail_key = ''))
) STRICT;
CREATE INDEX reading_of_case ON reading (case_id);

CREATE TABLE strike (
    id INTEGER PRIMARY KEY,
    reading_id INTEGER NOT NULL UNIQUE REFERENCES reading (id),
    reason TEXT NOT NULL,
    struck_at TEXT NOT NULL
) STRICT;

-- What is done with a part: fitted (replaced), kept, replaced by choice, left out for now.
CREATE TABLE decision (
    id INTEGER PRIMARY KEY,
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    station_id INTEGER NOT NULL REFERENCES station (id),
    kind TEXT NOT NULL,
    reason TEXT NOT NULL DEFAULT '',
    decided_at TEXT NOT NULL
) STRICT;
CREATE INDEX decision_of_case ON decision (case_id);

CREATE TABLE log (
    id INTEGER PRIMARY KEY,
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    at TEXT NOT NULL,
    kind TEXT NOT NULL,
    text TEXT NOT NULL,
    reading_id INTEGER REFERENCES reading (id)
) STRICT;
CREATE INDEX log_of_case ON log (case_id, id);

-- The bench page's line for a case, rewritten with every action on it; derived, so it may change.
CREATE TABLE summary (
    case_id INTEGER PRIMARY KEY REFERENCES bench_case (id),
    stage TEXT NOT NULL,
    energy TEXT NOT NULL,
    next_text TEXT NOT NULL,
    next_view TEXT NOT NULL,
    updated_at TEXT NOT NULL
) STRICT;
CREATE INDEX summary_by_time ON summary (updated_at);

CREATE TABLE setting (
    key TEXT PRIMARY KEY,
    value TEXT NOT NULL
) STRICT;

CREATE VIEW current_reading AS
SELECT * FROM reading AS r
WHERE NOT EXISTS (SELECT 1 FROM strike WHERE reading_id = r.id)
  AND NOT EXISTS (SELECT 1 FROM reading AS later WHERE later.supersedes = r.id);

CREATE TRIGGER reading_no_update BEFORE UPDATE ON reading
BEGIN SELECT RAISE (ABORT, 'readings are append-only'); END;
CREATE TRIGGER reading_no_delete BEFORE DELETE ON reading
BEGIN SELECT RAISE (ABORT, 'readings are append-only'); END;
CREATE TRIGGER strike_no_update BEFORE UPDATE ON strike
BEGIN SELECT RAISE (ABORT, 'strikes are append-only'); END;
CREATE TRIGGER strike_no_delete BEFORE DELETE ON strike
BEGIN SELECT RAISE (ABORT, 'strikes are append-only'); END;
CREATE TRIGGER decision_no_update BEFORE UPDATE ON decision
BEGIN SELECT RAISE (ABORT, 'decisions are append-only'); END;
CREATE TRIGGER decision_no_delete BEFORE DELETE ON decision
BEGIN SELECT RAISE (ABORT, 'decisions are append-only'); END;
CREATE TRIGGER log_no_update BEFORE UPDATE ON log
BEGIN SELECT RAISE (ABORT, 'the log is append-only'); END;
CREATE TRIGGER log_no_delete BEFORE DELETE ON log
BEGIN SELECT RAISE (ABORT, 'the log is append-only'); END;
