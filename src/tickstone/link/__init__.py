"""The serial line: its ports, where bytes come from, and the stand-in board that ships with us."""
