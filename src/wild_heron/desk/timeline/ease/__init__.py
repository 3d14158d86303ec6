"""Eases: the shapes of spans, picked, drawn, typed, tried out and kept by name."""
