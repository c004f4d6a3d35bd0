-- Words that the program's lists give their meaning (kinds of part, procedures, findings of a look): the store
-- takes them over when it is opened, so that a new one needs no migration and an unknown one is refused.
CREATE TABLE vocabulary (
    list TEXT NOT NULL CHECK (list IN ('kind', 'procedure', 'finding')),
    code TEXT NOT NULL,
    PRIMARY KEY (list, code)
) STRICT;

-- A type of unit: units of one type are alike because a person said so.
CREATE TABLE unit_type (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    name TEXT NOT NULL UNIQUE COLLATE NOCASE,
    -- counts the hand-backs of its units, so that their records are read again only when there are new ones
    revision INTEGER NOT NULL DEFAULT 0
) STRICT;

-- A unit's sheet: a pattern to start cases from, or one case's own. Its versions are kept.
CREATE TABLE sheet (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    name TEXT NOT NULL,
    topology TEXT NOT NULL CHECK (topology IN ('linear', 'flyback', 'half-bridge', 'dc-fed')),
    mains_v REAL,
    mains_hz REAL,
    year INTEGER,
    is_pattern INTEGER NOT NULL DEFAULT 0 CHECK (is_pattern IN (0, 1)),
    unit_type_id INTEGER REFERENCES unit_type (id)
) STRICT;
CREATE INDEX sheet_of_unit_type ON sheet (unit_type_id);

CREATE TABLE sheet_version (
    id INTEGER PRIMARY KEY,
    sheet_id INTEGER NOT NULL REFERENCES sheet (id),
    number INTEGER NOT NULL CHECK (number > 0),
    made_at TEXT NOT NULL,
    UNIQUE (sheet_id, number)
) STRICT;

-- A rail and a part keep their identity; what is marked on them is a row a version.
CREATE TABLE rail (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    sheet_id INTEGER NOT NULL REFERENCES sheet (id),
    key TEXT NOT NULL,
    place INTEGER NOT NULL,
    UNIQUE (sheet_id, key)
) STRICT;

CREATE TABLE rail_marking (
    id INTEGER PRIMARY KEY,
    rail_id INTEGER NOT NULL REFERENCES rail (id),
    version INTEGER NOT NULL,
    is_removed INTEGER NOT NULL DEFAULT 0 CHECK (is_removed IN (0, 1)),
    nominal_v REAL NOT NULL,
    regulation TEXT NOT NULL CHECK (regulation IN ('main', 'auxiliary', 'linear', 'raw')),
    load_min_a REAL,
    load_max_a REAL,
    tolerance_low REAL,
    tolerance_high REAL,
    ripple_mv REAL,
    ohm_isolated REAL,
    ohm_attached REAL,
    UNIQUE (rail_id, version)
) STRICT;

CREATE TABLE part (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    sheet_id INTEGER NOT NULL REFERENCES sheet (id),
    list TEXT NOT NULL DEFAULT 'kind' CHECK (list = 'kind'),
    kind TEXT NOT NULL,
    FOREIGN KEY (list, kind) REFERENCES vocabulary (list, code)
) STRICT;
CREATE INDEX part_of_sheet ON part (sheet_id);

-- value: in the unit of the part's kind. Capacitors alone have family, class, grade and is_store.
CREATE TABLE part_marking (
    id INTEGER PRIMARY KEY,
    part_id INTEGER NOT NULL REFERENCES part (id),
    version INTEGER NOT NULL,
    is_removed INTEGER NOT NULL DEFAULT 0 CHECK (is_removed IN (0, 1)),
    ref TEXT NOT NULL,
    line TEXT NOT NULL,
    place INTEGER NOT NULL,
    role TEXT NOT NULL DEFAULT '',
    bank TEXT NOT NULL DEFAULT '',
    board TEXT NOT NULL DEFAULT '',
    year INTEGER,
    is_primary INTEGER CHECK (is_primary IN (0, 1)),
    note TEXT NOT NULL DEFAULT '',
    value REAL,
    volt REAL,
    tolerance_low REAL,
    tolerance_high REAL,
    family TEXT CHECK (family IN ('aluminium', 'aluminium-bipolar', 'tantalum', 'polymer', 'film', 'ceramic',
                                  'suppression-film', 'suppression-paper')),
    safety_class TEXT CHECK (safety_class IN ('X1', 'X2', 'Y1', 'Y2')),
    grade TEXT CHECK (grade IN ('general', 'low')),
    is_store INTEGER CHECK (is_store IN (0, 1)),
    material TEXT CHECK (material IN ('silicon', 'germanium', 'darlington')),
    bleeder_for TEXT,
    UNIQUE (part_id, version)
) STRICT;

