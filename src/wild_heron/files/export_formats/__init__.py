"""Exports the move to other programs (glTF, OpenUSD, tables, OpenTimelineIO), and imports cameras and cuts.

``move`` is what all writers are handed; ``writing`` chooses one by the file's name.
"""
