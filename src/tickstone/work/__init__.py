"""The work on a stored rig: where the rules of the core meet what is kept."""
