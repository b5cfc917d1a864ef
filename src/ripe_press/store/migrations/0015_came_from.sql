ALTER TABLE mixes ADD COLUMN came_from TEXT NOT NULL DEFAULT '';
UPDATE mixes SET came_from = path WHERE owned = 0;
UPDATE mix_versions SET row = json_set(row, '$.came_from', path) WHERE NOT row ->> 'owned';
