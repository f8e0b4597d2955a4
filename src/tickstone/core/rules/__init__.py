"""Decisions: a file for each kind. A kind of sensor says which it offers."""
