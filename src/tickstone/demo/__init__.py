"""Bramble, the seed-tray cart of the invented allotment club Fernhollow: made-up, seeded, noisy."""
