"""Files that are written for other programs."""
