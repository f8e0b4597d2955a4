"""The arithmetic of the passive parts between a device and a board."""
