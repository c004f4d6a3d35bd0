-- What is said of a wave record: how its file is read, and under what load it was taken; an `aside` in it puts the record
-- aside. The newest stands. body: the fields as JSON.
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
    after_s REAL CHECK (after_s >= 0)
) STRICT;
CREATE INDEX power_good_of_case ON power_good (case_id, id);
CREATE TRIGGER power_good_no_update BEFORE UPDATE ON power_good
BEGIN SELECT RAISE (ABORT, 'power_good is append-only'); END;
CREATE TRIGGER power_good_no_delete BEFORE DELETE ON power_good
BEGIN SELECT RAISE (ABORT, 'power_good is append-only'); END;

-- The designator of a rail's trimmer, and the rail that must not be there while this one is missing ('' where none).
ALTER TABLE rail_marking ADD COLUMN trimmer TEXT NOT NULL DEFAULT '';
ALTER TABLE rail_marking ADD COLUMN guards TEXT NOT NULL DEFAULT '';

-- How many of a resistor are at hand: dummy loads use each once.
ALTER TABLE resistor ADD COLUMN qty INTEGER NOT NULL DEFAULT 1 CHECK (qty >= 0);
