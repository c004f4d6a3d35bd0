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