CREATE TABLE part_rail (
    marking_id INTEGER NOT NULL REFERENCES part_marking (id),
    place INTEGER NOT NULL,
    rail_key TEXT NOT NULL,
    PRIMARY KEY (marking_id, place)
) STRICT;

CREATE TABLE part_winding (
    marking_id INTEGER NOT NULL REFERENCES part_marking (id),
    place INTEGER NOT NULL,
    line TEXT NOT NULL,
    ohm REAL NOT NULL,
    PRIMARY KEY (marking_id, place)
) STRICT;

CREATE VIEW current_part AS
SELECT p.sheet_id, p.uuid, p.kind, m.*
FROM part AS p JOIN part_marking AS m ON m.part_id = p.id
WHERE m.version = (SELECT max(version) FROM part_marking WHERE part_id = p.id) AND NOT m.is_removed;

CREATE VIEW current_rail AS
SELECT r.sheet_id, r.uuid, r.key, r.place, m.*
FROM rail AS r JOIN rail_marking AS m ON m.rail_id = r.id
WHERE m.version = (SELECT max(version) FROM rail_marking WHERE rail_id = r.id) AND NOT m.is_removed;

CREATE TABLE bench_case (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    number TEXT NOT NULL UNIQUE COLLATE NOCASE,
    machine TEXT NOT NULL,
    symptom TEXT NOT NULL,
    before TEXT NOT NULL DEFAULT '',
    sheet_id INTEGER NOT NULL UNIQUE REFERENCES sheet (id),
    unit_type_id INTEGER REFERENCES unit_type (id),
    school TEXT NOT NULL CHECK (school IN ('proven', 'offenders', 'blanket')),
    tolerance TEXT NOT NULL CHECK (tolerance IN ('strict', 'lenient')),
    opened_at TEXT NOT NULL,
    closed_at TEXT,
    outcome TEXT CHECK (outcome IN ('repaired', 'as-it-is')),
    -- counts edits of its texts, for two tabs; revision counts everything done to the case
    version INTEGER NOT NULL DEFAULT 1,
    revision INTEGER NOT NULL DEFAULT 1,
    touched_at TEXT NOT NULL,
    CHECK ((closed_at IS NULL) = (outcome IS NULL))
) STRICT;
CREATE INDEX case_by_touch ON bench_case (touched_at);
CREATE INDEX case_of_unit_type ON bench_case (unit_type_id);

-- The spine: everything that is done to a case has an entry, whose id is its place in time.
CREATE TABLE log (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    at TEXT NOT NULL,
    kind TEXT NOT NULL CHECK (kind IN ('opened', 'edited', 'handed-back', 'reopened', 'reading', 'strike', 'look',
                                       'power', 'guard', 'decision', 'note', 'parts', 'left-out', 'sheet',
                                       'pattern', 'photo', 'diagnosis', 'board-mark')),
    text TEXT NOT NULL
) STRICT;
CREATE INDEX log_of_case ON log (case_id, id);

-- What can be read: a part, two of its pins, a rail at a place, and what later features read: pads, pins,
-- connections, items of the attachment tree, channels (plus and minus name them).
CREATE TABLE target (
    id INTEGER PRIMARY KEY,
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    kind TEXT NOT NULL
        CHECK (kind IN ('part', 'pair', 'rail', 'pin', 'pad', 'connection', 'item', 'channel')),
    part_id INTEGER REFERENCES part (id),
    rail_id INTEGER REFERENCES rail (id),
    place TEXT NOT NULL DEFAULT '' CHECK (place IN ('', 'supply', 'connector', 'far')),
    plus TEXT NOT NULL DEFAULT '',
    minus TEXT NOT NULL DEFAULT '',
    CHECK (kind <> 'part' OR (part_id IS NOT NULL AND plus = '' AND minus = '')),
    CHECK (kind <> 'pair' OR (part_id IS NOT NULL AND plus <> '' AND minus <> '')),
    CHECK (kind <> 'connection' OR (plus <> '' AND minus <> '')),
    CHECK (kind NOT IN ('pin', 'pad', 'item', 'channel') OR plus <> ''),
    CHECK ((kind = 'rail') = (rail_id IS NOT NULL))
) STRICT;
CREATE UNIQUE INDEX target_once
ON target (case_id, kind, ifnull(part_id, 0), ifnull(rail_id, 0), place, plus, minus);
CREATE INDEX target_of_part ON target (part_id);
CREATE INDEX target_of_rail ON target (rail_id);

