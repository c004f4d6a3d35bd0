-- Which capacitors are stores follows from their value and rating, so no column says it any more.
DROP VIEW current_part;
ALTER TABLE part_marking DROP COLUMN is_store;
CREATE VIEW current_part AS
SELECT p.sheet_id, p.uuid, p.kind, m.*
FROM part AS p JOIN part_marking AS m ON m.part_id = p.id
WHERE m.version = (SELECT max(version) FROM part_marking WHERE part_id = p.id) AND NOT m.is_removed;

-- A rail can change its place on the sheet: the place is marked a version, the rail's own is where it began.
ALTER TABLE rail_marking ADD COLUMN marked_place INTEGER;
