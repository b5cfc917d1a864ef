-- The states of every kind of job have the same names.
UPDATE passes SET state = CASE state WHEN 'waiting' THEN 'queued' WHEN 'ended' THEN 'interrupted' ELSE state END;
