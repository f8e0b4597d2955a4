"""Decisions over a whole rig: what they look at, what they rest on, and what becomes of them."""
