"""The wiring of a rig: what goes where, what is wrong with it, and in what order to make it."""
