"""What the actions do, and the one table of them."""
