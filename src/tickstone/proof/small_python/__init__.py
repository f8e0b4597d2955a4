"""Small Python's programs: run by its own interpreter, with a stand-in for the board's hardware."""
