"""Open formats in and out: lenient reading that never guesses at a value, exact writing."""
