"""Loops that no array operation can do, since each sample needs the one before: compiled ones."""
