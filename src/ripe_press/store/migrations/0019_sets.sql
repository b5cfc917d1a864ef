-- Deliveries that are saved to be used again, by name.
CREATE TABLE delivery_sets (
    name TEXT PRIMARY KEY COLLATE NOCASE,
    body TEXT NOT NULL,
    added_at TEXT NOT NULL
) STRICT;
