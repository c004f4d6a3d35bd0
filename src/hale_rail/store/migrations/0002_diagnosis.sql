-- What the person says in the diagnosis: symptoms, results of tests, beliefs. The newest of a kind and
-- key stands; an empty value takes it back.
CREATE TABLE finding (
    id INTEGER PRIMARY KEY,
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    kind TEXT NOT NULL CHECK (kind IN ('symptom', 'result', 'belief')),
    key TEXT NOT NULL,
    value TEXT NOT NULL,
    found_at TEXT NOT NULL
) STRICT;
CREATE INDEX finding_of_case ON finding (case_id);

CREATE TRIGGER finding_no_update BEFORE UPDATE ON finding
BEGIN SELECT RAISE (ABORT, 'findings are append-only'); END;
CREATE TRIGGER finding_no_delete BEFORE DELETE ON finding
BEGIN SELECT RAISE (ABORT, 'findings are append-only'); END;
