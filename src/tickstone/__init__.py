"""Tick Stone: from raw sensor ticks to a number with its working, and on to a decision."""

__version__ = "0.1.0"
