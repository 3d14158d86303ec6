"""Curves: the values of channels over time, and their speeds, shaped by keys and handles."""
