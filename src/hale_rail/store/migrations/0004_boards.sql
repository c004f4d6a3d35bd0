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

-- A drawing may be of the type of unit: then every unit of the type has it.
ALTER TABLE document ADD COLUMN unit_type_id INTEGER REFERENCES unit_type (id);
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
