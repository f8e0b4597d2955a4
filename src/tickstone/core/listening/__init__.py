"""What a program that listens reads of a wired rig, in which order, and how fast it can print.

Nothing here is in any language; the targets write it down.
"""
