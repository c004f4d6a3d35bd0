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
