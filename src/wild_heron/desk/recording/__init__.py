"""Recording takes from a tracker or from what is dragged."""
