"""Rendering with OpenGL 3.3 through EGL, without a window."""
