"""The Lens: the picture through the camera, moving the camera in it, and its readings."""
