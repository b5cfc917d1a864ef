CREATE TABLE briefs (
    id TEXT PRIMARY KEY,
    body TEXT NOT NULL,
    added_at TEXT NOT NULL
) STRICT;
