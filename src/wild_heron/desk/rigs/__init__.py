"""Building rigs: what each command asks, and the panel that asks it."""
