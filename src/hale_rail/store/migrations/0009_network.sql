-- Which bench made an entry: the name of a person or a place, '' where none was given.
ALTER TABLE log ADD COLUMN bench TEXT NOT NULL DEFAULT '' CHECK (length(bench) <= 40);

-- Benches that signed in over the network, by the hash of what their cookie holds; one that ended stays ended.
CREATE TABLE sign_in (
    token_sha256 TEXT PRIMARY KEY CHECK (length(token_sha256) = 64),
    bench TEXT NOT NULL CHECK (length(bench) <= 40),
    at_s REAL NOT NULL,
    seen_s REAL NOT NULL,
    ended_s REAL
) STRICT;
