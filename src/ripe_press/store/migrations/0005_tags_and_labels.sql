-- The tag sheet of a mix stands on its bench; it begins with what the file carried, and with a title in any case.
UPDATE mixes
SET bench = json_set(
    bench, '$.tags',
    CASE
        WHEN EXISTS (
            SELECT 1 FROM json_each(mixes.embedded, '$.tags') AS pair WHERE json_extract(pair.value, '$[0]') = 'title'
        )
        THEN json(json_extract(embedded, '$.tags'))
        ELSE json_insert(json(coalesce(json_extract(embedded, '$.tags'), '[]')), '$[#]', json_array('title', title))
    END
)
WHERE json_extract(bench, '$.tags') IS NULL;

CREATE TABLE label_patterns (
    name TEXT PRIMARY KEY,
    pattern TEXT NOT NULL,
    style TEXT NOT NULL,
    added_at TEXT NOT NULL
) STRICT;
