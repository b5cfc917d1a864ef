"""The queue, the run, the journal and the record of pressings."""
