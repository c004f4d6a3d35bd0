-- Cases whose texts, parts, rails or findings changed since they were taken in for the search: told by the change
-- itself, so that nobody looks all through, and a reading, which changes none of them, costs nothing.
CREATE TABLE search_due (
    case_id INTEGER PRIMARY KEY REFERENCES bench_case (id)
) STRICT;
INSERT INTO search_due
SELECT c.id FROM bench_case AS c LEFT JOIN search_state AS s ON s.case_id = c.id WHERE s.revision IS NOT c.revision;
DROP TABLE search_state;

CREATE TRIGGER search_due_new AFTER INSERT ON bench_case
BEGIN
    INSERT OR IGNORE INTO search_due VALUES (new.id);
END;

CREATE TRIGGER search_due_said AFTER UPDATE OF number, machine, symptom, before, sheet_id ON bench_case
BEGIN
    INSERT OR IGNORE INTO search_due VALUES (new.id);
END;

CREATE TRIGGER search_due_note AFTER INSERT ON log WHEN new.kind = 'note'
BEGIN
    INSERT OR IGNORE INTO search_due VALUES (new.case_id);
END;

CREATE TRIGGER search_due_seen AFTER INSERT ON look
BEGIN
    INSERT OR IGNORE INTO search_due VALUES (new.case_id);
END;

CREATE TRIGGER search_due_sheet AFTER INSERT ON sheet_version
BEGIN
    INSERT OR IGNORE INTO search_due SELECT id FROM bench_case WHERE sheet_id = new.sheet_id;
END;
