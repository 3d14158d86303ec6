"""What the program is to the desktop it is installed on; ``place`` puts it there."""

ID = "org.wildheron.WildHeron"
"""What desktops call it."""
