-- A file of a pressing has a state of its own, from the moment its place is settled.
CREATE TABLE files_of_pressings (
    pressing_id INTEGER NOT NULL REFERENCES pressings (id) ON DELETE CASCADE,
    number INTEGER NOT NULL,
    path TEXT NOT NULL,
    replaces INTEGER NOT NULL DEFAULT 0 CHECK (replaces IN (0, 1)),
    state TEXT NOT NULL CHECK (state IN (
        'waiting', 'settling', 'making', 'reading-back', 'naming', 'named', 'left-out', 'failed', 'cancelled'
    )),
    error TEXT,
    report TEXT,
    PRIMARY KEY (pressing_id, number)
) STRICT;
INSERT INTO files_of_pressings (pressing_id, number, path, state, report)
SELECT
    pressing_id, number, coalesce(json_extract(report, '$.path'), ''),
    CASE json_extract(report, '$.verdict') WHEN 'stop' THEN 'left-out' ELSE 'named' END, report
FROM pressed_files;
DROP TABLE pressed_files;
ALTER TABLE files_of_pressings RENAME TO pressed_files;
CREATE INDEX files_by_path ON pressed_files (path);
