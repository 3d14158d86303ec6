"""Sound in the desk: read in the background, and played in step with the picture."""
