CREATE TABLE passes (
    id INTEGER PRIMARY KEY,
    mix_id INTEGER NOT NULL REFERENCES mixes (id) ON DELETE CASCADE,
    stem_id INTEGER NOT NULL,
    name TEXT NOT NULL,
    state TEXT NOT NULL,
    sentence TEXT NOT NULL,
    report TEXT NOT NULL,
    made_at TEXT NOT NULL,
    ended_at TEXT
) STRICT;
CREATE INDEX passes_of_mix ON passes (mix_id);
