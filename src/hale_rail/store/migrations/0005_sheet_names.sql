-- Sheets of one name are of like units: what a handed-back one read is the next one's expectation.
CREATE INDEX sheet_by_name ON sheet (name);
