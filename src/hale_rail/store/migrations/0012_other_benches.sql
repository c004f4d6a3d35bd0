-- What sheets of other benches say: alternating rails, a fuse's speed, what a unit was opened for,
-- and whether the machine is its own load.
ALTER TABLE rail_marking ADD COLUMN current TEXT NOT NULL DEFAULT 'dc' CHECK (current IN ('dc', 'ac'));
ALTER TABLE part_marking ADD COLUMN fuse_speed TEXT NOT NULL DEFAULT '';
ALTER TABLE sheet ADD COLUMN purpose TEXT NOT NULL DEFAULT '' CHECK (purpose IN ('', 'repair', 'preventive'));
ALTER TABLE sheet ADD COLUMN is_self_loaded INTEGER NOT NULL DEFAULT 0 CHECK (is_self_loaded IN (0, 1));

-- The power-good line's volts, where they were read (after_s NULL then: its delay was not).
ALTER TABLE power_good ADD COLUMN volt REAL;

-- A store read above the limit is a state of its own. The lines are derived, and made anew.
DROP TABLE bench_line;
CREATE TABLE bench_line (
    case_id INTEGER PRIMARY KEY REFERENCES bench_case (id),
    revision INTEGER NOT NULL,
    stage TEXT NOT NULL,
    energy TEXT NOT NULL CHECK (energy IN ('unknown', 'live', 'waiting', 'charged', 'dead')),
    next_text TEXT NOT NULL,
    next_stage TEXT NOT NULL,
    next_point TEXT NOT NULL DEFAULT ''
) STRICT;
