-- Lists and drawers hold more than capacitors: ratings as JSON in place of family and farads, and
-- parts that come in a kit.
ALTER TABLE offer RENAME TO offer_before;
CREATE TABLE offer (
    id INTEGER PRIMARY KEY,
    vendor_id INTEGER NOT NULL REFERENCES vendor (id),
    sku TEXT NOT NULL CHECK (sku <> ''),
    kind TEXT NOT NULL DEFAULT 'capacitor',
    ratings TEXT CHECK (ratings IS NULL OR json_valid(ratings)),
    family TEXT,
    farad REAL CHECK (farad > 0),
    volt REAL,
    safety_class TEXT NOT NULL DEFAULT '',
    temp_c REAL,
    mount TEXT,
    pitch_mm REAL,
    diameter_mm REAL,
    height_mm REAL,
    esr_ohm REAL,
    ripple_a REAL,
    life_h REAL,
    prices TEXT NOT NULL CHECK (json_valid(prices)),
    moq INTEGER NOT NULL CHECK (moq > 0),
    pack INTEGER NOT NULL CHECK (pack > 0),
    available INTEGER CHECK (available >= 0),
    kit TEXT NOT NULL DEFAULT '',
    per_kit INTEGER NOT NULL DEFAULT 0 CHECK (per_kit >= 0),
    UNIQUE (vendor_id, sku, kit),
    CHECK ((kind = 'capacitor') = (ratings IS NULL)),
    CHECK ((kind = 'capacitor') = (family IS NOT NULL AND farad IS NOT NULL))
) STRICT;
INSERT INTO offer (id, vendor_id, sku, family, farad, volt, safety_class, temp_c, mount, pitch_mm,
                   diameter_mm, height_mm, esr_ohm, ripple_a, life_h, prices, moq, pack, available)
SELECT id, vendor_id, sku, family, farad, volt, safety_class, temp_c, mount, pitch_mm,
       diameter_mm, height_mm, esr_ohm, ripple_a, life_h, prices, moq, pack, available
FROM offer_before;
DROP TABLE offer_before;

ALTER TABLE drawer RENAME TO drawer_before;
CREATE TABLE drawer (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE CHECK (length(uuid) = 36),
    sku TEXT NOT NULL CHECK (sku <> ''),
    kind TEXT NOT NULL DEFAULT 'capacitor',
    ratings TEXT CHECK (ratings IS NULL OR json_valid(ratings)),
    family TEXT,
    farad REAL CHECK (farad > 0),
    volt REAL,
    safety_class TEXT NOT NULL DEFAULT '',
    temp_c REAL,
    mount TEXT,
    pitch_mm REAL,
    diameter_mm REAL,
    height_mm REAL,
    esr_ohm REAL,
    ripple_a REAL,
    life_h REAL,
    qty INTEGER NOT NULL CHECK (qty >= 0),
    origin TEXT NOT NULL CHECK (origin IN ('new', 'old-stock', 'salvaged')),
    is_tested INTEGER NOT NULL CHECK (is_tested IN (0, 1)),
    lot TEXT NOT NULL DEFAULT '',
    CHECK ((kind = 'capacitor') = (ratings IS NULL)),
    CHECK ((kind = 'capacitor') = (family IS NOT NULL AND farad IS NOT NULL))
) STRICT;
INSERT INTO drawer (id, uuid, sku, family, farad, volt, safety_class, temp_c, mount, pitch_mm,
                    diameter_mm, height_mm, esr_ohm, ripple_a, life_h, qty, origin, is_tested, lot)
SELECT id, uuid, sku, family, farad, volt, safety_class, temp_c, mount, pitch_mm,
       diameter_mm, height_mm, esr_ohm, ripple_a, life_h, qty, origin, is_tested, lot
FROM drawer_before;
DROP TABLE drawer_before;
