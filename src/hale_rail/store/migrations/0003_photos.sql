-- Photos of a case: re-encoded, without location data, kept in photos/ under the hash of their bytes.
CREATE TABLE photo (
    id INTEGER PRIMARY KEY,
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    station_id INTEGER REFERENCES station (id),
    sha256 TEXT NOT NULL CHECK (length(sha256) = 64),
    width INTEGER NOT NULL,
    height INTEGER NOT NULL,
    caption TEXT NOT NULL DEFAULT '',
    added_at TEXT NOT NULL
) STRICT;
CREATE INDEX photo_of_case ON photo (case_id);

CREATE TRIGGER photo_no_update BEFORE UPDATE ON photo
BEGIN SELECT RAISE (ABORT, 'photos are append-only'); END;
CREATE TRIGGER photo_no_delete BEFORE DELETE ON photo
BEGIN SELECT RAISE (ABORT, 'photos are append-only'); END;
