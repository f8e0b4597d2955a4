"""What a reading can be held against: a file for each check; kinds of sensors offer them."""
