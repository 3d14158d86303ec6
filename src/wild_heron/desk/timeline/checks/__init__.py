"""The Checks tab."""
