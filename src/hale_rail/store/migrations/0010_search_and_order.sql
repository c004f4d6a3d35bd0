-- What a search looks through; derived, made anew by whoever searches when revision is behind the case's.
CREATE TABLE search_state (
    case_id INTEGER PRIMARY KEY REFERENCES bench_case (id),
    revision INTEGER NOT NULL
) STRICT;

-- A case's texts and notes by its id, in pieces of three characters, so that any part of a word is found.
CREATE VIRTUAL TABLE search_text USING fts5 (body, tokenize = 'trigram');

-- Designators, rails and what the eye found, as they are asked for.
CREATE TABLE search_tag (
    tag TEXT NOT NULL,
    case_id INTEGER NOT NULL REFERENCES bench_case (id),
    PRIMARY KEY (tag, case_id)
) STRICT, WITHOUT ROWID;
CREATE INDEX search_tag_of_case ON search_tag (case_id);

CREATE INDEX log_note ON log (case_id) WHERE kind = 'note';
CREATE INDEX case_on_bench ON bench_case (touched_at DESC, id DESC) WHERE closed_at IS NULL AND put_away_at IS NULL;

-- What a case wants bought; derived, made anew by whoever orders when the case, or what it is judged by, has changed.
CREATE TABLE case_demand (
    case_id INTEGER PRIMARY KEY REFERENCES bench_case (id),
    revision INTEGER NOT NULL,
    judged_by TEXT NOT NULL,
    body TEXT NOT NULL CHECK (json_valid(body))
) STRICT;
