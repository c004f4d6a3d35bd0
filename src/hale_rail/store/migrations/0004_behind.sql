-- What is known of a chip beside its rails, as JSON: its package, a memory's bits, the level of its control pins, and
-- its pins that matter.
ALTER TABLE part_marking ADD COLUMN chip TEXT NOT NULL DEFAULT '' CHECK (chip = '' OR json_valid(chip));

-- What is said behind the supply beside readings: ROM dumps, symptoms of the machine, what was taken apart. The newest of a kind and key stands; a body that is null takes it back.
CREATE TABLE hunt_note (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL UNIQUE REFERENCES log (id),
    part_id INTEGER REFERENCES part (id),
    photo_id INTEGER REFERENCES photo (id),
    kind TEXT NOT NULL CHECK (kind IN ('rom', 'symptom', 'apart')),
    key TEXT NOT NULL DEFAULT '',
    body TEXT NOT NULL CHECK (json_valid(body))
) STRICT;
CREATE INDEX hunt_note_of_case ON hunt_note (case_id, id);
CREATE INDEX hunt_note_of_part ON hunt_note (part_id);
CREATE INDEX hunt_note_of_photo ON hunt_note (photo_id);
CREATE INDEX hunt_note_of_kind ON hunt_note (kind, id);
CREATE TRIGGER hunt_note_no_update BEFORE UPDATE ON hunt_note
BEGIN SELECT RAISE (ABORT, 'hunt_note is append-only'); END;
CREATE TRIGGER hunt_note_no_delete BEFORE DELETE ON hunt_note
BEGIN SELECT RAISE (ABORT, 'hunt_note is append-only'); END;
