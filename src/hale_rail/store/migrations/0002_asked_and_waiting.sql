-- What was asked outside any case, as it was typed; the answer is computed anew each time.
CREATE TABLE asked (
    id INTEGER PRIMARY KEY,
    at TEXT NOT NULL,
    text TEXT NOT NULL UNIQUE CHECK (length(text) BETWEEN 1 AND 200)
) STRICT;

-- A case that waits for parts, until a day; an empty day ends it.
CREATE TABLE case_wait (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL UNIQUE REFERENCES log (id),
    until TEXT NOT NULL CHECK (until = '' OR until GLOB '[0-9][0-9][0-9][0-9]-[0-9][0-9]-[0-9][0-9]'),
    what TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX case_wait_of_case ON case_wait (case_id, id);
CREATE TRIGGER case_wait_no_update BEFORE UPDATE ON case_wait
BEGIN SELECT RAISE (ABORT, 'case_wait is append-only'); END;
CREATE TRIGGER case_wait_no_delete BEFORE DELETE ON case_wait
BEGIN SELECT RAISE (ABORT, 'case_wait is append-only'); END;

-- The bench's line says how pressing its next step is, and what state the case stands in.
DROP TABLE bench_line;
CREATE TABLE bench_line (
    case_id INTEGER PRIMARY KEY REFERENCES bench_case (id),
    revision INTEGER NOT NULL,
    stage TEXT NOT NULL,
    energy TEXT NOT NULL CHECK (energy IN ('unknown', 'live', 'waiting', 'charged', 'dead')),
    next_text TEXT NOT NULL,
    next_stage TEXT NOT NULL,
    next_point TEXT NOT NULL DEFAULT '',
    urgency INTEGER NOT NULL DEFAULT 0,
    state TEXT NOT NULL DEFAULT '',
    state_text TEXT NOT NULL DEFAULT '',
    until TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX bench_line_pressing ON bench_line (urgency DESC) WHERE state <> '' OR urgency >= 4;
