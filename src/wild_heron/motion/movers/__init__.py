"""The maths of movers over arrays."""
