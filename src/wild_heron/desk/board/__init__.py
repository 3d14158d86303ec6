"""The board of dials."""
