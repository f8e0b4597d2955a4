"""What a turn of the program costs, and when rangers may ping."""
