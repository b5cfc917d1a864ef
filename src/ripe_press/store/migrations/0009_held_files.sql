CREATE TABLE held_files (
    pressing_id INTEGER NOT NULL REFERENCES pressings (id) ON DELETE CASCADE,
    number INTEGER NOT NULL,
    stamp TEXT NOT NULL,
    held_at TEXT NOT NULL,
    report TEXT NOT NULL,
    PRIMARY KEY (pressing_id, number)
) STRICT;
