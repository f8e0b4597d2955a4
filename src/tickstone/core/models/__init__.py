"""Physical models of sensors: from what is true to the raw ticks a board would report.

One file for each kind of sensor. Each is a frozen dataclass of what this one part does to the
truth; noise comes from the generator that is handed in, so that a seed decides everything.
"""
