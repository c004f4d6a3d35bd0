-- What a board's own polarity mark means, asked once per board and proven on an original part. The
-- newest entry of a board stands.
CREATE TABLE board_mark (
    id INTEGER PRIMARY KEY,
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    board TEXT NOT NULL,
    mark TEXT NOT NULL,
    proven_on TEXT NOT NULL,
    said_at TEXT NOT NULL
) STRICT;
CREATE INDEX board_mark_of_case ON board_mark (case_id);

CREATE TRIGGER board_mark_no_update BEFORE UPDATE ON board_mark
BEGIN SELECT RAISE (ABORT, 'board marks are append-only'); END;
CREATE TRIGGER board_mark_no_delete BEFORE DELETE ON board_mark
BEGIN SELECT RAISE (ABORT, 'board marks are append-only'); END;
