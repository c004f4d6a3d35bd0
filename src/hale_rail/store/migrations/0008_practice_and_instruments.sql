-- A case of practice: a simulated unit whose fault is known here and shown at the end. Nothing of it reaches the ledger.
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
