"""Encoders of files that other programs read."""
