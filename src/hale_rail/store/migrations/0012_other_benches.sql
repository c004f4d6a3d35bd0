-- What sheets of other benches say: alternating rails, a fuse's speed, what a unit was opened for,
-- and whether the machine is its own load.
ALTER TABLE rail_marking ADD COLUMN current TEXT NOT NULL DEFAULT 'dc' CHECK (current IN ('dc', 'ac'));
ALTER TABLE part_marking ADD COLUMN fuse_speed TEXT NOT NULL DEFAULT '';
ALTER TABLE sheet ADD COLUMN purpose TEXT NOT NULL DEFAULT '' CHECK (purpose IN ('', 'repair', 'preventive'));
ALTER TABLE sheet ADD COLUMN is_self_loaded INTEGER NOT NULL DEFAULT 0 CHECK (is_self_loaded IN (0, 1));
