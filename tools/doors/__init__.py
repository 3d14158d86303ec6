"""What goes out, and what comes in, as readers see it that we did not write."""
