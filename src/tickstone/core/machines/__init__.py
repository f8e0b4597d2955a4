"""Machines: states, what leads from one to another, and what becomes of them over a recording."""
