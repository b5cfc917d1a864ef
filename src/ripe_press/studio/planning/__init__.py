"""From a ticket to the files of a pressing."""
