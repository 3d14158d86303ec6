"""Checking the film in the background."""
