"""A whole rig as one zip of open files: JSON for what is known, Parquet for what was recorded.

Rows are written as they are kept, with their numbers (`writing`); brought in, they get new ones,
and whatever names a row by its number is made to follow (`reading`). What older versions wrote is
brought up to date first (`versions`), and what only the kind of a sensor can judge is judged before
anything is made (`judging`).
"""
