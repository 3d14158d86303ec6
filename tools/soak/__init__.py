"""Starts, windows and work over and over on a busy machine: what happens once in a hundred times happens here."""
