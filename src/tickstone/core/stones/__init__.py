"""The stones: what is done, and does it still hold. Pure rules, one file per stage of the work."""
