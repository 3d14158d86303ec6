"""Lanes: channels over time, keys as pins, spans in the shape of their own values."""
