"""The 8-bit boards' programs: compiled, and run on a simulated chip with pins, converter, bus and
serial line.
"""
