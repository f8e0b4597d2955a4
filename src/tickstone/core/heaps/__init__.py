"""Heaps: what was read of each surface, how well they part, and what a threshold does to them."""
