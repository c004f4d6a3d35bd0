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
    unit_type_id INTEGER REFERENCES unit_type (id),
    purpose TEXT NOT NULL DEFAULT '' CHECK (purpose IN ('', 'repair', 'preventive')),
    is_self_loaded INTEGER NOT NULL DEFAULT 0 CHECK (is_self_loaded IN (0, 1))
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
    -- a rail can change its place on the sheet: a version has a place, the rail's own is where it began
    marked_place INTEGER,
    -- the designator of its trimmer, and the rail that must not be there while this one is missing; '' where none
    trimmer TEXT NOT NULL DEFAULT '',
    guards TEXT NOT NULL DEFAULT '',
    current TEXT NOT NULL DEFAULT 'dc' CHECK (current IN ('dc', 'ac')),
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

-- value: in the unit of the part's kind. Capacitors alone have family, class and grade.
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
    material TEXT CHECK (material IN ('silicon', 'germanium', 'darlington')),
    bleeder_for TEXT,
    fuse_speed TEXT NOT NULL DEFAULT '',
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
    -- a case that waits, for parts or for time, is put away from the bench without being handed back
    put_away_at TEXT,
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
    text TEXT NOT NULL,
    -- which bench made the entry: the name of a person or a place, '' where none was given
    bench TEXT NOT NULL DEFAULT '' CHECK (length(bench) <= 40)
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
    sha256 TEXT NOT NULL CHECK (length(sha256) = 64),
    -- a drawing may be of the type of unit: then every unit of the type has it
    unit_type_id INTEGER REFERENCES unit_type (id)
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
    max_volt REAL NOT NULL CHECK (max_volt > 0),
    -- how many are at hand: a dummy load uses each once
    qty INTEGER NOT NULL DEFAULT 1 CHECK (qty >= 0)
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

CREATE VIEW current_part AS
SELECT p.sheet_id, p.uuid, p.kind, m.*
FROM part AS p JOIN part_marking AS m ON m.part_id = p.id
WHERE m.version = (SELECT max(version) FROM part_marking WHERE part_id = p.id) AND NOT m.is_removed;

-- A board's map of one rail, as drawn. It belongs to the case it was drawn in and, where that is of a type that a
-- person chose, to every unit of the type. Drawing is no reading: the newest state is kept, version counts them.
CREATE TABLE board_map (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    unit_type_id INTEGER REFERENCES unit_type (id),
    rail_key TEXT NOT NULL,
    body TEXT NOT NULL CHECK (json_valid(body)),
    version INTEGER NOT NULL DEFAULT 1,
    changed_at TEXT NOT NULL,
    UNIQUE (case_id, rail_key)
) STRICT;
CREATE INDEX board_map_of_unit_type ON board_map (unit_type_id, rail_key);

-- What hangs on a rail, where a person changed what the sheet says.
CREATE TABLE attachment_tree (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    rail_key TEXT NOT NULL,
    body TEXT NOT NULL CHECK (json_valid(body)),
    version INTEGER NOT NULL DEFAULT 1,
    changed_at TEXT NOT NULL,
    UNIQUE (case_id, rail_key)
) STRICT;
CREATE INDEX document_of_unit_type ON document (unit_type_id);

-- A connection that can be seen, measured before a drawing is trusted: as drawn (1 joined, 0 not), and in ohms.
CREATE TABLE drawing_check (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL UNIQUE REFERENCES log (id),
    document_id INTEGER NOT NULL REFERENCES document (id),
    one_end TEXT NOT NULL CHECK (one_end <> ''),
    other_end TEXT NOT NULL CHECK (other_end <> ''),
    is_drawn_joined INTEGER NOT NULL CHECK (is_drawn_joined IN (0, 1)),
    ohm REAL NOT NULL
) STRICT;
CREATE INDEX drawing_check_of_document ON drawing_check (document_id, id);
CREATE INDEX drawing_check_of_case ON drawing_check (case_id, id);
CREATE TRIGGER drawing_check_no_update BEFORE UPDATE ON drawing_check
BEGIN SELECT RAISE (ABORT, 'drawing_check is append-only'); END;
CREATE TRIGGER drawing_check_no_delete BEFORE DELETE ON drawing_check
BEGIN SELECT RAISE (ABORT, 'drawing_check is append-only'); END;

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

