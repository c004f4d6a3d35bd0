-- Loads of the workshop that are none of resistors: drives, lamps, electronic loads.
CREATE TABLE ready_load (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL CHECK (name <> ''),
    kind TEXT NOT NULL CHECK (kind IN ('drive', 'lamp', 'electronic')),
    volt REAL NOT NULL CHECK (volt > 0),
    ampere REAL NOT NULL CHECK (ampere > 0),
    qty INTEGER NOT NULL CHECK (qty >= 0)
) STRICT;
