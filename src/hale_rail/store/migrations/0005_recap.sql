-- Vendors: what sending costs (money as text, so that it stays decimal), the column mapping of their lists, and where
-- a service tells live stock. A vendor that leaves the list keeps its row, unlisted.
CREATE TABLE vendor (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    name TEXT NOT NULL UNIQUE COLLATE NOCASE CHECK (name <> ''),
    shipping TEXT NOT NULL DEFAULT '0',
    free_above TEXT,
    currency TEXT NOT NULL DEFAULT '',
    -- what one of its currency costs in the workshop's; NULL while that is not known
    rate TEXT,
    service TEXT NOT NULL DEFAULT '',
    mapping TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(mapping)),
    priced_at TEXT,
    priced_from TEXT NOT NULL DEFAULT '',
    refresh_problem TEXT NOT NULL DEFAULT '',
    is_listed INTEGER NOT NULL DEFAULT 1 CHECK (is_listed IN (0, 1))
) STRICT;

-- The newest list of each vendor. prices: [[from how many, price], ...] as JSON, prices as texts.
CREATE TABLE offer (
    id INTEGER PRIMARY KEY,
    vendor_id INTEGER NOT NULL REFERENCES vendor (id),
    sku TEXT NOT NULL CHECK (sku <> ''),
    family TEXT NOT NULL,
    farad REAL NOT NULL CHECK (farad > 0),
    volt REAL,
    safety_class TEXT NOT NULL DEFAULT '',
    temp_c REAL,
    mount TEXT,
    pitch_mm REAL,
    diameter_mm REAL,
    height_mm REAL,
    esr_ohm REAL,
    ripple_a REAL,
    life_h REAL,
    prices TEXT NOT NULL CHECK (json_valid(prices)),
    moq INTEGER NOT NULL CHECK (moq > 0),
    pack INTEGER NOT NULL CHECK (pack > 0),
    available INTEGER CHECK (available >= 0),
    UNIQUE (vendor_id, sku)
) STRICT;

CREATE TABLE drawer (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    sku TEXT NOT NULL CHECK (sku <> ''),
    family TEXT NOT NULL,
    farad REAL NOT NULL CHECK (farad > 0),
    volt REAL,
    safety_class TEXT NOT NULL DEFAULT '',
    temp_c REAL,
    mount TEXT,
    pitch_mm REAL,
    diameter_mm REAL,
    height_mm REAL,
    esr_ohm REAL,
    ripple_a REAL,
    life_h REAL,
    qty INTEGER NOT NULL CHECK (qty >= 0),
    origin TEXT NOT NULL CHECK (origin IN ('new', 'old-stock', 'salvaged')),
    is_tested INTEGER NOT NULL CHECK (is_tested IN (0, 1)),
    lot TEXT NOT NULL DEFAULT ''
) STRICT;

-- How the workshop buys.
CREATE TABLE buying (
    key TEXT PRIMARY KEY CHECK (key IN ('currency', 'max_vendors', 'spares', 'spares_below')),
    value TEXT NOT NULL
) STRICT;

-- A filled-in order that was read back: the same file a second time adds nothing.
CREATE TABLE received (
    sha256 TEXT PRIMARY KEY CHECK (length(sha256) = 64),
    at TEXT NOT NULL,
    pieces INTEGER NOT NULL
) STRICT;

-- What a person says of a position (part) or a board: demands, the part chosen by hand, how it is removed. The newest
-- of each stands. body: the fields as JSON.
CREATE TABLE recap_note (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL UNIQUE REFERENCES log (id),
    part_id INTEGER REFERENCES part (id),
    board TEXT NOT NULL DEFAULT '',
    body TEXT NOT NULL CHECK (json_valid(body))
) STRICT;
CREATE INDEX recap_note_of_case ON recap_note (case_id, id);
CREATE INDEX recap_note_of_part ON recap_note (part_id);
CREATE TRIGGER recap_note_no_update BEFORE UPDATE ON recap_note
BEGIN SELECT RAISE (ABORT, 'recap_note is append-only'); END;
CREATE TRIGGER recap_note_no_delete BEFORE DELETE ON recap_note
BEGIN SELECT RAISE (ABORT, 'recap_note is append-only'); END;

-- One thing done at one position, or (part_id NULL) to the whole board afterwards.
CREATE TABLE rework_step (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL UNIQUE REFERENCES log (id),
    part_id INTEGER REFERENCES part (id),
    step TEXT NOT NULL CHECK (step IN ('out', 'cleared', 'polarity', 'second-look', 'measured', 'fitted', 'looked',
                                       'clippings', 'washed')),
    note TEXT NOT NULL DEFAULT '',
    CHECK ((part_id IS NULL) = (step IN ('clippings', 'washed')))
) STRICT;
CREATE INDEX rework_step_of_case ON rework_step (case_id, id);
CREATE INDEX rework_step_of_part ON rework_step (part_id);
CREATE TRIGGER rework_step_no_update BEFORE UPDATE ON rework_step
BEGIN SELECT RAISE (ABORT, 'rework_step is append-only'); END;
CREATE TRIGGER rework_step_no_delete BEFORE DELETE ON rework_step
BEGIN SELECT RAISE (ABORT, 'rework_step is append-only'); END;

CREATE TABLE rework_strike (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL UNIQUE REFERENCES log (id),
    step_id INTEGER NOT NULL UNIQUE REFERENCES rework_step (id),
    reason TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX rework_strike_of_case ON rework_strike (case_id, id);
CREATE TRIGGER rework_strike_no_update BEFORE UPDATE ON rework_strike
BEGIN SELECT RAISE (ABORT, 'rework_strike is append-only'); END;
CREATE TRIGGER rework_strike_no_delete BEFORE DELETE ON rework_strike
BEGIN SELECT RAISE (ABORT, 'rework_strike is append-only'); END;