-- The newest list of each vendor. prices: [[from how many, price], ...] as JSON, prices as texts. Capacitors have a
-- family and farads, other kinds of part their ratings as JSON. kit: the number of the kit that a part comes in.
CREATE TABLE offer (
    id INTEGER PRIMARY KEY,
    vendor_id INTEGER NOT NULL REFERENCES vendor (id),
    sku TEXT NOT NULL CHECK (sku <> ''),
    kind TEXT NOT NULL DEFAULT 'capacitor',
    ratings TEXT CHECK (ratings IS NULL OR json_valid(ratings)),
    family TEXT,
    farad REAL CHECK (farad > 0),
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
    kit TEXT NOT NULL DEFAULT '',
    per_kit INTEGER NOT NULL DEFAULT 0 CHECK (per_kit >= 0),
    UNIQUE (vendor_id, sku, kit),
    CHECK ((kind = 'capacitor') = (ratings IS NULL)),
    CHECK ((kind = 'capacitor') = (family IS NOT NULL AND farad IS NOT NULL))
) STRICT;

-- What lies in the workshop's drawers, rated as offers are.
CREATE TABLE drawer (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    sku TEXT NOT NULL CHECK (sku <> ''),
    kind TEXT NOT NULL DEFAULT 'capacitor',
    ratings TEXT CHECK (ratings IS NULL OR json_valid(ratings)),
    family TEXT,
    farad REAL CHECK (farad > 0),
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
    lot TEXT NOT NULL DEFAULT '',
    CHECK ((kind = 'capacitor') = (ratings IS NULL)),
    CHECK ((kind = 'capacitor') = (family IS NOT NULL AND farad IS NOT NULL))
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

-- What is said of a wave record: how its file is read, and under what load it was taken; an `aside` in it puts the
-- record aside. The newest stands. body: the fields as JSON.
CREATE TABLE wave_setting (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL UNIQUE REFERENCES log (id),
    record_id INTEGER NOT NULL REFERENCES wave_record (id),
    body TEXT NOT NULL CHECK (json_valid(body))
) STRICT;
CREATE INDEX wave_setting_of_case ON wave_setting (case_id, id);
CREATE INDEX wave_setting_of_record ON wave_setting (record_id);
CREATE TRIGGER wave_setting_no_update BEFORE UPDATE ON wave_setting
BEGIN SELECT RAISE (ABORT, 'wave_setting is append-only'); END;
CREATE TRIGGER wave_setting_no_delete BEFORE DELETE ON wave_setting
BEGIN SELECT RAISE (ABORT, 'wave_setting is append-only'); END;

-- A step of first power: begun, done, stopped by what was seen (note), or begun anew after a stop. What is read between
-- the first and the last is the step's.
CREATE TABLE power_step (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL UNIQUE REFERENCES log (id),
    step TEXT NOT NULL CHECK (step <> ''),
    what TEXT NOT NULL CHECK (what IN ('begun', 'done', 'stopped', 'cleared')),
    note TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX power_step_of_case ON power_step (case_id, id);
CREATE TRIGGER power_step_no_update BEFORE UPDATE ON power_step
BEGIN SELECT RAISE (ABORT, 'power_step is append-only'); END;
CREATE TRIGGER power_step_no_delete BEFORE DELETE ON power_step
BEGIN SELECT RAISE (ABORT, 'power_step is append-only'); END;

-- What is chosen for first power: limiter, load, lamps. The newest stands. body: the fields as JSON.
CREATE TABLE power_choice (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL UNIQUE REFERENCES log (id),
    body TEXT NOT NULL CHECK (json_valid(body))
) STRICT;
CREATE INDEX power_choice_of_case ON power_choice (case_id, id);
CREATE TRIGGER power_choice_no_update BEFORE UPDATE ON power_choice
BEGIN SELECT RAISE (ABORT, 'power_choice is append-only'); END;
CREATE TRIGGER power_choice_no_delete BEFORE DELETE ON power_choice
BEGIN SELECT RAISE (ABORT, 'power_choice is append-only'); END;

-- What the power-good line did: seconds until it went high (NULL: it stayed low). The newest stands.
CREATE TABLE power_good (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL UNIQUE REFERENCES log (id),
    after_s REAL CHECK (after_s >= 0),
    -- the line's volts, where they were read instead of its delay: after_s is NULL then
    volt REAL
) STRICT;
CREATE INDEX power_good_of_case ON power_good (case_id, id);
CREATE TRIGGER power_good_no_update BEFORE UPDATE ON power_good
BEGIN SELECT RAISE (ABORT, 'power_good is append-only'); END;
CREATE TRIGGER power_good_no_delete BEFORE DELETE ON power_good
BEGIN SELECT RAISE (ABORT, 'power_good is append-only'); END;

-- What is said of the end of the work, by kind and key: the harness and the colours found in it, lists of connections
-- and what came of them, the board's bring-up, linear regulators, how long a soak is to run. The newest of a kind and
-- key stands; a body that is null takes it back.
CREATE TABLE machine_note (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL UNIQUE REFERENCES log (id),
    kind TEXT NOT NULL CHECK (kind IN ('harness', 'colour', 'list', 'mark', 'chip', 'layout', 'sign', 'memory', 'swap',
                                       'event', 'regulator', 'soak')),
    key TEXT NOT NULL DEFAULT '',
    body TEXT NOT NULL CHECK (json_valid(body))
) STRICT;
CREATE INDEX machine_note_of_case ON machine_note (case_id, id);
CREATE INDEX machine_note_of_kind ON machine_note (kind, id);
CREATE TRIGGER machine_note_no_update BEFORE UPDATE ON machine_note
BEGIN SELECT RAISE (ABORT, 'machine_note is append-only'); END;
CREATE TRIGGER machine_note_no_delete BEFORE DELETE ON machine_note
BEGIN SELECT RAISE (ABORT, 'machine_note is append-only'); END;

-- The rows of a soak, of a rail each. at_s: seconds since 1970; a file's rows share one entry of the log.
CREATE TABLE soak_row (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL REFERENCES log (id),
    rail_id INTEGER NOT NULL REFERENCES rail (id),
    at_s REAL NOT NULL,
    volt REAL NOT NULL,
    ripple_mv REAL CHECK (ripple_mv >= 0),
    celsius REAL,
    source TEXT NOT NULL CHECK (source IN ('typed', 'captured', 'imported', 'simulated'))
) STRICT;
CREATE INDEX soak_row_of_case ON soak_row (case_id, id);
CREATE INDEX soak_row_of_rail ON soak_row (rail_id);
CREATE TRIGGER soak_row_no_update BEFORE UPDATE ON soak_row
BEGIN SELECT RAISE (ABORT, 'soak_row is append-only'); END;
CREATE TRIGGER soak_row_no_delete BEFORE DELETE ON soak_row
BEGIN SELECT RAISE (ABORT, 'soak_row is append-only'); END;

CREATE TABLE soak_strike (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL UNIQUE REFERENCES log (id),
    row_id INTEGER NOT NULL UNIQUE REFERENCES soak_row (id),
    reason TEXT NOT NULL
) STRICT;
CREATE INDEX soak_strike_of_case ON soak_strike (case_id, id);
CREATE TRIGGER soak_strike_no_update BEFORE UPDATE ON soak_strike
BEGIN SELECT RAISE (ABORT, 'soak_strike is append-only'); END;
CREATE TRIGGER soak_strike_no_delete BEFORE DELETE ON soak_strike
BEGIN SELECT RAISE (ABORT, 'soak_strike is append-only'); END;

-- What a case tells the ledger; derived, made anew by whoever looks when revision is behind the case's.
CREATE TABLE ledger_line (
    case_id INTEGER PRIMARY KEY REFERENCES bench_case (id),
    revision INTEGER NOT NULL,
    body TEXT NOT NULL CHECK (json_valid(body))
) STRICT;

-- What the ledger gives to the chances, as it was last reckoned; derived, one row.
CREATE TABLE ledger_priors (
    id INTEGER PRIMARY KEY CHECK (id = 1),
    body TEXT NOT NULL CHECK (json_valid(body))
) STRICT;

-- A case of practice: a simulated unit whose fault is known here and shown at the end. Nothing of it reaches the
-- ledger.
CREATE TABLE practice (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL UNIQUE REFERENCES bench_case (id),
    log_id INTEGER NOT NULL UNIQUE REFERENCES log (id),
    graded INTEGER CHECK (graded > 0),
    topology TEXT NOT NULL,
    difficulty TEXT NOT NULL DEFAULT '' CHECK (difficulty IN ('', 'plain', 'usual', 'hard')),
    seed INTEGER NOT NULL CHECK (seed >= 0)
) STRICT;
CREATE TRIGGER practice_no_update BEFORE UPDATE ON practice
BEGIN SELECT RAISE (ABORT, 'practice is append-only'); END;
CREATE TRIGGER practice_no_delete BEFORE DELETE ON practice
BEGIN SELECT RAISE (ABORT, 'practice is append-only'); END;

-- What a hand does that no other table has: stores bled down, and the end, with the review as it was made.
CREATE TABLE practice_act (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL UNIQUE REFERENCES log (id),
    kind TEXT NOT NULL CHECK (kind IN ('bled', 'ended')),
    body TEXT NOT NULL CHECK (json_valid(body))
) STRICT;
CREATE INDEX practice_act_of_case ON practice_act (case_id, id);
CREATE TRIGGER practice_act_no_update BEFORE UPDATE ON practice_act
BEGIN SELECT RAISE (ABORT, 'practice_act is append-only'); END;
CREATE TRIGGER practice_act_no_delete BEFORE DELETE ON practice_act
BEGIN SELECT RAISE (ABORT, 'practice_act is append-only'); END;

-- The workshop's instruments by address, each of a family and assigned to procedures (codes, a JSON list).
CREATE TABLE instrument (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE,
    address TEXT NOT NULL,
    family TEXT NOT NULL,
    procedures TEXT NOT NULL CHECK (json_valid(procedures))
) STRICT;

-- Families of instruments that the workshop added, as TOML.
CREATE TABLE instrument_family (
    code TEXT PRIMARY KEY,
    body TEXT NOT NULL
) STRICT;

-- Benches that signed in over the network, by the hash of what their cookie holds; one that ended stays ended.
CREATE TABLE sign_in (
    token_sha256 TEXT PRIMARY KEY CHECK (length(token_sha256) = 64),
    bench TEXT NOT NULL CHECK (length(bench) <= 40),
    at_s REAL NOT NULL,
    seen_s REAL NOT NULL,
    ended_s REAL
) STRICT;

-- A case's texts and notes by its id, in pieces of three characters, so that any part of a word is found.
CREATE VIRTUAL TABLE search_text USING fts5 (body, tokenize = 'trigram');

-- Designators, rails and what the eye found, as they are asked for.
CREATE TABLE search_tag (
    tag TEXT NOT NULL,
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    PRIMARY KEY (tag, case_id)
) STRICT, WITHOUT ROWID;
CREATE INDEX search_tag_of_case ON search_tag (case_id);
CREATE INDEX log_note ON log (case_id) WHERE kind = 'note';
CREATE INDEX case_on_bench ON bench_case (touched_at DESC, id DESC) WHERE closed_at IS NULL AND put_away_at IS NULL;

-- What a case wants bought; derived, made anew by whoever orders when the case, or what it is judged by, has changed.
CREATE TABLE case_demand (
    case_id INTEGER PRIMARY KEY REFERENCES bench_case (id),
    revision INTEGER NOT NULL,
    judged_by TEXT NOT NULL,
    body TEXT NOT NULL CHECK (json_valid(body))
) STRICT;

-- Cases whose texts, parts, rails or findings changed since they were taken in for the search: told by the change
-- itself, so that nobody looks all through, and a reading, which changes none of them, costs nothing.
CREATE TABLE search_due (
    case_id INTEGER PRIMARY KEY REFERENCES bench_case (id)
) STRICT;
CREATE TRIGGER search_due_new AFTER INSERT ON bench_case
BEGIN
    INSERT OR IGNORE INTO search_due VALUES (new.id);
END;
CREATE TRIGGER search_due_said AFTER UPDATE OF number, machine, symptom, before, sheet_id ON bench_case
BEGIN
    INSERT OR IGNORE INTO search_due VALUES (new.id);
END;
CREATE TRIGGER search_due_note AFTER INSERT ON log WHEN new.kind = 'note'
BEGIN
    INSERT OR IGNORE INTO search_due VALUES (new.case_id);
END;
CREATE TRIGGER search_due_seen AFTER INSERT ON look
BEGIN
    INSERT OR IGNORE INTO search_due VALUES (new.case_id);
END;
CREATE TRIGGER search_due_sheet AFTER INSERT ON sheet_version
BEGIN
    INSERT OR IGNORE INTO search_due SELECT id FROM bench_case WHERE sheet_id = new.sheet_id;
END;

-- The bench page's line for a case; derived, made anew by whoever looks when revision is behind the case's.
CREATE TABLE bench_line (
    case_id INTEGER PRIMARY KEY REFERENCES bench_case (id),
    revision INTEGER NOT NULL,
    stage TEXT NOT NULL,
    energy TEXT NOT NULL CHECK (energy IN ('unknown', 'live', 'waiting', 'charged', 'dead')),
    next_text TEXT NOT NULL,
    next_stage TEXT NOT NULL,
    next_point TEXT NOT NULL DEFAULT ''
) STRICT;

-- A new part that read bad before it was fitted, with whom it came from.
CREATE TABLE bad_part (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL UNIQUE REFERENCES log (id),
    part_id INTEGER NOT NULL REFERENCES part (id),
    sku TEXT NOT NULL,
    source TEXT NOT NULL,
    why TEXT NOT NULL
) STRICT;
CREATE INDEX bad_part_of_case ON bad_part (case_id, id);
CREATE INDEX bad_part_of_part ON bad_part (part_id);
CREATE TRIGGER bad_part_no_update BEFORE UPDATE ON bad_part
BEGIN SELECT RAISE (ABORT, 'bad_part is append-only'); END;
CREATE TRIGGER bad_part_no_delete BEFORE DELETE ON bad_part
BEGIN SELECT RAISE (ABORT, 'bad_part is append-only'); END;

-- Loads of the workshop that are none of resistors: drives, lamps, electronic loads.
CREATE TABLE ready_load (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL CHECK (name <> ''),
    kind TEXT NOT NULL CHECK (kind IN ('drive', 'lamp', 'electronic')),
    volt REAL NOT NULL CHECK (volt > 0),
    ampere REAL NOT NULL CHECK (ampere > 0),
    qty INTEGER NOT NULL CHECK (qty >= 0)
) STRICT;
