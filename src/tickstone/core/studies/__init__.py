"""Planned experiments: a file for each kind; a kind of sensor offers those that are for it."""