-- A meter as it was when it was described; one described anew is a new row.
CREATE TABLE meter (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    name TEXT NOT NULL,
    cap_hz REAL NOT NULL,
    esr_hz REAL NOT NULL,
    cap_share REAL NOT NULL,
    esr_share REAL NOT NULL,
    esr_ohm REAL NOT NULL,
    lead_ohm REAL NOT NULL,
    esr_min_farad REAL NOT NULL,
    is_listed INTEGER NOT NULL DEFAULT 1 CHECK (is_listed IN (0, 1))
) STRICT;

-- Readings are never edited: a correction names the one it supersedes, a strike puts one aside. Numbers are SI;
-- high is the far end of a jumping reading, digit the weight of the last place, accuracy the meter's that day.
CREATE TABLE reading (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL UNIQUE REFERENCES log (id),
    target_id INTEGER NOT NULL REFERENCES target (id),
    list TEXT NOT NULL DEFAULT 'procedure' CHECK (list = 'procedure'),
    procedure TEXT NOT NULL,
    condition TEXT NOT NULL DEFAULT ''
        CHECK (condition IN ('', 'in-circuit', 'lifted', 'no-load', 'dummy', 'machine', 'attached', 'isolated',
                             'attached-reversed', 'isolated-reversed')),
    typed TEXT NOT NULL,
    value REAL NOT NULL,
    high REAL NOT NULL,
    digit REAL NOT NULL DEFAULT 0,
    accuracy_share REAL NOT NULL,
    accuracy_digits REAL NOT NULL,
    accuracy_fixed REAL NOT NULL,
    meter_id INTEGER REFERENCES meter (id),
    source TEXT NOT NULL CHECK (source IN ('typed', 'captured', 'imported', 'simulated')),
    taken_at TEXT NOT NULL,
    supersedes INTEGER UNIQUE REFERENCES reading (id),
    FOREIGN KEY (list, procedure) REFERENCES vocabulary (list, code)
) STRICT;
CREATE INDEX reading_of_case ON reading (case_id, id);
CREATE INDEX reading_of_target ON reading (target_id);

-- Further numbers of a reading by name, SI: the volts and amperes of a low injection, a load's current.
CREATE TABLE reading_figure (
    reading_id INTEGER NOT NULL REFERENCES reading (id),
    name TEXT NOT NULL,
    value REAL NOT NULL,
    PRIMARY KEY (reading_id, name)
) STRICT;

CREATE TABLE strike (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL UNIQUE REFERENCES log (id),
    reading_id INTEGER NOT NULL UNIQUE REFERENCES reading (id),
    reason TEXT NOT NULL
) STRICT;
CREATE INDEX strike_of_case ON strike (case_id, id);

CREATE VIEW current_reading AS
SELECT * FROM reading AS r
WHERE NOT EXISTS (SELECT 1 FROM strike WHERE reading_id = r.id)
  AND NOT EXISTS (SELECT 1 FROM reading AS later WHERE later.supersedes = r.id);

-- What eye, nose and fingertip found; the newest look at a part stands, one without findings takes it back.
CREATE TABLE look (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL UNIQUE REFERENCES log (id),
    part_id INTEGER NOT NULL REFERENCES part (id)
) STRICT;
CREATE INDEX look_of_case ON look (case_id, id);
CREATE INDEX look_of_part ON look (part_id);

CREATE TABLE look_finding (
    look_id INTEGER NOT NULL REFERENCES look (id),
    place INTEGER NOT NULL,
    list TEXT NOT NULL DEFAULT 'finding' CHECK (list = 'finding'),
    code TEXT NOT NULL,
    PRIMARY KEY (look_id, place),
    FOREIGN KEY (list, code) REFERENCES vocabulary (list, code)
) STRICT;

CREATE TABLE power_event (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL UNIQUE REFERENCES log (id),
    kind TEXT NOT NULL CHECK (kind IN ('applied', 'removed', 'guard-passed')),
    source TEXT CHECK (source IN ('mains', 'bench', 'injected')),
    reason TEXT NOT NULL DEFAULT '',
    CHECK ((kind = 'applied') = (source IS NOT NULL)),
    CHECK ((kind = 'guard-passed') = (reason <> ''))
) STRICT;
CREATE INDEX power_event_of_case ON power_event (case_id, id);

