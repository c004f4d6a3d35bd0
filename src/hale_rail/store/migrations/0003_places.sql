-- Boards and sides of a unit, and where its parts stand on them: what a person drew, so the newest state. A case's
-- own go before those of other units of its type.
CREATE TABLE unit_board (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    unit_type_id INTEGER REFERENCES unit_type (id),
    name TEXT NOT NULL COLLATE NOCASE CHECK (length(name) BETWEEN 1 AND 40),
    width_mm REAL NOT NULL CHECK (width_mm > 0),
    height_mm REAL NOT NULL CHECK (height_mm > 0),
    is_measured INTEGER NOT NULL CHECK (is_measured IN (0, 1)),
    changed_at TEXT NOT NULL,
    UNIQUE (case_id, name)
) STRICT;
CREATE INDEX unit_board_of_type ON unit_board (unit_type_id);

-- name: the part's as files have it (C40#2); an empty board takes the part off.
CREATE TABLE part_place (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    unit_type_id INTEGER REFERENCES unit_type (id),
    name TEXT NOT NULL COLLATE NOCASE CHECK (length(name) > 0),
    board TEXT NOT NULL COLLATE NOCASE,
    side TEXT NOT NULL CHECK (side IN ('top', 'bottom')),
    x_mm REAL NOT NULL,
    y_mm REAL NOT NULL,
    changed_at TEXT NOT NULL,
    UNIQUE (case_id, name)
) STRICT;
CREATE INDEX part_place_of_type ON part_place (unit_type_id);

-- A photo that shows a board: how it lies over it, by points [px, py, x_mm, y_mm], or its frame is the board's. The
-- newest of a photo stands; one without a board takes it back.
CREATE TABLE board_view (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL REFERENCES log (id),
    photo_id INTEGER NOT NULL REFERENCES photo (id),
    board TEXT NOT NULL,
    side TEXT NOT NULL CHECK (side IN ('top', 'bottom')),
    width_mm REAL NOT NULL,
    height_mm REAL NOT NULL,
    is_whole INTEGER NOT NULL CHECK (is_whole IN (0, 1)),
    fixes TEXT NOT NULL CHECK (json_valid(fixes))
) STRICT;
CREATE INDEX board_view_of_case ON board_view (case_id, id);
CREATE INDEX board_view_of_photo ON board_view (photo_id);
CREATE TRIGGER board_view_no_update BEFORE UPDATE ON board_view
BEGIN SELECT RAISE (ABORT, 'board_view is append-only'); END;
CREATE TRIGGER board_view_no_delete BEFORE DELETE ON board_view
BEGIN SELECT RAISE (ABORT, 'board_view is append-only'); END;

-- A mark drawn on a photo, in its pixels. The newest of a key stands; one without a shape takes it off.
CREATE TABLE photo_mark (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    log_id INTEGER NOT NULL UNIQUE REFERENCES log (id),
    photo_id INTEGER NOT NULL REFERENCES photo (id),
    key TEXT NOT NULL,
    shape TEXT NOT NULL CHECK (shape IN ('', 'ring', 'arrow', 'word')),
    x1 REAL NOT NULL,
    y1 REAL NOT NULL,
    x2 REAL NOT NULL,
    y2 REAL NOT NULL,
    words TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX photo_mark_of_case ON photo_mark (case_id, id);
CREATE INDEX photo_mark_of_photo ON photo_mark (photo_id);
CREATE TRIGGER photo_mark_no_update BEFORE UPDATE ON photo_mark
BEGIN SELECT RAISE (ABORT, 'photo_mark is append-only'); END;
CREATE TRIGGER photo_mark_no_delete BEFORE DELETE ON photo_mark
BEGIN SELECT RAISE (ABORT, 'photo_mark is append-only'); END;
