-- The states of pressings have the names of all jobs. New columns, because the old ones accept only the old names.
DROP INDEX pressings_in_line;
DROP INDEX pressings_by_mix;
ALTER TABLE pressings ADD COLUMN stage TEXT NOT NULL DEFAULT 'queued'
CHECK (stage IN ('queued', 'running', 'interrupted', 'done', 'failed', 'cancelled'));
UPDATE pressings
SET stage = CASE state WHEN 'waiting' THEN 'queued' WHEN 'cut-off' THEN 'interrupted' ELSE state END;
ALTER TABLE pressings DROP COLUMN state;
ALTER TABLE pressings RENAME COLUMN stage TO state;
CREATE INDEX pressings_in_line ON pressings (state, place);
CREATE INDEX pressings_by_mix ON pressings (mix_id, state, made_at);

DROP INDEX files_looked_for;
ALTER TABLE pressed_files ADD COLUMN stage TEXT NOT NULL DEFAULT 'queued' CHECK (stage IN (
    'queued', 'settling', 'making', 'reading-back', 'naming', 'named', 'left-out', 'failed', 'cancelled'
));
UPDATE pressed_files SET stage = CASE state WHEN 'waiting' THEN 'queued' ELSE state END;
ALTER TABLE pressed_files DROP COLUMN state;
ALTER TABLE pressed_files RENAME COLUMN stage TO state;
CREATE INDEX files_looked_for ON pressed_files (found_at) WHERE state = 'named';
