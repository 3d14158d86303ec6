"""The depth rail: what is seen, ordered and spaced by its distance from the lens."""
