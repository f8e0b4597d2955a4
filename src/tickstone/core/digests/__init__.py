"""What a recording comes to, in a few figures: a file for each; kinds of sensors offer them."""
