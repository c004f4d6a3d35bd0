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
