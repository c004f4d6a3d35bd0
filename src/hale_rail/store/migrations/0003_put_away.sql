-- A case that waits, for parts or for time, is put away from the bench without being handed back.
ALTER TABLE bench_case ADD COLUMN put_away_at TEXT;
