"""Takes: reading them between their samples, and making new ones of them. No step changes the take that it is given."""
