CREATE TABLE mixes (
    id INTEGER PRIMARY KEY,
    title TEXT NOT NULL,
    path TEXT NOT NULL,
    owned INTEGER NOT NULL CHECK (owned IN (0, 1)),
    sha256 TEXT NOT NULL UNIQUE,
    container TEXT NOT NULL,
    codec TEXT NOT NULL,
    rate_hz INTEGER NOT NULL,
    channels INTEGER NOT NULL,
    frames INTEGER NOT NULL,
    bit_depth INTEGER,
    measures TEXT NOT NULL,
    start_frame INTEGER NOT NULL,
    end_frame INTEGER NOT NULL,
    added_at TEXT NOT NULL
) STRICT;

CREATE TABLE pressings (
    id INTEGER PRIMARY KEY,
    mix_id INTEGER REFERENCES mixes (id) ON DELETE SET NULL,
    mix_title TEXT NOT NULL,
    mix_path TEXT NOT NULL,
    ticket TEXT NOT NULL,
    state TEXT NOT NULL CHECK (state IN ('waiting', 'running', 'done', 'failed', 'cancelled')),
    error TEXT,
    made_at TEXT NOT NULL,
    seconds REAL,
    times_realtime REAL
) STRICT;

CREATE INDEX pressings_by_mix ON pressings (mix_id, id);

CREATE TABLE pressed_files (
    pressing_id INTEGER NOT NULL REFERENCES pressings (id) ON DELETE CASCADE,
    number INTEGER NOT NULL,
    report TEXT NOT NULL,
    PRIMARY KEY (pressing_id, number)
) STRICT;
