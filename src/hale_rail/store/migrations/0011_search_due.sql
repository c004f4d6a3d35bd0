-- Cases that changed since they were taken in for the search: told by the change itself, so that nobody looks all through.
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
CREATE TRIGGER search_due_changed AFTER UPDATE OF revision ON bench_case
BEGIN
    INSERT OR IGNORE INTO search_due VALUES (new.id);
END;
