-- When a mix was last pressed to its end is asked for with every look at the shelf, of every mix.
DROP INDEX pressings_by_mix;
CREATE INDEX pressings_by_mix ON pressings (mix_id, state, made_at);
CREATE INDEX pressings_of_mix ON pressings (mix_id, id);
