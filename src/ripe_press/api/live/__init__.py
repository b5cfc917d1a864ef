"""Routes: live passes through units of the rack."""
