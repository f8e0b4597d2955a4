"""Listening to a line while it talks.

`line` reads in a thread of its own and never waits for anybody; `ring` keeps the last minute for
whoever watches; `recorder` appends to the store in another thread; `frames` makes pictures for one
page at a time and may leave pictures out, never samples; `memory` remembers how a rig's columns
belong to its sensors; `desk` holds all open lines and stand-in boards.
"""
