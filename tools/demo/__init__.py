"""The scripts that paint the demo's artwork and build its scenes: ``make artwork``. They are not part of the program."""
