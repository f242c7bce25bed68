"""The pure heart: a job and its cards in, a plan out.

Nothing here reads a clock, a random source, a file (the rule-book loader excepted), a
database or a web request. Numbers are SI inside; people's units are converted at the edge.
"""
