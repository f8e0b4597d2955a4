"""Bramble, the seed-tray cart, and Pipit, the kart: rigs of an invented allotment club."""
