"""The Takes tab."""
