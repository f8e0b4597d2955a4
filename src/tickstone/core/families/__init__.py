"""Sensor families: what each is called, which stages of the work it has, and its chain."""

from tickstone.core.families.catalogue import FAMILIES, Family

__all__ = ["FAMILIES", "Family"]
