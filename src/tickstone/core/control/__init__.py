"""Controllers: a loop as rigs have it, how it is tuned, and how it is judged."""
