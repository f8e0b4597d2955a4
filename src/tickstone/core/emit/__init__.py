"""A stage's arithmetic once more, sample by sample, in no language: targets write it down.

`terms` is what can be computed, `code` how a stage says it, `routine` a whole chain said so,
`running` the same run here, in double or in single precision.
"""
