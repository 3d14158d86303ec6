"""A channel on screen: its field, its menu, its links and its formula."""
