"""Export of movies, numbered frames and single pictures, written whole or not at all.

``kinds`` says what can be written, ``job`` what is asked for, ``running`` does it; ``movies`` and ``frames`` write.
``resuming`` goes on where a job stopped, ``estimate`` tells how large it will be.
"""
