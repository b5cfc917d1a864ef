-- What waits has an order, what was cut off may wait for the word, and everything that was pressed can be found.
CREATE TABLE pressings_anew (
    id INTEGER PRIMARY KEY,
    mix_id INTEGER REFERENCES mixes (id) ON DELETE SET NULL,
    mix_title TEXT NOT NULL,
    mix_path TEXT NOT NULL,
    ticket TEXT NOT NULL,
    state TEXT NOT NULL CHECK (state IN ('waiting', 'running', 'cut-off', 'done', 'failed', 'cancelled')),
    error TEXT,
    made_at TEXT NOT NULL,
    ended_at TEXT,
    seconds REAL,
    times_realtime REAL,
    -- Of those that wait, the lowest is pressed next.
    place INTEGER NOT NULL DEFAULT 0,
    again_of INTEGER REFERENCES pressings_anew (id),
    -- Titles of the briefs, for reading.
    purposes TEXT NOT NULL DEFAULT '',
    -- The worst of its files.
    verdict TEXT CHECK (verdict IN ('ready', 'look', 'stop')),
    -- What it was told to take on a machine of the common speed, and by what share the time left was wrong.
    work_seconds REAL,
    off_by REAL,
    -- Names and versions of what made the bytes, as JSON.
    libraries TEXT NOT NULL DEFAULT '{}'
) STRICT;
INSERT INTO pressings_anew (
    id, mix_id, mix_title, mix_path, ticket, state, error, made_at, seconds, times_realtime, place, verdict
)
SELECT
    id, mix_id, mix_title, mix_path, ticket, state, error, made_at, seconds, times_realtime, id,
    (
        SELECT CASE max(CASE json_extract(report, '$.verdict') WHEN 'stop' THEN 3 WHEN 'look' THEN 2 ELSE 1 END)
            WHEN 3 THEN 'stop' WHEN 2 THEN 'look' WHEN 1 THEN 'ready' END
        FROM pressed_files WHERE pressing_id = pressings.id AND report IS NOT NULL
    )
FROM pressings;
CREATE TABLE files_anew (
    pressing_id INTEGER NOT NULL REFERENCES pressings_anew (id) ON DELETE CASCADE,
    number INTEGER NOT NULL,
    path TEXT NOT NULL,
    replaces INTEGER NOT NULL DEFAULT 0 CHECK (replaces IN (0, 1)),
    state TEXT NOT NULL CHECK (state IN (
        'waiting', 'settling', 'making', 'reading-back', 'naming', 'named', 'left-out', 'failed', 'cancelled'
    )),
    error TEXT,
    report TEXT,
    -- What was found of it later: as it was pressed, moved (and where to), changed, or gone.
    found TEXT CHECK (found IN ('as-pressed', 'moved', 'changed', 'gone')),
    found_path TEXT,
    found_at TEXT,
    PRIMARY KEY (pressing_id, number)
) STRICT;
INSERT INTO files_anew (pressing_id, number, path, replaces, state, error, report)
SELECT pressing_id, number, path, replaces, state, error, report FROM pressed_files;
DROP TABLE pressed_files;
DROP TABLE pressings;
ALTER TABLE pressings_anew RENAME TO pressings;
ALTER TABLE files_anew RENAME TO pressed_files;
CREATE INDEX pressings_by_mix ON pressings (mix_id, id);
CREATE INDEX pressings_in_line ON pressings (state, place);
CREATE INDEX files_by_path ON pressed_files (path);
CREATE INDEX pressings_by_verdict ON pressings (verdict, id);

-- Titles, file names, briefs, tags and checksums of every pressing, by its number.
CREATE VIRTUAL TABLE words_of_pressings USING fts5 (words, tokenize = 'trigram');
INSERT INTO words_of_pressings (rowid, words)
SELECT
    id,
    mix_title || ' ' || mix_path || ' ' || coalesce((
        SELECT group_concat(path || ' ' || coalesce(json_extract(report, '$.sha256'), ''), ' ')
        FROM pressed_files WHERE pressing_id = pressings.id
    ), '')
FROM pressings;

CREATE TABLE settings (
    name TEXT PRIMARY KEY,
    value TEXT NOT NULL
) STRICT;
