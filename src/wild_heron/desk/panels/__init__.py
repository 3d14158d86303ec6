"""The Rig, the Depth rail and the board."""