-- What is done with a part: fitted (replaced), kept, replaced by choice, left out for now, or the last undone.
CREATE TABLE decision (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL UNIQUE REFERENCES log (id),
    part_id INTEGER NOT NULL REFERENCES part (id),
    kind TEXT NOT NULL CHECK (kind IN ('fitted', 'keep', 'replace', 'left-out', 'undone')),
    reason TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX decision_of_case ON decision (case_id, id);
CREATE INDEX decision_of_part ON decision (part_id);

-- What the person says in the diagnosis. The newest of a kind and key stands; an empty value takes it back.
CREATE TABLE statement (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL UNIQUE REFERENCES log (id),
    kind TEXT NOT NULL CHECK (kind IN ('symptom', 'result', 'belief')),
    key TEXT NOT NULL,
    value TEXT NOT NULL
) STRICT;
CREATE INDEX statement_of_case ON statement (case_id, id);

-- What a board's own polarity mark means, asked once per board and proven on an original part.
CREATE TABLE board_mark (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL UNIQUE REFERENCES log (id),
    board TEXT NOT NULL,
    mark TEXT NOT NULL CHECK (mark IN ('plus-sign', 'half-negative', 'half-positive', 'square-positive',
                                       'square-negative', 'dot-positive', 'none')),
    proven_on TEXT NOT NULL
) STRICT;
CREATE INDEX board_mark_of_case ON board_mark (case_id, id);

-- Photos: re-encoded, without location data, kept in photos/ under the hash of their bytes.
CREATE TABLE photo (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL REFERENCES log (id),
    part_id INTEGER REFERENCES part (id),
    sha256 TEXT NOT NULL CHECK (length(sha256) = 64),
    width INTEGER NOT NULL,
    height INTEGER NOT NULL,
    caption TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX photo_of_case ON photo (case_id, id);
CREATE INDEX photo_of_part ON photo (part_id);

-- Drawings and other papers, and waves from an oscilloscope, as they came, in documents/ and records/ under the
-- hash of their bytes.
CREATE TABLE document (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL REFERENCES log (id),
    name TEXT NOT NULL,
    revision TEXT NOT NULL DEFAULT '',
    media_type TEXT NOT NULL,
    sha256 TEXT NOT NULL CHECK (length(sha256) = 64)
) STRICT;
CREATE INDEX document_of_case ON document (case_id, id);

CREATE TABLE wave_record (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL REFERENCES log (id),
    target_id INTEGER NOT NULL REFERENCES target (id),
    name TEXT NOT NULL,
    sha256 TEXT NOT NULL CHECK (length(sha256) = 64)
) STRICT;
CREATE INDEX wave_record_of_case ON wave_record (case_id, id);
CREATE INDEX wave_record_of_target ON wave_record (target_id);

-- A report as it was issued; what was read or decided later does not reach it.
CREATE TABLE issued_report (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL UNIQUE REFERENCES log (id),
    body TEXT NOT NULL CHECK (json_valid(body))
) STRICT;
CREATE INDEX issued_report_of_case ON issued_report (case_id, id);

-- What a repaired unit's rails read to ground when it was handed back, sound readings only: the expectation of
-- units of its type that are read later.
CREATE TABLE ground_record (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    unit_type_id INTEGER NOT NULL REFERENCES unit_type (id),
    reading_id INTEGER NOT NULL REFERENCES reading (id),
    rail_key TEXT NOT NULL,
    condition TEXT NOT NULL
        CHECK (condition IN ('attached', 'isolated', 'attached-reversed', 'isolated-reversed')),
    ohm REAL NOT NULL,
    made_at TEXT NOT NULL
) STRICT;
CREATE INDEX ground_record_of_unit_type ON ground_record (unit_type_id, id);
CREATE INDEX ground_record_of_case ON ground_record (case_id);
CREATE INDEX ground_record_of_reading ON ground_record (reading_id);

-- The bench page's line for a case; derived, made anew by whoever looks when revision is behind the case's.
CREATE TABLE bench_line (
    case_id INTEGER PRIMARY KEY REFERENCES bench_case (id),
    revision INTEGER NOT NULL,
    stage TEXT NOT NULL,
    energy TEXT NOT NULL CHECK (energy IN ('unknown', 'live', 'waiting', 'dead')),
    next_text TEXT NOT NULL,
    next_stage TEXT NOT NULL,
    next_point TEXT NOT NULL DEFAULT ''
) STRICT;

-- Results of costly analyses under the hash of their inputs; derived, may be thrown away.
CREATE TABLE analysis (
    key TEXT PRIMARY KEY CHECK (length(key) = 64),
    name TEXT NOT NULL,
    result TEXT NOT NULL CHECK (json_valid(result)),
    made_at TEXT NOT NULL
) STRICT;

CREATE TABLE resistor (
    id INTEGER PRIMARY KEY,
    ohm REAL NOT NULL CHECK (ohm > 0),
    watt REAL NOT NULL CHECK (watt > 0),
    kind TEXT NOT NULL CHECK (kind IN ('wirewound', 'film')),
    max_volt REAL NOT NULL CHECK (max_volt > 0)
) STRICT;

CREATE TABLE setting (
    key TEXT PRIMARY KEY CHECK (key IN ('touch_limit_v', 'school', 'tolerance', 'hours_a_day', 'core_c', 'meter')),
    value TEXT NOT NULL
) STRICT;

-- What is appended stays as it is.
CREATE TRIGGER sheet_version_no_update BEFORE UPDATE ON sheet_version
BEGIN SELECT RAISE (ABORT, 'sheet_version is append-only'); END;
CREATE TRIGGER sheet_version_no_delete BEFORE DELETE ON sheet_version
BEGIN SELECT RAISE (ABORT, 'sheet_version is append-only'); END;
CREATE TRIGGER rail_no_update BEFORE UPDATE ON rail
BEGIN SELECT RAISE (ABORT, 'rail is append-only'); END;
CREATE TRIGGER rail_no_delete BEFORE DELETE ON rail
BEGIN SELECT RAISE (ABORT, 'rail is append-only'); END;
CREATE TRIGGER rail_marking_no_update BEFORE UPDATE ON rail_marking
BEGIN SELECT RAISE (ABORT, 'rail_marking is append-only'); END;
CREATE TRIGGER rail_marking_no_delete BEFORE DELETE ON rail_marking
BEGIN SELECT RAISE (ABORT, 'rail_marking is append-only'); END;
CREATE TRIGGER part_no_update BEFORE UPDATE ON part
BEGIN SELECT RAISE (ABORT, 'part is append-only'); END;
CREATE TRIGGER part_no_delete BEFORE DELETE ON part
BEGIN SELECT RAISE (ABORT, 'part is append-only'); END;
CREATE TRIGGER part_marking_no_update BEFORE UPDATE ON part_marking
BEGIN SELECT RAISE (ABORT, 'part_marking is append-only'); END;
CREATE TRIGGER part_marking_no_delete BEFORE DELETE ON part_marking
BEGIN SELECT RAISE (ABORT, 'part_marking is append-only'); END;
CREATE TRIGGER part_rail_no_update BEFORE UPDATE ON part_rail
BEGIN SELECT RAISE (ABORT, 'part_rail is append-only'); END;
CREATE TRIGGER part_rail_no_delete BEFORE DELETE ON part_rail
BEGIN SELECT RAISE (ABORT, 'part_rail is append-only'); END;
CREATE TRIGGER part_winding_no_update BEFORE UPDATE ON part_winding
BEGIN SELECT RAISE (ABORT, 'part_winding is append-only'); END;
CREATE TRIGGER part_winding_no_delete BEFORE DELETE ON part_winding
BEGIN SELECT RAISE (ABORT, 'part_winding is append-only'); END;
CREATE TRIGGER log_no_update BEFORE UPDATE ON log
BEGIN SELECT RAISE (ABORT, 'log is append-only'); END;
CREATE TRIGGER log_no_delete BEFORE DELETE ON log
BEGIN SELECT RAISE (ABORT, 'log is append-only'); END;
CREATE TRIGGER target_no_update BEFORE UPDATE ON target
BEGIN SELECT RAISE (ABORT, 'target is append-only'); END;
CREATE TRIGGER target_no_delete BEFORE DELETE ON target
BEGIN SELECT RAISE (ABORT, 'target is append-only'); END;
CREATE TRIGGER reading_no_update BEFORE UPDATE ON reading
BEGIN SELECT RAISE (ABORT, 'reading is append-only'); END;
CREATE TRIGGER reading_no_delete BEFORE DELETE ON reading
BEGIN SELECT RAISE (ABORT, 'reading is append-only'); END;
CREATE TRIGGER reading_figure_no_update BEFORE UPDATE ON reading_figure
BEGIN SELECT RAISE (ABORT, 'reading_figure is append-only'); END;
CREATE TRIGGER reading_figure_no_delete BEFORE DELETE ON reading_figure
BEGIN SELECT RAISE (ABORT, 'reading_figure is append-only'); END;
CREATE TRIGGER strike_no_update BEFORE UPDATE ON strike
BEGIN SELECT RAISE (ABORT, 'strike is append-only'); END;
CREATE TRIGGER strike_no_delete BEFORE DELETE ON strike
BEGIN SELECT RAISE (ABORT, 'strike is append-only'); END;
CREATE TRIGGER look_no_update BEFORE UPDATE ON look
BEGIN SELECT RAISE (ABORT, 'look is append-only'); END;
CREATE TRIGGER look_no_delete BEFORE DELETE ON look
BEGIN SELECT RAISE (ABORT, 'look is append-only'); END;
CREATE TRIGGER look_finding_no_update BEFORE UPDATE ON look_finding
BEGIN SELECT RAISE (ABORT, 'look_finding is append-only'); END;
CREATE TRIGGER look_finding_no_delete BEFORE DELETE ON look_finding
BEGIN SELECT RAISE (ABORT, 'look_finding is append-only'); END;
CREATE TRIGGER power_event_no_update BEFORE UPDATE ON power_event
BEGIN SELECT RAISE (ABORT, 'power_event is append-only'); END;
CREATE TRIGGER power_event_no_delete BEFORE DELETE ON power_event
BEGIN SELECT RAISE (ABORT, 'power_event is append-only'); END;
CREATE TRIGGER decision_no_update BEFORE UPDATE ON decision
BEGIN SELECT RAISE (ABORT, 'decision is append-only'); END;
CREATE TRIGGER decision_no_delete BEFORE DELETE ON decision
BEGIN SELECT RAISE (ABORT, 'decision is append-only'); END;
CREATE TRIGGER statement_no_update BEFORE UPDATE ON statement
BEGIN SELECT RAISE (ABORT, 'statement is append-only'); END;
CREATE TRIGGER statement_no_delete BEFORE DELETE ON statement
BEGIN SELECT RAISE (ABORT, 'statement is append-only'); END;
CREATE TRIGGER board_mark_no_update BEFORE UPDATE ON board_mark
BEGIN SELECT RAISE (ABORT, 'board_mark is append-only'); END;
CREATE TRIGGER board_mark_no_delete BEFORE DELETE ON board_mark
BEGIN SELECT RAISE (ABORT, 'board_mark is append-only'); END;
CREATE TRIGGER photo_no_update BEFORE UPDATE ON photo
BEGIN SELECT RAISE (ABORT, 'photo is append-only'); END;
CREATE TRIGGER photo_no_delete BEFORE DELETE ON photo
BEGIN SELECT RAISE (ABORT, 'photo is append-only'); END;
CREATE TRIGGER document_no_update BEFORE UPDATE ON document
BEGIN SELECT RAISE (ABORT, 'document is append-only'); END;
CREATE TRIGGER document_no_delete BEFORE DELETE ON document
BEGIN SELECT RAISE (ABORT, 'document is append-only'); END;
CREATE TRIGGER wave_record_no_update BEFORE UPDATE ON wave_record
BEGIN SELECT RAISE (ABORT, 'wave_record is append-only'); END;
CREATE TRIGGER wave_record_no_delete BEFORE DELETE ON wave_record
BEGIN SELECT RAISE (ABORT, 'wave_record is append-only'); END;
CREATE TRIGGER issued_report_no_update BEFORE UPDATE ON issued_report
BEGIN SELECT RAISE (ABORT, 'issued_report is append-only'); END;
CREATE TRIGGER issued_report_no_delete BEFORE DELETE ON issued_report
BEGIN SELECT RAISE (ABORT, 'issued_report is append-only'); END;
CREATE TRIGGER ground_record_no_update BEFORE UPDATE ON ground_record
BEGIN SELECT RAISE (ABORT, 'ground_record is append-only'); END;
CREATE TRIGGER ground_record_no_delete BEFORE DELETE ON ground_record
BEGIN SELECT RAISE (ABORT, 'ground_record is append-only'); END;
