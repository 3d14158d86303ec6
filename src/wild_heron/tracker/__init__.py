"""A small stand-in for a hand-held tracker: it sends what a hand does with a camera over OSC/UDP, flaws and all."""
