"""Calibration from marks: what was read under them, the fit, and what it has to say of itself."""
