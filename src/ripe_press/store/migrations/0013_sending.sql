-- Drop-offs, and what is sent to them. A parcel keeps the drop-off as it was when it was handed over.
CREATE TABLE drop_offs (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE COLLATE NOCASE,
    settings TEXT NOT NULL,
    said TEXT NOT NULL DEFAULT '{}',
    made_at TEXT NOT NULL
) STRICT;

CREATE TABLE parcels (
    id INTEGER PRIMARY KEY,
    drop_off TEXT NOT NULL,
    place TEXT NOT NULL,
    mix_id INTEGER REFERENCES mixes (id) ON DELETE SET NULL,
    pressing_id INTEGER REFERENCES pressings (id) ON DELETE SET NULL,
    file_number INTEGER,
    line TEXT NOT NULL DEFAULT '',
    parcel TEXT NOT NULL,
    sha256 TEXT NOT NULL,
    name TEXT NOT NULL,
    verdict TEXT NOT NULL CHECK (verdict IN ('ready', 'look', 'stop')),
    state TEXT NOT NULL CHECK (state IN (
        'asks', 'held', 'waiting', 'sending', 'taken', 'accepted', 'refused', 'recalled', 'failed'
    )),
    sentence TEXT NOT NULL DEFAULT '',
    reasons TEXT NOT NULL DEFAULT '[]',
    receipt TEXT NOT NULL DEFAULT '{}',
    kept TEXT NOT NULL DEFAULT '{}',
    attempts INTEGER NOT NULL DEFAULT 0,
    next_at REAL,
    accepted_by TEXT NOT NULL DEFAULT '',
    because TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL,
    ended_at TEXT
) STRICT;

-- What was taken is never sent again: one file by its bytes and its name goes to one place once.
CREATE UNIQUE INDEX parcels_once ON parcels (place, sha256, name) WHERE state NOT IN ('refused', 'recalled', 'failed');
CREATE INDEX parcels_of_pressings ON parcels (pressing_id, file_number);
CREATE INDEX parcels_of_lines ON parcels (mix_id, line, place);
CREATE INDEX parcels_open ON parcels (id) WHERE state IN ('asks', 'held', 'waiting', 'sending');
CREATE INDEX parcels_states ON parcels (place, state);
CREATE INDEX parcels_due ON parcels (next_at) WHERE next_at IS NOT NULL;

-- Whether what a pressing made was handed to its drop-offs; what was pressed before there were any, is not.
ALTER TABLE pressings ADD COLUMN handed_over INTEGER NOT NULL DEFAULT 0;
UPDATE pressings SET handed_over = 1 WHERE state IN ('done', 'failed', 'cancelled');
