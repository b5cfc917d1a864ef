CREATE TABLE blind_tests (
    id INTEGER PRIMARY KEY,
    pressing_id INTEGER REFERENCES pressings (id) ON DELETE SET NULL,
    mix_id INTEGER REFERENCES mixes (id) ON DELETE SET NULL,
    began_at TEXT NOT NULL,
    ended_at TEXT,
    state TEXT NOT NULL CHECK (state IN ('open', 'done', 'left-off')),
    trials INTEGER NOT NULL,
    seed TEXT NOT NULL,
    setting TEXT NOT NULL,
    answers TEXT NOT NULL
) STRICT;

CREATE INDEX blind_tests_of_pressings ON blind_tests (pressing_id);
CREATE INDEX blind_tests_of_mixes ON blind_tests (mix_id);
