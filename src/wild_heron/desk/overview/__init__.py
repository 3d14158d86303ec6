"""The Overview: the set from outside."""
