"""The render process and what talks to it: requests go over a socket, frames come back in shared memory."""
