"""Routines in whole numbers."""
