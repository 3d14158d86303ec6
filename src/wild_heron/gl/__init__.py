"""Drawing, in a process of its own: OpenGL 3.3 through EGL, no window."""
