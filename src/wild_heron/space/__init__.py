"""Geometry: rotations, transforms, the lens, aiming and camera moves."""
