"""Understanding what a board prints: bytes to lines, lines to values, values to channels.

`splitter` cuts bytes into lines; `tokens` finds the values in one line; `shape` learns from a few
lines how they are built; `reader` reads lines with a shape and keeps what does not fit; `clock`
undoes wrapped counters; `names` takes units out of names; `guess` says what a column likely is;
`speed` tells readable text from a line opened at the wrong speed.
"""
