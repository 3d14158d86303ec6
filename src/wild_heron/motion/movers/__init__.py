"""What movers do to numbers over time, free of any scene."""
