"""Families of boards and devices: what is known of a kind before one is in hand."""
