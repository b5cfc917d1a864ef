CREATE TABLE orders (
    id INTEGER PRIMARY KEY,
    title TEXT NOT NULL,
    body TEXT NOT NULL,
    added_at TEXT NOT NULL,
    changed_at TEXT NOT NULL
) STRICT;
ALTER TABLE pressings ADD COLUMN disc TEXT;
