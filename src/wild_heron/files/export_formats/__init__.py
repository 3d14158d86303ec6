"""The move itself for other programs: cameras, nulls, cards and models, animated, and the film's cuts.

``move`` is what all writers are handed; ``writing`` chooses one by the file's name.
"""
