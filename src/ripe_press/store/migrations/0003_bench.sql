-- Ranges, markers and tempo map of a mix are one document, for they are edited, undone and kept together.
ALTER TABLE mixes ADD COLUMN bench TEXT NOT NULL DEFAULT '{"ranges": []}';
UPDATE mixes SET bench = json_object('ranges', json_array(
    json_object('id', 'r1', 'start_frame', start_frame, 'end_frame', end_frame, 'edges', json(edges))
));
ALTER TABLE mixes DROP COLUMN start_frame;
ALTER TABLE mixes DROP COLUMN end_frame;
ALTER TABLE mixes DROP COLUMN edges;
ALTER TABLE mixes ADD COLUMN embedded TEXT NOT NULL DEFAULT '{}';
ALTER TABLE mixes ADD COLUMN downmix TEXT NOT NULL DEFAULT '';
ALTER TABLE mixes ADD COLUMN file_channels INTEGER NOT NULL DEFAULT 0;
UPDATE mixes SET file_channels = channels;
